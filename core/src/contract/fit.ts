import { z } from "zod";
import { Measures } from "./count.ts";
import { Design } from "./design.ts";
import { FIT_RULES, READING_LEVELS } from "./kinds.ts";
import { Millimetres } from "./values.ts";

export const FitRequest = z.strictObject({
  design: Design,
  size: z.string().nullish(),
  option: z.string().nullish(),
  /** By key: what a colourway puts in place of the roles' own measures. */
  components: z.record(z.string(), Measures).nullish(),
});

/** One step of a JSON Patch (RFC 6902). */
export const PatchStep = z.object({
  op: z.enum(["add", "remove", "replace", "move", "copy", "test"]),
  path: z.string(),
  from: z.string().optional(),
  value: z.unknown().optional(),
});
export type PatchStep = z.infer<typeof PatchStep>;

/** A way out of what is wrong: in words, and as a change of the design. */
export const WayOut = z.object({ say: z.string(), change: z.array(PatchStep) });
export type WayOut = z.infer<typeof WayOut>;

/** Where a check looks, and what it compares: `need` may not be more than `have`. */
export const FitCheck = z.object({
  rule: z.enum(FIT_RULES),
  level: z.enum(["fine", "warn", "fail"]),
  /** The part's id; null where it is of the whole design. */
  part: z.string().nullable(),
  /** As in a problem of the count: the first place of the bead that it is about; null where no row names it. */
  row: z.int().nullable(),
  from: z.int().nullable(),
  to: z.int().nullable(),
  /** The key that it is about. */
  key: z.string(),
  need: z.number(),
  have: z.number(),
  unit: z.enum(["mm", "links", "pieces", "kg"]),
  /** One sentence, with the numbers. */
  message: z.string(),
});
export type FitCheck = z.infer<typeof FitCheck>;

/** What can't be checked, since a measure is missing. */
export const Unchecked = z.object({
  rule: z.enum(FIT_RULES),
  part: z.string().nullable(),
  key: z.string(),
  /** The measure's name, as a component has it. */
  missing: z.string(),
});
export type Unchecked = z.infer<typeof Unchecked>;

/** A measure that was looked at and that nobody made: taken for granted by the form or the name. */
export const Assumed = z.object({
  key: z.string(),
  /** The measure's name, as a component has it. */
  measure: z.string(),
  value: z.number(),
});
export type Assumed = z.infer<typeof Assumed>;

export const FitAnswer = z.object({
  checks: z.array(z.object({ ...FitCheck.shape, ways: z.array(WayOut) })),
  unchecked: z.array(Unchecked),
  assumed: z.array(Assumed),
});
export type FitAnswer = z.infer<typeof FitAnswer>;

/** Somebody let a finding of the checks stand; void once need grows or have shrinks. */
export const Overrule = z.object({
  rule: z.enum(FIT_RULES),
  part: z.string().nullable(),
  /** The id of the role that it is about. */
  roleId: z.string(),
  size: z.string().nullable(),
  need: z.number(),
  have: z.number(),
  note: z.string().max(500, "At most 500 characters."),
  who: z.string().max(200).default(""),
  on: z.string().max(40),
});
export type Overrule = z.infer<typeof Overrule>;

export const LengthsRequest = z.strictObject({
  design: Design,
  /** The part's id. */
  part: z.string(),
  size: z.string().nullish(),
  option: z.string().nullish(),
  targetMm: Millimetres,
});

/** One way to a length: the part's new text, and what it comes to. */
export const LengthWay = z.object({
  say: z.string(),
  steps: z.string(),
  strandMm: z.number(),
  /** What it comes to, less what is wanted, mm. */
  offMm: z.number(),
  /** By key: pieces more, or fewer where negative, in one finished item. */
  adds: z.record(z.string(), z.number()),
});
export type LengthWay = z.infer<typeof LengthWay>;

export const LengthsAnswer = z.object({ ways: z.array(LengthWay) });

export const SentencesRequest = z.strictObject({
  design: Design,
  /** The part's id. */
  part: z.string(),
  level: z.enum(READING_LEVELS),
  /** One size; all of them are told where nothing is said. */
  size: z.string().nullish(),
});

export const SentenceRow = z.object({ label: z.string().nullable(), text: z.string() });
export type SentenceRow = z.infer<typeof SentenceRow>;

export const SentencesAnswer = z.object({ rows: z.array(SentenceRow) });
