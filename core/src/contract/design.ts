import { z } from "zod";
import { keyFault } from "../shorthand/index.ts";
import { FINISHES, LEVELS, ROLE_KINDS, SHAPES } from "./kinds.ts";
import { freeNewWords } from "./oldDesign.ts";
import { Colour, Count, Fraction, LocalId, Millimetres, MillimetresOrNone, Name, Uuid } from "./values.ts";

export const RoleKey = z.string().superRefine((key, ctx) => {
  const fault = keyFault(key);
  if (fault) ctx.addIssue({ code: "custom", message: fault });
});

const SizeKey = z
  .string()
  .regex(/^[^\s(){}[\]#:|,]{1,20}$/, "A size's key is 1 to 20 characters without spaces, brackets or : | , #.");

/** One number for every size, or one a size. */
const sized = <T extends z.ZodType>(one: T) => z.union([one, z.record(SizeKey, one)]);

const SizedCount = z.union([
  Count,
  z.record(SizeKey, z.int("Write a whole number.").min(0, "At least 0.").max(100_000, "At most 100,000.")),
]);

/** What wrote a use or a cut, kept with the file and never counted. */
const KeptAlong = z.unknown().optional();

export const Use = z.strictObject({ key: RoleKey, count: Count, by: KeptAlong });
export type Use = z.infer<typeof Use>;

/** A finding of a part: its number may differ by size, and may be so many for each of a key that the part takes. */
export const PartUse = z.strictObject({
  key: RoleKey,
  count: SizedCount,
  /** So many for each of this key that the part's own rows pick, hang or join. */
  forEach: RoleKey.nullish(),
  by: KeptAlong,
});
export type PartUse = z.infer<typeof PartUse>;

/** How a part is drawn: a straight strand, a ring, hanging down from its first step, or rising from it. */
export const LAID = ["strand", "ring", "hanging", "rising"] as const;
export type Laid = (typeof LAID)[number];

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
  /** Holes through which thread can run. 1 where nothing is said. */
  holes: z.int().min(1, "At least 1.").max(20, "At most 20 holes.").nullish(),
  /** The component of the jars that it was taken from: chosen for it where a box has it. Elsewhere it says nothing. */
  component: Uuid.nullish(),
  /** What sort of its kind it is, as a component's: head pin, stretch cord, toggle. */
  form: z.string().max(40).nullish(),
  /** Of shapes seen from the front: how tall it is, mm. */
  heightMm: Millimetres.nullish(),
  /** Of wire, cord and thread: how thick, mm. */
  diameterMm: Millimetres.nullish(),
  /** Of pins and tubes: how long, mm. */
  lengthMm: Millimetres.nullish(),
  /** Of rings and tubes: how wide inside, mm. */
  innerMm: Millimetres.nullish(),
  /** Of wire, cord and thread: the load at which it breaks, kg. */
  breakKg: z.number().positive().max(10_000).nullish(),
  /** Of a charm, drop or focal piece: how thick it is where a ring goes through it, mm. */
  thickMm: Millimetres.nullish(),
  /** How much its size along the thread differs from bead to bead: one standard deviation, mm. */
  spreadMm: z.number().min(0).max(1000).nullish(),
  /** Of wire, cord and thread: how much of its thickness counts where it is packed; 1 of wire. */
  soft: z.number().positive("More than 0.").max(1, "At most 1.").nullish(),
  /** What one weighs, g. */
  massG: z.number().positive("More than 0.").max(100_000).nullish(),
  /** Of chain with twisted links: only every second link hangs the same way. */
  twisted: z.boolean().nullish(),
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
  /** Of a mix: its members, beads or sub-assemblies. Shares are made to add up to 1; a count is exactly so many. */
  mix: z
    .array(
      z
        .strictObject({
          key: RoleKey,
          share: z.number().positive("A share is more than 0.").max(100_000).nullish(),
          count: Count.nullish(),
        })
        .refine((m) => (m.share == null) !== (m.count == null), {
          message: "A member of a mix has a share or a count, and not both.",
        }),
    )
    .max(50)
    .nullish(),
});
export type KeyEntry = z.infer<typeof KeyEntry>;

const Coils = z.number().positive().max(1000);

export const Cut = z
  .strictObject({
    key: RoleKey,
    count: SizedCount,
    mm: sized(Millimetres).nullish(),
    links: sized(Count).nullish(),
    coils: sized(Coils).nullish(),
    /** So many for each of this key that the part's own rows pick, hang or join. */
    forEach: RoleKey.nullish(),
    /** Made of what another cut leaves: listed apart, never taken from stock. */
    from: z.literal("offcut").nullish(),
    by: KeptAlong,
  })
  .refine((cut) => [cut.mm, cut.links, cut.coils].filter((x) => x != null).length === 1, {
    message: "A cut has one of mm, links or coils.",
  });
export type Cut = z.infer<typeof Cut>;

/** Further stringing that runs the same way beside the first: of a fixed length, or computed from the path. */
export const Also = z
  .strictObject({
    key: RoleKey,
    cutMm: sized(Millimetres).nullish(),
    coils: sized(Coils).nullish(),
    tailMm: MillimetresOrNone.nullish(),
    takeUp: Fraction.nullish(),
    by: KeptAlong,
  })
  .refine((also) => also.cutMm == null || also.coils == null, {
    message: "Stringing beside the first has one of cutMm or coils, or neither.",
  });
export type Also = z.infer<typeof Also>;

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
  /** How it is drawn; as proposed where nothing is said. */
  laid: z.enum(LAID).nullish(),
  /** Fixed length of one cut, mm; computed where nothing is said. On chain one piece of it is cut, and divided. */
  cutMm: sized(Millimetres).nullish(),
  /** Length of each of a cut's two tails, mm. */
  tailMm: MillimetresOrNone.nullish(),
  /** What the stitches take of the thread beside its path, as a share of it: 0.1 is a tenth. */
  takeUp: Fraction.nullish(),
  /** How often the whole path is gone again: 1 is once more. */
  reinforce: Fraction.nullish(),
  /** What `to length` reaches for, mm: one length, or one a size. */
  targetMm: sized(Millimetres).nullish(),
  /** Finished length ÷ strand length, where making changes it: a beaded braid. 1 where nothing is said. */
  finishedRatio: z.number().positive("A ratio is more than 0.").max(100).nullish(),
  /** Further stringing that runs the same way beside the first. */
  also: z.array(Also).max(20).nullish(),
  /** Its rows, in strand shorthand. */
  steps: z.string().max(20_000, "A part's text has at most 20,000 characters.").nullish(),
  /** Findings that the rows don't name, for one of this part. */
  uses: z.array(PartUse).max(200).nullish(),
  /** Lengths cut for one of this part, beside what it is strung on. */
  cuts: z.array(Cut).max(200).nullish(),
  /** No two alike side by side: so none may be more than half of what stands in it. Never counted. */
  noTwoAlike: z.boolean().nullish(),
  /** How its ends, links and knots are made: kept with the file, never counted. Read by `PartMethod`. */
  methods: z.unknown().optional(),
});
export type Part = z.infer<typeof Part>;

/**
 * How often what no part names is taken: with each finished item; once with each kit of the design, however many it
 * makes; or once in a box, where several of its designs ask for the same.
 */
export const PERS = ["item", "kit", "box"] as const;
export type Per = (typeof PERS)[number];

export const DESIGN_KINDS = ["bracelet", "necklace", "earrings", "pendant", "ring", "key fob", "other"] as const;

export const TECHNIQUES = ["strung", "stitched", "wired", "braided", "knotted", "chain", "glued"] as const;

/** The words for levels before there were four of them. */
const OLD_LEVELS: Readonly<Record<string, string>> = {
  easy: "first steps",
  medium: "comfortable",
  hard: "practised",
};

/** What a size says: how long the strand is, or what it fits round. */
export const SIZE_MEANS = ["strand", "body"] as const;

/** The newest version of the design file: what is saved is of this one. */
export const DESIGN_VERSION = 2;

/** The design file, `*.jarcount.json`. */
const DesignFile = z
  .strictObject({
    format: z.literal("jar-count/design", "This is not a Jar Count design file."),
    version: z.union([z.literal(1), z.literal(2)], "Only versions 1 and 2 of the design file can be read."),
    name: Name,
    /** What it is, for finding it again. */
    about: z
      .strictObject({
        kind: z.enum(DESIGN_KINDS).nullish(),
        technique: z.enum(TECHNIQUES).nullish(),
        /** Said by hand; worked out where nothing is said. */
        level: z.enum(LEVELS).nullish(),
        levelReason: z.string().max(500, "At most 500 characters.").nullish(),
        /** Made or worn by a child. */
        forChild: z.boolean().nullish(),
        sizeMeans: z.enum(SIZE_MEANS).nullish(),
        /** Room between body and piece, mm. */
        easeMm: MillimetresOrNone.nullish(),
      })
      .nullish(),
    /** Minutes at the bench for one item, hands on; worked out where nothing is said. */
    minutes: z.number().min(0, "Not below 0.").max(10_000, "At most 10,000 minutes.").nullish(),
    /** Minutes in which it only waits: glue that sets. */
    waitMinutes: z.number().min(0, "Not below 0.").max(100_000, "At most 100,000 minutes.").nullish(),
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
      .array(z.strictObject({ ...Use.shape, per: z.enum(PERS).nullish() }))
      .max(200)
      .nullish(),
    /** What the maker needs and no kit holds; never counted. */
    atHand: z
      .array(z.union([Name, z.strictObject({ name: Name, by: KeptAlong })]))
      .max(100)
      .nullish(),
    /** The methods that its parts name, as they were when they were chosen. Read by `MethodDefinition`. */
    methods: z.unknown().optional(),
    /** Findings of the checks that somebody let stand: kept with the file, never counted. Read by `Overrule`. */
    overrules: z.unknown().optional(),
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
export const Design = z.preprocess(readAnyVersion, DesignFile);
export type Design = z.infer<typeof DesignFile>;

/**
 * A design file of any version, as it may stand here: a part without a name is called by its id, and a key of version
 * 1 that has become a word since is renamed.
 */
function readAnyVersion(raw: unknown): unknown {
  if (typeof raw !== "object" || raw === null) return raw;
  const file = raw as { version?: unknown; key?: unknown; parts?: unknown };
  const parts = Array.isArray(file.parts)
    ? file.parts.map((p: unknown) => {
        const part = p as { id?: unknown; name?: unknown } | null;
        return part && typeof part === "object" && part.name == null ? { ...part, name: part.id } : p;
      })
    : file.parts;
  const named = levelNow(parts === undefined ? file : { ...file, parts });
  return file.version === 1 ? freeNewWords(named) : named;
}

/** A file with today's word for its level. */
function levelNow<T extends object>(file: T): T {
  const { about } = file as { about?: unknown };
  if (typeof about !== "object" || about === null) return file;
  const { level } = about as { level?: unknown };
  const now = typeof level === "string" && Object.hasOwn(OLD_LEVELS, level) ? OLD_LEVELS[level] : null;
  return now === null ? file : { ...file, about: { ...about, level: now } };
}

/** A kept design as it is read now: one of version 1 may name a key by what has become a word since. */
export function asReadNow(design: Design): Design {
  const now = levelNow(design);
  return now.version === 1 ? (freeNewWords(now) as Design) : now;
}

/** What the maker must have at hand, by name. */
export const atHandOf = ({ atHand }: Pick<Design, "atHand">): string[] =>
  (atHand ?? []).map((thing) => (typeof thing === "string" ? thing : thing.name));

/** A stable name for a role: its id, else its key. */
export const roleId = (entry: Pick<KeyEntry, "id" | "key">) => entry.id ?? entry.key;
