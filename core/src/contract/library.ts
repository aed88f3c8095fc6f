import { z } from "zod";
import { Design } from "./design.ts";
import { Day, Millimetres, RequestKey, Uuid, Version } from "./values.ts";

export const VERDICTS = ["good", "mend it", "not yet", "no"] as const;

/** One trial make of a design: what it really took. */
export const Trial = z.strictObject({
  id: Uuid,
  revision: z.int().min(1),
  size: z.string().max(20).nullable(),
  option: z.string().max(20).nullable(),
  madeOn: Day,
  person: Uuid.nullish(),
  minutes: z.number().min(0).max(10_000).nullish(),
  /** How long one part came out. */
  finished: z.strictObject({ part: z.string().min(1).max(100), mm: Millimetres }).nullish(),
  /** What was really used, by a role's id: pieces, or millimetres of what is cut. */
  used: z.record(z.string().min(1).max(100), z.number().min(0).max(1e9)),
  note: z.string().max(2000, "At most 2,000 characters.").default(""),
  verdict: z.enum(VERDICTS),
});
export type Trial = z.infer<typeof Trial>;

/** As it is kept: how often it was written down. */
export const KeptTrial = z.strictObject({ ...Trial.shape, version: Version });
export type KeptTrial = z.infer<typeof KeptTrial>;

/** As it is sent: its id stands in the address; version 0 for a new one. */
export const SaveTrial = z.strictObject({
  ...Trial.omit({ id: true }).shape,
  requestKey: RequestKey.nullish(),
  version: Version,
});

/** A design in the library, and one saved state of it. */
export const DesignSummary = z.object({
  id: Uuid,
  name: z.string(),
  revision: z.int(),
  savedAt: z.string(),
  /** Put away: kept, but out of the way. */
  archived: z.boolean(),
  /** The last month whose box holds it (2027-04), null where none does. */
  lastUsed: z.string().nullable(),
  /** Components that boxes chose for its roles. */
  components: z.array(Uuid),
  design: Design,
});
export type DesignSummary = z.infer<typeof DesignSummary>;

/** `revision` is the one the change is based on: 0 for a new design. */
export const SaveDesign = z.strictObject({
  requestKey: RequestKey.nullish(),
  revision: Version,
  reason: z.string().trim().max(500, "A reason has at most 500 characters.").default(""),
  design: Design,
});

/** What a save comes back with: the revision that it became, and when. */
export const SavedDesign = z.object({ revision: z.int(), savedAt: z.string() });
export type SavedDesign = z.infer<typeof SavedDesign>;

export const RevisionNote = z.object({ no: z.int(), reason: z.string(), savedAt: z.string() });
export type RevisionNote = z.infer<typeof RevisionNote>;

/** A revision that a box's line is pinned to. */
export const PinnedDesign = z.object({
  designId: Uuid,
  revision: z.int(),
  newest: z.int(),
  design: Design,
});
export type PinnedDesign = z.infer<typeof PinnedDesign>;
