import { z } from "zod";
import { Component } from "./component.ts";
import { Balance, Movement } from "./ledger.ts";
import { Reservation } from "./reservation.ts";
import { Uuid } from "./values.ts";

export const DueLine = z.object({
  order: Uuid,
  number: z.string(),
  supplier: z.string(),
  due: z.string().nullable(),
  quantity: z.number(),
});

export const ComponentDetail = z.object({
  component: Component,
  balances: z.array(Balance),
  movements: z.array(Movement),
  /** Whether there are older movements than those listed. */
  older: z.boolean(),
  setAside: z.array(Reservation),
  due: z.array(DueLine),
});
export type ComponentDetail = z.infer<typeof ComponentDetail>;
