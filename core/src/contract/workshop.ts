import { z } from "zod";
import { Currency, Name, Uuid } from "./values.ts";

export const Person = z.strictObject({ id: Uuid, name: Name });

export const Supplier = z.strictObject({ id: Uuid, name: Name, leadDays: z.int().min(0).max(730).nullish() });

export const Place = z.strictObject({
  id: Uuid,
  code: z
    .string()
    .trim()
    .min(1, "Give it a code.")
    .max(20, "At most 20 characters.")
    .regex(/^[\p{L}\p{N}._-]+$/u, "Letters, digits and . _ - without spaces."),
  name: Name,
  /** What stands here is held back: on hand, but not free. */
  held: z.boolean().default(false),
});

/** The people, suppliers and places of a workshop, edited as one short list each. */
export const Rooms = z.strictObject({
  people: z.array(Person).max(200),
  suppliers: z.array(Supplier).max(2000),
  places: z.array(Place).min(1).max(2000),
});
export type Rooms = z.infer<typeof Rooms>;
export type Place = z.infer<typeof Place>;

/** `publicAddress` is where others reach this workshop (https://…), printed on labels; empty where nobody does. */
export const Workshop = z.object({
  name: Name,
  currency: Currency,
  publicAddress: z
    .string()
    .trim()
    .regex(
      /^(https?:\/\/[^\s/]+(\/[^\s]*)?)?$/,
      "Write an address such as http://192.168.1.20:4321, or leave it empty.",
    )
    .max(200)
    .default(""),
});
export type Workshop = z.infer<typeof Workshop>;
