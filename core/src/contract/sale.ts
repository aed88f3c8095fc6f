import { z } from "zod";
import { Day, Instant, Money, MoneySum, Month, Name, Uuid } from "./values.ts";

const Said = z.string().trim().max(200, "At most 200 characters.");

/** One line of an order that a buyer placed, or what came back of it: the same source, order and line is the same. */
export const Sale = z.strictObject({
  /** Who says so: the name of a shop, or of a file's channel. */
  source: z.string().trim().min(1, "Say which shop it is from.").max(60, "At most 60 characters."),
  order: z.string().trim().min(1, "Give the order's number.").max(80, "At most 80 characters."),
  line: z.string().trim().max(80, "At most 80 characters.").default(""),
  kind: z.enum(["sale", "return"]).default("sale"),
  day: Day,
  /** Which box: its month and theme, as the shop calls them. */
  month: Month,
  theme: Name,
  /** What the buyer chose; empty where nobody knows. */
  colourway: Said.default(""),
  second: Said.default(""),
  quantity: z.int("Write a whole number.").min(1, "At least 1.").max(100_000, "At most 100,000."),
  /** For all of the line, tax in it. */
  paid: Money.nullish(),
  /** How many of the box were on sale in all, as far as the source says it. */
  offered: z.int("Write a whole number.").min(0).max(1_000_000).nullish(),
  /** The box and its variant here; none where there is no such box, or the choice is not known. */
  box: Uuid.nullish(),
  variant: Uuid.nullish(),
});
export type Sale = z.infer<typeof Sale>;

/** What was sold of one box. */
export const SoldMonth = z.object({
  month: Month,
  theme: z.string(),
  box: Uuid.nullable(),
  /** Sold, less what came back. */
  sold: z.int(),
  returned: z.int(),
  /** Sold before the box's month began, less what came back. */
  presold: z.int(),
  /** How many there were to sell: by the shop, else as many as the box has; null where nobody knows. */
  made: z.int().nullable(),
  /** All that there were are sold: its demand may have been more. */
  soldOut: z.boolean(),
  /** It is a box here that has not gone out yet: more of it may be sold. */
  open: z.boolean(),
  /** What buyers paid, less what they got back: decimal text. */
  paid: MoneySum.nullable(),
  colourways: z.array(z.object({ colourway: z.string(), second: z.string(), sold: z.int() })),
});
export type SoldMonth = z.infer<typeof SoldMonth>;

/** Sales of all months, the oldest first. */
export const SoldMonths = z.object({ months: z.array(SoldMonth), asOf: Instant.nullable() });
export type SoldMonths = z.infer<typeof SoldMonths>;

/** Every line that was sold, and the boxes here that they may be of: what a table of sales is held against. */
export const KnownSales = z.object({
  sales: z.array(Sale),
  boxes: z.array(
    z.object({
      id: Uuid,
      month: Month,
      theme: z.string(),
      variants: z.array(z.object({ id: Uuid, first: z.string(), second: z.string() })),
    }),
  ),
});

/** A box that went out, or is packed in part: what was planned and what came of it. */
export const LookedBack = z.object({
  box: Uuid,
  month: Month,
  theme: z.string(),
  state: z.string(),
  /** Boxes by the bill, and those that were packed. */
  boxes: z.int(),
  packed: z.int(),
  variants: z.array(
    z.object({
      name: z.string(),
      boxes: z.int(),
      packed: z.int(),
      sold: z.int(),
      /** For the packed boxes: parts as the bill said, and as they were used, broken ones with them. */
      planned: MoneySum,
      real: MoneySum,
      /** Minutes of packing, by the rates then, and by the times at the bench; null where nobody timed them. */
      plannedMinutes: z.number(),
      realMinutes: z.number().nullable(),
      /** How many of its boxes stand in those times. */
      timed: z.int(),
    }),
  ),
  sold: z.int(),
  /** The component whose cost strayed most from the bill: above 0 where it cost more. */
  worst: z.object({ component: z.string(), more: z.string() }).nullable(),
});
export type LookedBack = z.infer<typeof LookedBack>;
