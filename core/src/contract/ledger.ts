import { z } from "zod";
import {
  Amount,
  Change,
  CutLength,
  Instant,
  Money,
  Note,
  Positive,
  Quantity,
  RequestKey,
  Stretch,
  Sum,
  Uuid,
  Written,
} from "./values.ts";

/**
 * Why stock moves. `in` adds, `out` takes, `set` sets what was counted, `across` goes from one place to another and
 * `made` turns some components into another; a `reversed` entry undoes one.
 */
export const REASONS = {
  received: { effect: "in", label: "Received" },
  returned: { effect: "in", label: "Came back" },
  "put back": { effect: "in", label: "Put back after a trial" },
  "swapped in": { effect: "in", label: "Swapped in" },
  counted: { effect: "set", label: "Counted" },
  used: { effect: "out", label: "Used" },
  tried: { effect: "out", label: "Taken to try" },
  broken: { effect: "out", label: "Broken or lost" },
  given: { effect: "out", label: "Given away" },
  "swapped out": { effect: "out", label: "Swapped out" },
  "sent back": { effect: "out", label: "Sent back" },
  cut: { effect: "cut", label: "Cut" },
  moved: { effect: "across", label: "Moved" },
  "held back": { effect: "across", label: "Held back" },
  made: { effect: "made", label: "Made" },
  reversed: { effect: "reversed", label: "Reversed" },
} as const;

export type Reason = keyof typeof REASONS;

export const REASON_NAMES = Object.keys(REASONS) as [Reason, ...Reason[]];

/** What a reason does to the stock. */
export type Effect = (typeof REASONS)[Reason]["effect"];

type Going<W extends Effect> = { [R in Reason]: (typeof REASONS)[R]["effect"] extends W ? R : never }[Reason];

export const reasonsGoing = <W extends Effect>(...effects: W[]) =>
  REASON_NAMES.filter((r) => (effects as Effect[]).includes(REASONS[r].effect)) as [Going<W>, ...Going<W>[]];

/** Where exactly: the place, the lot by its name, and for what is kept by length, how long a piece. */
const Where = {
  place: Uuid.nullish(),
  lot: z.string().trim().max(40, "A lot has at most 40 characters.").default(""),
  /** Kept by length: how long each piece is. */
  stretchMm: Stretch.nullish(),
};

/** One move of one component. Quantities are in the base unit; pieces of a length for what is kept by length. */
export const StockEntry = z.discriminatedUnion("kind", [
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.enum(reasonsGoing("in", "out")),
    quantity: Amount.positive("More than 0."),
    /** What came cost in all, in the home currency. */
    cost: Money.nullish(),
    /** Standard uncertainty of the quantity. */
    u: Quantity.nullish(),
    /** Where more is used than the book holds: count it up to what is used first. */
    countFirst: z.boolean().default(false),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("counted"),
    quantity: Amount,
    u: Quantity.default(0),
    /** How it was counted, as read: by hand, or weighed with these readings. */
    entered: z.string().max(2000).default(""),
    /** What was learnt of a piece, remembered with the lot. */
    unitMass: z
      .strictObject({ g: Positive, u: z.number().min(0), sd: z.number().min(0).nullable(), pieces: z.int().min(1) })
      .nullish(),
    tareG: z.number().min(0).max(1e6).nullish(),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.enum(reasonsGoing("across")),
    quantity: Amount.positive("More than 0."),
    to: Uuid,
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("cut"),
    /** The length that is used, each, and how many; what is left of each stretch is kept as an offcut. */
    cutMm: CutLength,
    count: z.int("Write a whole number.").min(1).max(100_000),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("made"),
    quantity: Amount.positive("More than 0."),
    minutes: z.number().min(0).max(100_000).nullish(),
    from: z
      .array(z.strictObject({ component: Uuid, quantity: Amount.positive("More than 0.") }))
      .min(1, "Say what it was made of.")
      .max(50),
  }),
]);
export type StockEntry = z.input<typeof StockEntry>;

export const Reverse = z.strictObject({ requestKey: RequestKey, person: Uuid.nullish(), note: Note.default("") });

export const Movement = z.object({
  id: z.string(),
  entry: z.string(),
  kind: z.enum(REASON_NAMES),
  at: z.string(),
  person: z.string().nullable(),
  note: z.string(),
  place: z.string(),
  lot: z.string(),
  stretchMm: z.number().nullable(),
  /** In the base unit; pieces for what is kept by length. */
  quantity: z.number(),
  counted: z.number().nullable(),
  u: z.number(),
  /** How much of the component there was after it, in the base unit. */
  balance: z.number(),
  value: z.string(),
  entered: z.string(),
  /** Whether the whole entry can still be reversed. */
  reversible: z.boolean(),
});
export type Movement = z.infer<typeof Movement>;

/** So much of a component at one place, of one lot, in pieces of one length. */
export const Balance = z.object({
  place: Uuid,
  placeCode: z.string(),
  held: z.boolean(),
  lot: z.string(),
  stretchMm: z.number().nullable(),
  quantity: z.number(),
  u: z.number(),
  tareG: z.number().nullable(),
  /** A piece of this lot as weighed: mean, its standard uncertainty, spread of single pieces, pieces weighed. */
  unitMass: z.object({ g: z.number(), u: z.number(), sd: z.number().nullable(), pieces: z.int() }).nullable(),
});
export type Balance = z.infer<typeof Balance>;

/** The ledger as it is written out and read in: one line a movement, entries' own columns repeated. */
export const LedgerLine = z.strictObject({
  requestKey: Uuid,
  at: Instant,
  kind: z.enum(REASON_NAMES),
  person: Uuid.nullish(),
  note: z.string().max(500),
  reverses: Uuid.nullish(),
  minutes: z.number().min(0).nullish(),
  component: Uuid,
  place: Uuid,
  lot: z.string().max(40),
  stretchMm: Stretch.nullish(),
  quantity: Change,
  counted: Sum.nullish(),
  u: Quantity,
  /** Variance of what the spot holds after it. */
  varianceAfter: z.number().min(0),
  value: z.string().regex(/^-?\d{1,24}(\.\d{1,8})?$/, "Write an amount such as -4.20."),
  cost: z
    .string()
    .regex(/^\d{1,24}(\.\d{1,8})?$/, "Write an amount such as 4.20.")
    .nullish(),
  entered: z.string().max(2000),
  /** How much of the component there was after it; archives before version 3 leave it out. */
  balance: Sum.nullish(),
  /** The order line that it was a delivery of, or takes back. */
  orderLine: Uuid.nullish(),
  /** The run that it happened for, and the need of it that it is used for or stands in for. */
  run: Uuid.nullish(),
  need: Uuid.nullish(),
});
export type LedgerLine = z.infer<typeof LedgerLine>;

/** The books held against the ledger: what every jar should hold by the sum of its movements, and what it says. */
export const Books = z.object({
  checkedAt: Instant,
  movements: z.int(),
  components: z.int(),
  /** In the base unit; none, if the books are right. */
  differ: z.array(
    z.object({ component: Uuid, code: z.string(), name: z.string(), ledger: z.number(), balance: z.number() }),
  ),
});
export type Books = z.infer<typeof Books>;
