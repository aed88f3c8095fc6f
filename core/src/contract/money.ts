import { z } from "zod";
import { COST_BASES, COST_STEPS, WORK_STEPS } from "./kinds.ts";
import { Address, Fraction, Instant, Money, MoneySum, Name, ShareOf, RequestKey, Uuid, Version } from "./values.ts";

/** How long one of a step of the work takes, in seconds, with the spread (standard deviation) of single ones. */
export const WorkRate = z.strictObject({
  step: z.enum(WORK_STEPS),
  seconds: z.number().min(0, "Not below 0.").max(360_000, "At most 100 hours."),
  spread: z.number().min(0, "Not below 0.").max(360_000).default(0),
  /** How many were timed; 0 for a default. */
  n: z.int().min(0).default(0),
  from: z.enum(["default", "measured"]).default("default"),
});
export type WorkRate = z.infer<typeof WorkRate>;

/** Where a workshop begins before anybody has timed anything: common practice, no source. */
export const TRADE_RATES: readonly WorkRate[] = (
  [
    ["count", 1.5],
    ["weigh", 25],
    ["cut", 12],
    ["prepare", 8],
    ["bag", 20],
    ["label", 6],
    ["set-up", 1800],
  ] as const
).map(([step, seconds]) => ({ step, seconds, spread: 0, n: 0, from: "default" }));

/** From an order worth so much, so much less: the step with the most that is reached holds for the whole order. */
export const Discount = z.strictObject({
  from: Money,
  rate: ShareOf,
});
export type Discount = z.infer<typeof Discount>;

/** Something given free with an order worth so much. */
export const Gift = z.strictObject({
  from: Money,
  name: Name,
  /** What it costs the workshop, and what it weighs in the parcel. */
  cost: Money,
  massG: z.number().min(0).max(100_000).default(0),
});
export type Gift = z.infer<typeof Gift>;

/** Where boxes are sold. Its fees are on the price paid, tax in it. */
export const Channel = z.strictObject({
  id: Uuid,
  name: Name,
  /** A share of the price, and a fixed sum for each order. */
  feeRate: ShareOf,
  feeFixed: Money,
  /** The tax that a price holds: 0.2 is a fifth on top of the price without it. */
  taxRate: Fraction,
  discounts: z
    .array(Discount)
    .max(10, "At most 10 steps.")
    .default([])
    .refine(
      (steps) => steps.every((s, i) => i === 0 || Number(s.from) > Number(steps[i - 1]!.from)),
      "Write discounts from small orders to large.",
    ),
  gift: Gift.nullish(),
});
export type Channel = z.infer<typeof Channel>;

/** All that costs and prices go by beside the components: one record of the workshop. */
export const MoneyInput = z.strictObject({
  /** What an hour of work costs. */
  wage: Money.default("0"),
  /** Rent, light and the rest, a box. */
  overhead: Money.default("0"),
  basis: z.enum(COST_BASES).default("average"),
  rates: z
    .array(WorkRate)
    .max(WORK_STEPS.length)
    .refine((rates) => new Set(rates.map((r) => r.step)).size === rates.length, "A step is there twice.")
    .default(() => TRADE_RATES.map((r) => ({ ...r }))),
  channels: z
    .array(Channel)
    .max(20, "At most 20 channels.")
    .refine((list) => new Set(list.map((c) => c.id)).size === list.length, "A channel's id is there twice.")
    .default([]),
  /** What a price ends in, such as .50; empty: in any coin. */
  ending: z
    .string()
    .regex(/^(\.\d{1,3})?$/, "Write what comes behind the point, such as .50, or leave it empty.")
    .default(""),
  /** What the parts sell at singly, times what they cost; none: the workshop does not say it. */
  retailFactor: z.number().min(1, "At least 1.").max(100, "At most 100.").nullish(),
  /** Where parcels go, in the carrier's words; empty: posting is not in a box's cost. */
  zone: z.string().trim().max(60).default(""),
  /** How a box is posted, as the carrier calls it; empty: the cheapest that takes it. */
  service: z.string().trim().max(60).default(""),
  /** Where the carrier and the shop are reached; empty: the simulated ones. */
  carrier: Address,
  shop: Address,
  /** The share of boxes for which a buyer asks for something again. */
  claims: ShareOf.default(0.01),
  /** Boxes left over: the share that is taken apart again, and at what share of its price the rest is sold. */
  takenApart: ShareOf.default(0.5),
  sellsAt: ShareOf.default(0.5),
});
export type MoneyInput = z.infer<typeof MoneyInput>;

export const MoneyTerms = z.object({
  ...MoneyInput.shape,
  version: Version,
  /** What was made in the shop: seconds of work in one base unit, by the ledger. */
  made: z.record(Uuid, z.number()),
});
export type MoneyTerms = z.infer<typeof MoneyTerms>;

export const SaveMoney = z.strictObject({ requestKey: RequestKey.nullish(), version: Version, money: MoneyInput });

/** One line of a carrier's table: what may be sent at a price. All limits are included. */
export const Band = z.object({
  service: z.string().max(60),
  zone: z.string().max(60),
  maxG: z.number().positive(),
  maxThickMm: z.number().positive().nullish(),
  maxLongMm: z.number().positive().nullish(),
  maxWideMm: z.number().positive().nullish(),
  price: Money,
});
export type Band = z.infer<typeof Band>;

/** What a carrier sends over HTTP. */
export const CarrierRates = z.object({
  currency: z.string().regex(/^[A-Z]{3}$/),
  rates: z.array(Band).min(1).max(2000),
});

/** What posting costs, as far as it is known. */
export const Postage = z.object({
  bands: z.array(Band),
  /** When the carrier said so; null where it never did. */
  asOf: Instant.nullable(),
  /** Why the carrier could not be asked just now; null where it was. */
  fault: z.string().nullable(),
});
export type Postage = z.infer<typeof Postage>;

/** What packing really took: rates as the bench's own times say them. */
export const MeasuredRates = z.object({
  /** How many boxes were timed, one after another; what one took, and what the rates in use say of them, s. */
  boxes: z.int(),
  seconds: z.number(),
  planned: z.number(),
  spread: z.number(),
  rates: z.array(WorkRate),
});
export type MeasuredRates = z.infer<typeof MeasuredRates>;

export const StepCost = z.object({ step: z.enum(COST_STEPS), cost: MoneySum.nullable() });

export const CostAnswer = z.object({
  variants: z.array(
    z.object({
      first: Uuid,
      second: Uuid.nullable(),
      steps: z.array(StepCost),
      /** What one box costs: the sum of its steps; null with no boxes. */
      cost: MoneySum.nullable(),
    }),
  ),
});
export type CostAnswer = z.infer<typeof CostAnswer>;

/** What a run was planned to cost, frozen with its bill: rates, and each variant's steps. */
export const FrozenCost = z.object({
  currency: z.string(),
  basis: z.enum(COST_BASES),
  wage: Money,
  rates: z.array(WorkRate),
  variants: z.array(
    z.object({
      first: Uuid,
      second: Uuid.nullable(),
      /** For the run: decimal text, each the sum of its lines. */
      steps: z.array(z.object({ step: z.enum(COST_STEPS), run: MoneySum })),
      /** What its work was to take, s. */
      seconds: z.number(),
      /** What a box was to be sold at, where that was said. */
      price: Money.nullable(),
    }),
  ),
});
export type FrozenCost = z.infer<typeof FrozenCost>;

const Rate = z.union([z.number(), z.string().regex(/^-?\d{1,9}(\.\d{1,12})?$/, "Write a fraction such as 0.2.")]);

export const PriceRequest = z
  .strictObject({
    /** Without fees and tax. */
    cost: Money,
    feeRate: Rate.refine((n) => Number(n) >= 0 && Number(n) < 1, "A share of the price: from 0 to less than 1."),
    feeFixed: Money,
    taxRate: Rate.refine((n) => Number(n) >= 0 && Number(n) <= 100, "From 0 to 100: 0.2 is a fifth on top."),
    margin: Rate.nullish(),
    markup: Rate.nullish(),
    currency: z.string().regex(/^[A-Z]{3}$/, "Three capital letters, such as GBP."),
  })
  .refine((asked) => (asked.margin == null) !== (asked.markup == null), "Say either the margin or the markup.");
export type PriceRequest = z.infer<typeof PriceRequest>;

export const PriceAnswer = z.object({
  price: MoneySum,
  /** What is left of it without tax and fees, the fee, and the tax: exact decimal text. */
  net: z.string(),
  fee: z.string(),
  tax: z.string(),
  margin: z.number(),
  /** Null where the box costs nothing. */
  markup: z.number().nullable(),
});
export type PriceAnswer = z.infer<typeof PriceAnswer>;

const Sold = z.int("Write a whole number.").min(0, "Not below 0.").max(100_000, "At most 100,000.");

export const HowManyRequest = z.strictObject({
  sales: z.array(Sold).min(1, "Say what past months sold.").max(1000),
  /** What one too many costs, and one too few: decimal text. */
  over: Money,
  under: Money,
  presold: Sold.nullish(),
});
export type HowManyRequest = z.infer<typeof HowManyRequest>;

export const HowManyAnswer = z.object({
  make: z.int(),
  chanceToSellOut: z.number(),
  expectedLeft: z.number(),
  expectedShort: z.number(),
  byQuantity: z.array(z.object({ n: z.int(), profit: z.number() })),
});
export type HowManyAnswer = z.infer<typeof HowManyAnswer>;
