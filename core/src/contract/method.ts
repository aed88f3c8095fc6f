import { z } from "zod";
import { CAUTIONS, ROLE_KINDS } from "./kinds.ts";
import { LocalId, Millimetres, MillimetresOrNone, Name } from "./values.ts";

/** Which of a method's choices something holds for: all of those named here. Always where nothing is said. */
const When = z.record(LocalId, LocalId).nullish();

/**
 * A length at one place: `mm`, one of the method's own numbers, and turns of a wire round a mandrel, added up. A turn
 * takes π × (mandrel + wire): geometry along the wire's middle.
 */
export const MethodLength = z.strictObject({
  mm: z.number().min(-10_000).max(100_000).nullish(),
  /** The id of one of the method's numbers, added. */
  number: LocalId.nullish(),
  turns: z.number().positive().max(100).nullish(),
  /** The id of the number that says how thick the mandrel is. */
  round: LocalId.nullish(),
  /** The id of the role whose wire is bent; what the part is strung on where nothing is said. */
  wire: LocalId.nullish(),
  /** The id of a role whose size along the thread is added. */
  along: LocalId.nullish(),
  when: When,
});
export type MethodLength = z.infer<typeof MethodLength>;

/** A finding, wire or so that a method takes; `strung` is what the part is strung on. */
const MethodRole = z.strictObject({
  id: LocalId,
  name: Name,
  kind: z.enum(ROLE_KINDS),
  form: z.string().max(40).nullish(),
  /** Forms that do as well. */
  or: z.array(z.string().max(40)).max(10).nullish(),
  /** Of wire: how thick it must be, mm; another will not do. */
  diameterMm: Millimetres.nullish(),
});

/** One line that a method writes, for one place that it is chosen for. */
const MethodLine = z.strictObject({
  /** A finding, a cut, stringing that runs beside, or something joined at the part's end. */
  write: z.enum(["use", "cut", "also", "join"]),
  role: LocalId,
  count: z.int().min(1).max(1000).default(1),
  /** Of a cut, or of what runs beside: how long. */
  long: z.array(MethodLength).max(10).nullish(),
  from: z.literal("offcut").nullish(),
  /** For each strand that ends here, and not once for all of them. */
  perStrand: z.boolean().nullish(),
  when: When,
});

/** Where a method can be used: at the ends of a part, or for each of a key that it takes. */
export const METHOD_PLACES = ["both ends", "one end", "each"] as const;

/** How an end, a link or a knot is made, `*.method.json`: what it takes, and what it asks of what is there. */
export const MethodDefinition = z.strictObject({
  format: z.literal("jar-count/method", "This is not a Jar Count method file."),
  version: z.int().min(1).max(10_000),
  id: LocalId,
  name: Name,
  about: z.string().max(500),
  for: z.enum(["end", "link", "knot", "charm", "finding"]),
  places: z.array(z.enum(METHOD_PLACES)).min(1),
  choices: z
    .array(
      z.strictObject({ id: LocalId, name: Name, values: z.array(z.strictObject({ id: LocalId, name: Name })).min(2) }),
    )
    .default([]),
  numbers: z.array(z.strictObject({ id: LocalId, name: Name, mm: MillimetresOrNone })).default([]),
  roles: z.array(MethodRole).default([]),
  lines: z.array(MethodLine).default([]),
  tools: z.array(z.strictObject({ name: Name, when: When })).default([]),
  cautions: z.array(z.strictObject({ caution: z.enum(CAUTIONS), when: When })).default([]),
  /** For one place. */
  minutes: z.array(z.strictObject({ handsOn: z.number().min(0), waiting: z.number().min(0), when: When })).default([]),
  /** What one place adds to the finished piece beside what its lines join. */
  adds: z.array(MethodLength).default([]),
  /** What it asks: looked at by the checks. */
  needs: z
    .strictObject({
      /** Wires in a crimp for each strand that comes in, and how the crimp is closed. */
      wires: z.array(z.strictObject({ n: z.int().min(1).max(100), when: When })).default([]),
      closed: z.enum(["flat", "folded", "rounded"]).nullish(),
      /** Working length that an end must have. */
      tail: z.array(MethodLength).default([]),
      /** Of a pin: wire above what is on it. */
      above: z.array(MethodLength).default([]),
      /** Of a cone or cap: how deep what it hides is, beside crimps. */
      deep: z.array(MethodLength).default([]),
      /** How many more times the thread goes through the last bead. */
      through: z.int().min(0).max(10).default(0),
    })
    .default({ wires: [], tail: [], above: [], deep: [], through: 0 }),
});
export type MethodDefinition = z.infer<typeof MethodDefinition>;

/** How one end, link or knot of a part is made, as the design keeps it. */
export const PartMethod = z.object({
  id: LocalId,
  name: Name,
  version: z.int().min(1),
  /** A place, or `each KEY`. */
  at: z.string().max(60),
  choices: z
    .object({
      /** By the choice's id: the value's. */
      values: z.record(LocalId, LocalId).default({}),
      /** By the number's id, mm. */
      numbers: z.record(LocalId, MillimetresOrNone).default({}),
      /** By the role's id: the key that it is in this design. */
      roles: z.record(LocalId, z.string().max(40)).default({}),
    })
    .default({ values: {}, numbers: {}, roles: {} }),
  /** The tail that a person wrote and this method's own took the place of, mm: it comes back without the method. */
  replacesTailMm: MillimetresOrNone.nullish(),
});
export type PartMethod = z.infer<typeof PartMethod>;
