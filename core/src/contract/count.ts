import { z } from "zod";
import { Design } from "./design.ts";
import { CAUTIONS } from "./kinds.ts";
import { Millimetres, Positive } from "./values.ts";

/**
 * What a colourway puts in place of a role's own measures. The count reads sizes along the thread, holes and links; the
 * checks read the rest.
 */
export const Measures = z.strictObject({
  alongMm: Millimetres.nullish(),
  acrossMm: Millimetres.nullish(),
  heightMm: Millimetres.nullish(),
  holeMm: Millimetres.nullish(),
  holes: z.int().min(1).max(50).nullish(),
  linkMm: Millimetres.nullish(),
  coilMm: Millimetres.nullish(),
  diameterMm: Millimetres.nullish(),
  lengthMm: Millimetres.nullish(),
  innerMm: Millimetres.nullish(),
  thickMm: Millimetres.nullish(),
  breakKg: Positive.nullish(),
  massG: Positive.nullish(),
  perGram: Positive.nullish(),
  perGramU: z.number().min(0).max(1e6).nullish(),
  spreadMm: z.number().min(0).max(1000).nullish(),
  soft: z.number().positive().max(1).nullish(),
  form: z.string().max(40).nullish(),
  size: z.string().max(20).nullish(),
  material: z.string().max(40).nullish(),
  cautions: z.array(z.enum(CAUTIONS)).max(CAUTIONS.length).nullish(),
});
export type Measures = z.infer<typeof Measures>;

export const CountRequest = z.strictObject({
  design: Design,
  size: z.string().nullish(),
  option: z.string().nullish(),
  components: z.record(z.string(), Measures).nullish(),
  /** Also what a kit must hold that serves every size and option. */
  kit: z.boolean().nullish(),
});

export const Problem = z.object({
  /** An error is counted around; a warning is counted as written. */
  level: z.enum(["error", "warning"]),
  /** The part's id; null where it is of the whole design. */
  part: z.string().nullable(),
  /** Line of the part's text as typed, from 1; null where it is of no row. */
  row: z.int().nullable(),
  /** Column on that line where it begins, from 0. */
  from: z.int().nullable(),
  /** Column on that line where it ends, not included. */
  to: z.int().nullable(),
  /** What was expected, and how to mend it. */
  message: z.string(),
});
export type Problem = z.infer<typeof Problem>;

const Counts = z.record(z.string(), z.number());

export const Piece = z.object({ mm: z.number(), count: z.number() });
export type Piece = z.infer<typeof Piece>;

export const PartAnswer = z.object({
  /** The part's id. */
  id: z.string(),
  /** How long it comes out, mm. */
  strandMm: z.number(),
  /** How far the thread travels in one of it, mm, without take-up and tails. */
  pathMm: z.number(),
  /** Whole repeats of its `to`, per half in a mirror; links of a `skip to`; null without one. */
  repeats: z.number().nullable(),
  /** The target less the strand, mm: negative where the fill runs over; null without a target. */
  leftoverMm: z.number().nullable(),
  /** Links of chain in one of it. */
  links: z.number(),
  /** How far the deepest thing hung in it reaches below it, mm. */
  hangMm: z.number(),
  /** By key: the most strands that the busiest hole must take at the least. */
  passes: Counts,
});
export type PartAnswer = z.infer<typeof PartAnswer>;

const Pieces = z.record(z.string(), z.array(Piece));

/** What a kit must hold that serves every size and option. */
export const KitAnswer = z.object({ counts: Counts, perKit: Counts, pieces: Pieces, lengthsMm: Counts });
export type KitAnswer = z.infer<typeof KitAnswer>;

/** The answer of `count`: per finished item, sub-assemblies and mixes resolved. */
export const Answer = z.object({
  /** The size that was counted; null where there is one. */
  size: z.string().nullable(),
  /** The option that was counted; null where there is none. */
  option: z.string().nullable(),
  /** By key: pieces in one finished item; roles of which there are 0 are left out. */
  counts: Counts,
  /** By key: the least of a role, where a range such as 7-8s makes it differ from `counts`. */
  countsLeast: Counts,
  /** By key: pieces once in a kit, however many it makes. */
  perKit: Counts,
  /** By key of what is cut: all its pieces together, mm. */
  lengthsMm: Counts,
  /** By key of what is cut: its pieces, equal ones together, the longest first. */
  pieces: Pieces,
  /** By key: what is cut from what other cuts leave, never taken from stock. */
  offcuts: Pieces,
  /** Every part that exists in this option, sub-assemblies too. */
  parts: z.array(PartAnswer),
  /** What is wrong, each in its place. */
  problems: z.array(Problem),
});
export type Answer = z.infer<typeof Answer>;

/** The answer over the wire: with the kit where it was asked for. */
export const CountAnswer = Answer.extend({ kit: KitAnswer.optional() });
export type CountAnswer = z.infer<typeof CountAnswer>;
