import { z } from "zod";
import { BASE_UNITS, COMPONENT_KINDS, FORMS } from "./kinds.ts";
import { Fraction, Money, Name } from "./values.ts";

/** How many more, in what is counted: pieces, or cuts of what is kept by length; grams where nothing can be counted. */
const More = z.number().min(0, "Not below 0.").max(100_000, "At most 100,000.");

/**
 * A rule of how much is put in to spare. What it does not name fits it; the first rule that fits wins. What it gives is
 * `add` pieces and `part` of what is in the bag, together, rounded up in each box.
 */
export const SpareRule = z.strictObject({
  id: z.string().min(1).max(60),
  /** What it does, in the words under which a count names it. */
  name: Name,
  kinds: z
    .array(z.enum(COMPONENT_KINDS as [(typeof COMPONENT_KINDS)[number]]))
    .max(20)
    .default([]),
  forms: z.array(z.enum(FORMS)).max(FORMS.length).default([]),
  /** As the trade says them: 11/0, 6 mm. */
  sizes: z.array(z.string().trim().min(1).max(20)).max(20).default([]),
  units: z.array(z.enum(BASE_UNITS)).max(3).default([]),
  /** Only what closes a size (`fill` in a design). */
  closes: z.boolean().default(false),
  /** How many are in the bag, both included; of what is cut, how many pieces. */
  from: More.nullish(),
  to: More.nullish(),
  /** What a piece, a gram or a millimetre costs, in the home currency, both included. */
  costFrom: Money.nullish(),
  costTo: Money.nullish(),
  /** Only what costs more apiece than this part of the box's material, by first offers, else as paid last. */
  shareOver: Fraction.nullish(),
  add: More.default(0),
  part: Fraction.default(0),
});
export type SpareRule = z.infer<typeof SpareRule>;

/** Where a rule begins: it fits everything and gives nothing. */
export const EMPTY_RULE: Omit<SpareRule, "id" | "name"> = {
  kinds: [],
  forms: [],
  sizes: [],
  units: [],
  closes: false,
  from: null,
  to: null,
  costFrom: null,
  costTo: null,
  shareOver: null,
  add: 0,
  part: 0,
};

/** What the trade usually puts in (common practice, no source): what a workshop begins with and may change. */
export const TRADE_SPARES: readonly SpareRule[] = [
  { id: "packaging", name: "no packaging to spare", kinds: ["packaging"] },
  { id: "needle", name: "a second needle", forms: ["needle" as const], add: 1 },
  { id: "closing", name: "two more of what closes a size", closes: true, units: ["piece" as const], add: 2 },
  { id: "grams", name: "a tenth over by weight", kinds: ["bead" as const], units: ["g" as const], part: 0.1 },
  {
    id: "crimps",
    name: "two more crimps and covers",
    forms: ["crimp tube" as const, "crimp bead" as const, "crimp cover" as const],
    add: 2,
  },
  { id: "focal", name: "no second pendant or focal", kinds: ["focal" as const] },
  { id: "clasp", name: "no second clasp", forms: ["clasp" as const] },
  {
    id: "dear",
    name: "none of what costs over a tenth of the box",
    kinds: ["bead" as const, "finding" as const],
    units: ["piece" as const],
    shareOver: 0.1,
  },
  {
    id: "one",
    name: "one more of up to 25",
    kinds: ["bead" as const, "finding" as const],
    units: ["piece" as const],
    to: 25,
    add: 1,
  },
  {
    id: "two",
    name: "two more of 26 and over",
    kinds: ["bead" as const, "finding" as const],
    units: ["piece" as const],
    from: 26,
    add: 2,
  },
].map((rule) => ({ ...EMPTY_RULE, ...rule }) as SpareRule);
