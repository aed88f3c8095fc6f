import { z } from "zod";
import {
  Amount,
  canBeSeen,
  Currency,
  Day,
  Money,
  Name,
  Note,
  Rate,
  RequestKey,
  Stretch,
  unique,
  Uuid,
  Version,
  Written,
} from "./values.ts";

export const OrderLine = z.strictObject({
  id: Uuid,
  component: Uuid,
  pack: Name,
  packs: z.int("Write a whole number of packs.").min(1, "At least 1.").max(1e6),
  /** In the component's base unit, all packs together. */
  quantity: Amount.positive("More than 0."),
  /** For all packs, in the order's currency. */
  price: Money,
  due: Day.nullish(),
  /** What is kept by length: how long each piece comes; none: as long as a pack. */
  pieceMm: Stretch.nullish(),
});

export const OrderInput = z.strictObject({
  supplier: Uuid,
  number: z
    .string()
    .trim()
    .min(1, "Give it a number.")
    .max(200, "A number has at most 200 characters.")
    .refine((text) => text === "" || canBeSeen(text), "Give it a number that can be seen."),
  placedOn: Day,
  currency: Currency,
  /** One of the order's currency in the home currency. */
  rate: Rate,
  note: Note.default(""),
  lines: z
    .array(OrderLine)
    .min(1, "An order has at least one line.")
    .max(500)
    .superRefine(unique((l) => l.id, "id", "This line is there twice.")),
});

export const Order = z.object({
  ...OrderInput.shape,
  id: Uuid,
  version: Version,
  received: z.record(Uuid, z.number()),
  /** Which box speaks for what is still to come on a line, in the base unit. */
  spoken: z.array(z.object({ line: Uuid, box: Uuid, quantity: z.number() })),
});
export type Order = z.infer<typeof Order>;
export type OrderInput = z.infer<typeof OrderInput>;

export const SaveOrder = z.strictObject({ requestKey: RequestKey.nullish(), version: Version, order: OrderInput });

/** A delivery: some lines of an order, in full or in part, with what freight and duty cost. */
export const Delivery = z.strictObject({
  ...Written,
  /** The order's version that was seen: where it says something else now, nothing is received. */
  version: Version.nullish(),
  place: Uuid.nullish(),
  lines: z
    .array(
      z.strictObject({
        line: Uuid,
        quantity: Amount.positive("More than 0."),
        lot: z.string().trim().max(40).default(""),
      }),
    )
    .min(1, "Say what came.")
    .max(500),
  /** Freight and duty in the order's currency, shared over the delivery by value or by mass. */
  freight: Money.default("0"),
  duty: Money.default("0"),
  shareBy: z.enum(["value", "mass"]).default("value"),
});
export type Delivery = z.input<typeof Delivery>;
