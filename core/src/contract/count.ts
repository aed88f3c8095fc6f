import { z } from "zod";
import { Design } from "./design.ts";
import { Millimetres } from "./values.ts";

/** What a colourway puts in place of a role's own measures. */
export const Measures = z.strictObject({
  alongMm: Millimetres.nullish(),
  holeMm: Millimetres.nullish(),
  linkMm: Millimetres.nullish(),
});
export type Measures = z.infer<typeof Measures>;

export const CountRequest = z.strictObject({
  design: Design,
  size: z.string().nullish(),
  option: z.string().nullish(),
  components: z.record(z.string(), Measures).nullish(),
});

export const Problem = z.object({
  level: z.enum(["error", "warning"]),
  part: z.string().nullable(),
  row: z.int().nullable(),
  from: z.int().nullable(),
  to: z.int().nullable(),
  message: z.string(),
});
export type Problem = z.infer<typeof Problem>;

const Counts = z.record(z.string(), z.number());

export const Piece = z.object({ mm: z.number(), count: z.number() });
export type Piece = z.infer<typeof Piece>;

export const PartAnswer = z.object({
  id: z.string(),
  strandMm: z.number(),
  pathMm: z.number(),
  repeats: z.number().nullable(),
  leftoverMm: z.number().nullable(),
  links: z.number(),
  passes: Counts,
});
export type PartAnswer = z.infer<typeof PartAnswer>;

/** The answer of `count`: per finished item, sub-assemblies and mixes resolved. */
export const Answer = z.object({
  size: z.string().nullable(),
  option: z.string().nullable(),
  counts: Counts,
  perKit: Counts,
  lengthsMm: Counts,
  pieces: z.record(z.string(), z.array(Piece)),
  parts: z.array(PartAnswer),
  problems: z.array(Problem),
});
export type Answer = z.infer<typeof Answer>;
