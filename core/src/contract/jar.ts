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

/** A committed box that speaks for some of it, in stock or on an order that is still to come. */
export const SpokenBy = z.object({
  box: Uuid,
  theme: z.string(),
  month: z.string(),
  packBy: z.string(),
  /** The order that brings it; null for what is in stock. */
  order: Uuid.nullable(),
  quantity: z.number(),
});
export type SpokenBy = z.infer<typeof SpokenBy>;

export const ComponentDetail = z.object({
  component: Component,
  balances: z.array(Balance),
  movements: z.array(Movement),
  /** Whether there are older movements than those listed. */
  older: z.boolean(),
  /** Set aside by hand. */
  setAside: z.array(Reservation),
  spokenBy: z.array(SpokenBy),
  due: z.array(DueLine),
});
export type ComponentDetail = z.infer<typeof ComponentDetail>;
