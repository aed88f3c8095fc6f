import { z } from "zod";
import { keyFault } from "../shorthand/index.ts";
import { Colour, Count, Fraction, LocalId, Millimetres, MillimetresOrNone, Name } from "./values.ts";

export const RoleKey = z.string().superRefine((key, ctx) => {
  const fault = keyFault(key);
  if (fault) ctx.addIssue({ code: "custom", message: fault });
});

const SizeKey = z
  .string()
  .regex(/^[^\s(){}[\]#:|,]{1,20}$/, "A size's key is 1 to 20 characters without spaces, brackets or : | , #.");

export const ROLE_KINDS = ["bead", "focal", "finding", "stringing", "consumable", "packaging", "mix"] as const;

export const SHAPES = [
  "seed",
  "cylinder",
  "round",
  "bicone",
  "rondelle",
  "cube",
  "drop",
  "dagger",
  "chip",
  "tube",
  "disc",
  "two-hole",
  "bar",
] as const;

export const FINISHES = ["opaque", "matt", "clear", "lustre", "iridescent", "metal", "pearl"] as const;

export type Shape = (typeof SHAPES)[number];

export type Finish = (typeof FINISHES)[number];

export const Use = z.strictObject({ key: RoleKey, count: Count });
export type Use = z.infer<typeof Use>;

export const KeyEntry = z.strictObject({
  /** What is written in the rows: A, s, TH. */
  key: RoleKey,
  /** Stays when the key is renamed: colourways and trials refer to it. The key itself where there is none. */
  id: LocalId.nullish(),
  name: Name,
  kind: z.enum(ROLE_KINDS),
  shape: z.enum(SHAPES).nullish(),
  /** For the picture, #rrggbb; by its name where there is none. */
  colour: Colour.nullish(),
  finish: z.enum(FINISHES).nullish(),
  /** Size along the thread, mm: what it adds to a strand. */
  alongMm: Millimetres.nullish(),
  /** Size across the thread, mm, for the picture. */
  acrossMm: Millimetres.nullish(),
  /** Width of the hole, mm. */
  holeMm: Millimetres.nullish(),
  /** Of chain: how long one link is, mm. A stringing role with it is chain. */
  linkMm: Millimetres.nullish(),
  /** Of chain: links that each cut destroys. */
  lossLinks: z.int().min(0).max(100).nullish(),
  /** Of memory wire: how long one turn is, mm. */
  coilMm: Millimetres.nullish(),
  /** One-sided, slanted or left and right: the second of a pair is made mirrored. */
  handed: z.boolean().nullish(),
  /** What hanging one of it takes: a jump ring, say. */
  hangsBy: z.array(Use).max(50).nullish(),
  /** Of a mix: its members with their shares, made to add up to 1. */
  mix: z
    .array(z.strictObject({ key: RoleKey, share: z.number().positive("A share is more than 0.").max(100_000) }))
    .max(50)
    .nullish(),
});
export type KeyEntry = z.infer<typeof KeyEntry>;

export const Cut = z
  .strictObject({
    key: RoleKey,
    count: Count,
    mm: Millimetres.nullish(),
    links: Count.nullish(),
    coils: z.number().positive().max(1000).nullish(),
  })
  .refine((cut) => [cut.mm, cut.links, cut.coils].filter((x) => x != null).length === 1, {
    message: "A cut has one of mm, links or coils.",
  });
export type Cut = z.infer<typeof Cut>;

export const Part = z.strictObject({
  /** Stays when the part is renamed. */
  id: LocalId,
  name: Name,
  /** How many of it one finished item needs: 2 of a pair. 1 where nothing is said. */
  makes: Count.nullish(),
  /** Its key, where it is a sub-assembly: then it is used by that key and not counted on its own. */
  as: RoleKey.nullish(),
  /** Of a sub-assembly: its length on a strand, mm; its own strand length where nothing is said. */
  alongMm: Millimetres.nullish(),
  /** Of a sub-assembly: what hanging one of it takes. */
  hangsBy: z.array(Use).max(50).nullish(),
  /** The options in which it exists; all of them where nothing is said. */
  options: z.array(SizeKey).max(20).nullish(),
  /** Strands side by side. 1 where nothing is said. */
  strands: z.int().min(1, "At least 1.").max(100, "At most 100.").nullish(),
  /** Each cut is bent double and gives two strands. */
  folded: z.boolean().nullish(),
  /** The key of the role that it is strung on. */
  stringing: RoleKey.nullish(),
  /** Fixed length of one cut, mm; computed where nothing is said. */
  cutMm: Millimetres.nullish(),
  /** Length of each of a cut's two tails, mm. */
  tailMm: MillimetresOrNone.nullish(),
  /** What the stitches take of the thread beside its path, as a share of it: 0.1 is a tenth. */
  takeUp: Fraction.nullish(),
  /** How often the whole path is gone again: 1 is once more. */
  reinforce: Fraction.nullish(),
  /** What `to length` reaches for, mm: one length, or one a size. */
  targetMm: z.union([Millimetres, z.record(SizeKey, Millimetres)]).nullish(),
  /** Its rows, in strand shorthand. */
  steps: z.string().max(20_000, "A part's text has at most 20,000 characters.").nullish(),
  /** Findings that the rows don't name, for one of this part. */
  uses: z.array(Use).max(200).nullish(),
  /** Lengths cut for one of this part, beside what it is strung on. */
  cuts: z.array(Cut).max(200).nullish(),
});
export type Part = z.infer<typeof Part>;

export const DESIGN_KINDS = ["bracelet", "necklace", "earrings", "pendant", "ring", "key fob", "other"] as const;

export const TECHNIQUES = ["strung", "stitched", "wired", "braided", "knotted", "chain", "glued"] as const;

export const LEVELS = ["easy", "medium", "hard"] as const;

/** The design file, `*.jarcount.json`, version 1. */
export const Design = z
  .strictObject({
    format: z.literal("jar-count/design", "This is not a Jar Count design file."),
    version: z.literal(1, "Only version 1 of the design file can be read."),
    name: Name,
    /** What it is, for finding it again. */
    about: z
      .strictObject({
        kind: z.enum(DESIGN_KINDS).nullish(),
        technique: z.enum(TECHNIQUES).nullish(),
        level: z.enum(LEVELS).nullish(),
      })
      .nullish(),
    /** Minutes at the bench for one item. */
    minutes: z.number().min(0, "Not below 0.").max(10_000, "At most 10,000 minutes.").nullish(),
    sizes: z
      .array(z.strictObject({ key: SizeKey, label: Name.nullish(), bodyMm: Millimetres.nullish() }))
      .max(20)
      .nullish(),
    options: z
      .array(z.strictObject({ key: SizeKey, label: Name.nullish() }))
      .max(20)
      .nullish(),
    key: z.array(KeyEntry).max(500),
    parts: z.array(Part).max(200, "A design has at most 200 parts."),
    uses: z
      .array(z.strictObject({ ...Use.shape, per: z.enum(["item", "kit"]).nullish() }))
      .max(200)
      .nullish(),
  })
  .superRefine((design, ctx) => {
    const refuseTwice = (
      path: string,
      values: (string | null | undefined)[],
      say: (value: string) => string,
      field: string,
    ) => {
      const seen = new Set<string>();
      values.forEach((value, i) => {
        if (value == null) return;
        if (seen.has(value)) ctx.addIssue({ code: "custom", path: [path, i, field], message: say(value) });
        seen.add(value);
      });
    };
    refuseTwice(
      "sizes",
      (design.sizes ?? []).map((s) => s.key),
      (k) => `Size ${k} is there twice.`,
      "key",
    );
    refuseTwice(
      "options",
      (design.options ?? []).map((o) => o.key),
      (k) => `Option ${k} is there twice.`,
      "key",
    );
    refuseTwice(
      "key",
      design.key.map((e) => e.key),
      (k) => `Key ${k} is there twice; each bead needs its own.`,
      "key",
    );
    refuseTwice(
      "key",
      design.key.map((e) => e.id ?? e.key),
      (id) => `Two roles have the id ${id}.`,
      "id",
    );
    refuseTwice(
      "parts",
      design.parts.map((p) => p.id),
      (id) => `Two parts have the id ${id}.`,
      "id",
    );
    refuseTwice(
      "parts",
      design.parts.map((p) => p.as),
      (k) => `Two sub-assemblies are called ${k}.`,
      "as",
    );
    const options = new Set((design.options ?? []).map((o) => o.key));
    design.parts.forEach((part, i) =>
      part.options?.forEach((option, j) => {
        if (!options.has(option)) {
          ctx.addIssue({ code: "custom", path: ["parts", i, "options", j], message: `There is no option ${option}.` });
        }
      }),
    );
  });
export type Design = z.infer<typeof Design>;

/** A stable name for a role: its id, else its key. */
export const roleId = (entry: Pick<KeyEntry, "id" | "key">) => entry.id ?? entry.key;
