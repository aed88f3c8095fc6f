import { z } from "zod";
import { exact } from "../units/index.ts";
import { BAGGINGS, RunState } from "./box.ts";
import { ComponentInput } from "./component.ts";
import { Piece } from "./count.ts";
import { DESIGN_KINDS } from "./design.ts";
import { FrozenCost } from "./money.ts";
import { CAUTIONS, ROLE_KINDS, RULERS } from "./kinds.ts";
import { SpareRule } from "./spare.ts";
import { Boxes, Day, Month, RequestKey, Sum, Uuid, Version } from "./values.ts";

/** A component as a bill remembers it: its name and measures of that day, and what a base unit cost. */
export const BilledComponent = z.object({
  id: Uuid,
  ...ComponentInput.pick({
    code: true,
    name: true,
    kind: true,
    form: true,
    colour: true,
    finish: true,
    transparency: true,
    material: true,
    metal: true,
    baseUnit: true,
    size: true,
    alongMm: true,
    acrossMm: true,
    holeMm: true,
    linkMm: true,
    coilMm: true,
    diameterMm: true,
    lengthMm: true,
    innerMm: true,
    thickMm: true,
    breakKg: true,
    holes: true,
    perGram: true,
    massG: true,
    cautions: true,
  }).shape,
  unitCost: z.string().nullable(),
});
export type BilledComponent = z.infer<typeof BilledComponent>;

/** What a variant's boxes take of a component. */
export const BilledLine = z.object({
  component: Uuid,
  perBox: z.number(),
  /** In pieces, whatever it is kept in; null for what is cut. */
  piecesPerBox: z.number().nullable(),
  spare: z.number(),
  rule: z.string().nullable(),
  run: z.number(),
  pieces: z.array(Piece),
  bags: z.array(
    z.object({
      of: z.string(),
      perBox: z.number(),
      counted: z.number(),
      spare: z.number(),
      more: z.number(),
      rule: z.string().nullable(),
      pieces: z.array(Piece),
    }),
  ),
  /** Which design's key it is, and how many pieces, or millimetres, it takes for it. */
  from: z.array(z.object({ line: Uuid, key: z.string(), taken: z.number() })),
  /** Whole packs that lie beside the designs. */
  packs: z.array(z.object({ pack: z.string(), packs: z.int(), perBox: z.number() })),
});
export type BilledLine = z.infer<typeof BilledLine>;

export const BilledVariant = z.object({
  /** The variant's own id; none where it is not saved yet. */
  id: Uuid.nullish(),
  first: Uuid,
  second: Uuid.nullable(),
  /** Of its choices, as they were called. */
  name: z.string(),
  boxes: Boxes,
  lines: z.array(BilledLine),
  /** Roles that nothing was chosen for. */
  gaps: z.array(z.object({ name: z.string(), perBox: z.number(), unit: z.enum(["piece", "mm"]) })),
});
export type BilledVariant = z.infer<typeof BilledVariant>;

/** A design as the box holds it. */
export const BilledDesign = z.object({
  line: Uuid,
  designId: Uuid,
  revision: z.int(),
  name: z.string(),
  kind: z.enum(DESIGN_KINDS).nullish(),
  times: z.int(),
  /** In which sizes and options it can be made from the box. */
  sizes: z.array(z.string()),
  options: z.array(z.string()),
  atHand: z.array(z.string()),
  /** Of how it is made; bills of before methods were chosen have none. */
  cautions: z.array(z.enum(CAUTIONS)).nullish(),
  key: z.array(z.object({ key: z.string(), name: z.string(), kind: z.enum(ROLE_KINDS) })),
});
export type BilledDesign = z.infer<typeof BilledDesign>;

/** A box's bill of materials as a whole, with all that lists are made from: it can be put away and read by itself. */
export const BoxBill = z.object({
  theme: z.string(),
  month: Month,
  packBy: Day,
  bagging: z.enum(BAGGINGS),
  variants: z.array(BilledVariant),
  components: z.array(BilledComponent),
  designs: z.array(BilledDesign),
  rules: z.array(SpareRule),
  /** By which marks its cuts were measured; none: as they were counted, which is how they were frozen once. */
  ruler: z.enum(RULERS).nullish(),
  /** What it was planned to cost, and by which rates; bills of before prices were kept have none. */
  costs: FrozenCost.nullish(),
});
export type BoxBill = z.infer<typeof BoxBill>;

/** One component of which a box gets less than it needs. */
const Lacking = z.object({ component: Uuid, quantity: z.number().min(0) });
export type Lacking = z.infer<typeof Lacking>;

/** What committing a box would do, or taking its changes over: nothing is written. */
export const CommitPlan = z.object({
  /** The box's version that it is of. */
  version: Version,
  state: RunState,
  /** How many components are covered whole, and from what. */
  covered: z.object({ stock: z.int(), orders: z.int() }),
  /** What lies in orders that are still to come: from which line, how much. */
  fromOrders: z.array(
    z.object({
      component: Uuid,
      order: Uuid,
      line: Uuid,
      due: z.string().nullable(),
      /** It comes after the box is packed; the box spoke for it before that was known. */
      late: z.boolean(),
      quantity: z.number(),
    }),
  ),
  /** What can't be covered. */
  lacking: z.array(Lacking),
  /** Against the frozen bill: what the whole run takes of a component, before and after; empty for the first one. */
  changes: z.array(z.object({ component: Uuid, before: z.number(), after: z.number() })),
  /** What is missing in the box itself before it can be committed: sentences. */
  open: z.array(z.string()),
  /** A short name for all of this, to be sent back with the commitment. */
  seen: z.string(),
});
export type CommitPlan = z.infer<typeof CommitPlan>;

export const CommitBox = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  version: Version,
  /** The plan's `seen`, of whoever was shown one: where it would do something else now, nothing is done. */
  seen: z.string().max(64).nullish(),
  /** What one knows to be lacking. Where more is, nothing is done and what changed is sent back. */
  lacking: z.array(Lacking).max(100_000).default([]),
});

export const TakeBack = z.strictObject({ requestKey: RequestKey, person: Uuid.nullish() });

/** How far a box's run is, and the bill it was committed with. */
export const Run = z.object({
  id: Uuid,
  state: RunState,
  packBy: z.string(),
  /** The frozen bill's number, and when it was frozen, by whom; null while planned. */
  bill: z.object({ no: z.int(), at: z.string(), person: z.string().nullable() }).nullable(),
  /** How many boxes are packed, of how many by the bill; and when packing was stopped before all were. */
  packed: z.int(),
  boxes: z.int(),
  stoppedAt: z.string().nullable(),
  /** Planned: how many components orders or the shelf hold for it ahead of its committing. */
  ahead: z.int(),
  /** What the run needs and nothing covers: not covered when it was committed, late, or broken since. */
  lacking: z.array(
    z.object({
      component: Uuid,
      quantity: z.number(),
      /** An order that would bring it, but too late. */
      late: z.object({ order: Uuid, due: z.string().nullable() }).nullable(),
    }),
  ),
});
export type Run = z.infer<typeof Run>;

/** The bill over the wire, with what is left of each component for the box. */
export const BillAnswer = z.object({
  variants: z.array(
    z.object({
      first: Uuid,
      second: Uuid.nullable(),
      boxes: Boxes,
      lines: z.array(
        z.object({
          component: Uuid,
          /** Without spare, in the base unit. */
          perBox: z.number(),
          spare: z.number(),
          rule: z.string().nullable(),
          /** (perBox + spare) × boxes, rounded up once. */
          run: z.number(),
          /** Of one box, for what is cut. */
          pieces: z.array(Piece),
          /** Of the component, before this box's own needs. */
          left: z.number(),
          short: z.number(),
          /** In the order of who comes first. */
          shortBecause: z.array(z.object({ box: Uuid, quantity: z.number() })),
        }),
      ),
    }),
  ),
});
export type BillAnswer = z.infer<typeof BillAnswer>;

/** A run as an archive holds it: its frozen bills, what it needs, and what covers that. */
export const KeptRun = z.strictObject({
  /** By which the ledger names it. */
  id: Uuid,
  box: Uuid,
  state: RunState,
  bills: z.array(z.strictObject({ no: z.int().min(1), at: z.iso.datetime(), person: Uuid.nullish(), bill: BoxBill })),
  needs: z.array(
    z.strictObject({
      id: Uuid,
      /** A variant's id, which may be taken out of the plan since; none: ordered for the box as planned. */
      variant: Uuid.nullish(),
      component: Uuid,
      /** Older archives hold finer ones than anything is cut to. */
      cutMm: z.number().positive().transform(exact).nullish(),
      quantity: Sum,
      spare: Sum,
    }),
  ),
  packed: z
    .array(z.strictObject({ variant: Uuid, no: z.int().min(1), at: z.iso.datetime(), person: Uuid.nullish() }))
    .default([]),
  stopped: z.iso.datetime().nullish(),
  closed: z.strictObject({ at: z.iso.datetime(), person: Uuid.nullish() }).nullish(),
});
export type KeptRun = z.infer<typeof KeptRun>;
