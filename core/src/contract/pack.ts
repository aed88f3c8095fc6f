import { z } from "zod";
import { BoxBill, Run } from "./run.ts";
import { Amount, CutLength, Instant, Millimetres, RequestKey, Stretch, Uuid } from "./values.ts";

/** So much of a component that stands somewhere and may be taken: pieces of a length where it is kept by length. */
export const Stand = z.object({
  component: Uuid,
  place: Uuid,
  lot: z.string(),
  /** 0 for what is not kept by length. */
  stretchMm: z.number(),
  quantity: z.number(),
  /** A piece of the lot as weighed: its mass, the standard uncertainty of that, and the spread of single pieces. */
  unitMass: z.object({ g: z.number(), u: z.number(), sd: z.number().nullable() }).nullable(),
});
export type Stand = z.infer<typeof Stand>;

/** What a committed run needs for one variant of one component, and how far that is. */
export const PackNeed = z.object({
  id: Uuid,
  variant: Uuid,
  component: Uuid,
  /** Pieces of this length; null where it is not cut. */
  cutMm: z.number().nullable(),
  /** For all boxes of the variant: base units, or pieces of the length. */
  quantity: z.number(),
  /** Used by the ledger for boxes that are packed; and what something else was put in the place of. */
  used: z.number(),
  swapped: z.number(),
  /** Spoken for in stock. */
  held: z.number(),
  /** Spoken for on orders that are still to come. */
  ordered: z.array(z.object({ order: Uuid, number: z.string(), due: z.string().nullable(), quantity: z.number() })),
  /** The lot that it was taken from last; null where nothing was. */
  lot: z.string().nullable(),
});
export type PackNeed = z.infer<typeof PackNeed>;

/** What is told while packing, beside the boxes that are packed: `broken` is lost as well. */
export const TOLD_KINDS = ["broken", "swapped", "counted", "cut"] as const;

/** Something told while packing, and not taken back. */
export const Told = z.object({
  entry: z.string(),
  kind: z.enum(TOLD_KINDS),
  note: z.string(),
  at: z.string(),
  person: z.string().nullable(),
  component: Uuid,
  /** In the base unit. Of a count, how much more (or below 0, less) there was; of a cut 0: all of it is still there. */
  quantity: z.number(),
  /** Swapped: what it was put in the place of. */
  inPlaceOf: Uuid.nullable(),
});
export type Told = z.infer<typeof Told>;

/** All that packing a committed box needs. */
export const Packing = z.object({
  box: Uuid,
  ...Run.pick({ state: true, packBy: true, bill: true }).shape,
  stoppedAt: z.string().nullable(),
  closed: z.object({ at: z.string(), person: z.string().nullable() }).nullable(),
  /** The frozen bill. */
  of: BoxBill,
  /** In the order of the walk. */
  places: z.array(z.object({ id: Uuid, code: z.string(), name: z.string() })),
  stands: z.array(Stand),
  /** Neither spoken for nor held back, in the base unit. */
  free: z.record(Uuid, z.number()),
  needs: z.array(PackNeed),
  packed: z.array(z.object({ variant: Uuid, no: z.int(), at: z.string(), person: z.string().nullable() })),
  told: z.array(Told),
});
export type Packing = z.infer<typeof Packing>;

const Tapped = {
  requestKey: RequestKey,
  person: Uuid.nullish(),
  /** When it was done, where it is sent later. */
  at: Instant.nullish(),
};

/** One box of a variant is packed, or is not after all. */
export const SetPacked = z.strictObject({
  ...Tapped,
  variant: Uuid,
  no: z.int("Write a box's number.").min(1).max(1_000_000),
  packed: z.boolean(),
});
export type SetPacked = z.input<typeof SetPacked>;

export const PackedAnswer = z.object({ state: Run.shape.state, variant: Uuid, packed: z.int() });

/** Something that happened while packing. */
export const TellPacking = z.discriminatedUnion("kind", [
  z.strictObject({
    ...Tapped,
    kind: z.enum(["broken", "lost"]),
    variant: Uuid,
    component: Uuid,
    cutMm: Millimetres.nullish(),
    quantity: Amount.positive("More than 0."),
  }),
  z.strictObject({
    ...Tapped,
    kind: z.literal("swapped"),
    variant: Uuid,
    component: Uuid,
    cutMm: Millimetres.nullish(),
    quantity: Amount.positive("More than 0."),
    /** What goes in instead: kept in the same unit. */
    with: Uuid,
  }),
  z.strictObject({
    ...Tapped,
    kind: z.literal("counted"),
    component: Uuid,
    place: Uuid,
    lot: z.string().trim().max(40).default(""),
    stretchMm: Stretch.nullish(),
    quantity: Amount,
  }),
]);
export type TellPacking = z.input<typeof TellPacking>;

export const ToldAnswer = z.object({ entry: z.string() });

export const TakeBackTold = z.strictObject({ requestKey: RequestKey, person: Uuid.nullish() });

/** One piece of stringing is cut into lengths for the box; what is left of it is kept. */
export const CutPiece = z.strictObject({
  ...Tapped,
  component: Uuid,
  place: Uuid,
  lot: z.string().trim().max(40).default(""),
  fromMm: Stretch,
  cuts: z
    .array(z.strictObject({ mm: CutLength, count: z.int("Write a whole number.").min(1).max(100_000) }))
    .min(1, "Say which lengths.")
    .max(1000),
});
export type CutPiece = z.input<typeof CutPiece>;

/** Ends a run: `stop` with the boxes that are packed, giving the rest back; `close` when it goes out. */
export const EndRun = z.strictObject({ requestKey: RequestKey, person: Uuid.nullish() });
