import { z } from "zod";
import { exact } from "../units/index.ts";
import { Box } from "./box.ts";
import { ComponentInput } from "./component.ts";
import { Design } from "./design.ts";
import { LedgerLine } from "./ledger.ts";
import { Trial } from "./library.ts";
import { Band, MoneyInput } from "./money.ts";
import { Order } from "./order.ts";
import { Reservation } from "./reservation.ts";
import { KeptRun } from "./run.ts";
import { Sale } from "./sale.ts";
import { StocktakeLine } from "./stocktake.ts";
import { Instant, Stretch, Sum, Uuid, Version } from "./values.ts";
import { RoomsInput, WorkshopInput } from "./workshop.ts";

/** Archives before version 3 hold no versions. */
const Saved = Version.min(1).default(1);

/** A whole workshop, as its archive of open files holds it. */
export const Archive = z.strictObject({
  workshop: z.strictObject({ ...WorkshopInput.shape, saved: Saved, roomsSaved: Saved }),
  /** What costs and prices go by, and what posting cost when the carrier said so last. */
  money: z.strictObject({
    ...MoneyInput.shape,
    saved: Saved,
    postage: z.strictObject({ asOf: Instant, bands: z.array(Band) }).nullish(),
  }),
  sales: z.array(Sale),
  components: z.array(z.strictObject({ id: Uuid, version: Saved, ...ComponentInput.shape })),
  ...RoomsInput.shape,
  /** What jars weigh empty, and what was learnt of a lot's piece by weighing. */
  jars: z.array(z.strictObject({ component: Uuid, place: Uuid, tareG: z.number().min(0) })),
  lots: z.array(
    z.strictObject({
      component: Uuid,
      lot: z.string().max(40),
      massG: z.number().positive(),
      massU: z.number().min(0),
      massSd: z.number().min(0).nullish(),
      pieces: z.int().min(1),
    }),
  ),
  /** The stock ledger in its order, a line a movement. */
  ledger: z.array(LedgerLine),
  /** What the ledger must come to: every spot, and every component in all. */
  balances: z.array(
    z.strictObject({
      component: Uuid,
      place: Uuid,
      lot: z.string().max(40),
      stretchMm: Stretch.nullish(),
      quantity: Sum,
      variance: z.number().min(0),
    }),
  ),
  totals: z.array(
    z.strictObject({
      component: Uuid,
      onHand: Sum,
      value: z.string().max(60),
      lastCost: z.string().max(60).nullish(),
      variance: z.number().min(0),
      held: z.number().min(0),
      spokenFor: z.number().min(0),
      onTheWay: z.number().min(0),
    }),
  ),
  /** What boxes speak for on their lines follows from what is set aside. */
  orders: z.array(z.strictObject({ ...Order.omit({ spoken: true }).shape, version: Saved })),
  /** What is set aside, and what was and was given free again. */
  setAside: z.array(
    z.strictObject({
      ...Reservation.shape,
      /** Older archives hold finer ones than anything is cut to. */
      cutMm: z.number().positive().transform(exact).nullable(),
      person: Uuid.nullish(),
      at: Instant,
      released: Instant.nullish(),
      /** The need of a run that it covers, and the order's line that it covers it from; none: by hand; from stock. */
      need: Uuid.nullish(),
      orderLine: Uuid.nullish(),
    }),
  ),
  stocktakes: z.array(
    z.strictObject({
      id: Uuid,
      version: Version,
      startedAt: Instant,
      lines: z.array(
        z.strictObject({
          ...StocktakeLine.shape,
          book: Sum,
          bookVariance: z.number().min(0),
          posted: z.boolean(),
          countedAt: Instant,
        }),
      ),
    }),
  ),
  /** Writes of the last month by their keys, so that one that is sent again does not happen again. */
  requests: z.array(z.strictObject({ key: Uuid, hash: z.string().max(64), at: Instant, answer: z.string() })),
  designs: z.array(
    z.strictObject({
      id: Uuid,
      archived: z.boolean().default(false),
      trials: z.array(z.strictObject({ ...Trial.shape, version: Saved, writtenAt: Instant.nullish() })).default([]),
      revisions: z
        .array(z.strictObject({ no: z.int().min(1), reason: z.string().max(500), savedAt: Instant, design: Design }))
        .min(1, "A design has at least one revision."),
    }),
  ),
  boxes: z.array(z.strictObject({ ...Box.shape, version: Saved })),
  /** Runs of boxes that were committed once; any other is planned. */
  runs: z.array(KeptRun),
});
export type Archive = z.infer<typeof Archive>;

/** How much is in a workshop: shown before one takes another's place. */
export const Summary = z.object({
  name: z.string(),
  components: z.int(),
  designs: z.int(),
  boxes: z.int(),
  movements: z.int(),
  /** What is on hand is worth, in the home currency: decimal text. */
  value: z.string(),
  currency: z.string(),
  openOrders: z.int(),
  /** When something moved last; null where nothing did. */
  lastMoved: Instant.nullable(),
});
export type Summary = z.infer<typeof Summary>;

/** What stands in an archive's manifest.json: each file as it must be, and what the books come to. */
export const Manifest = z.strictObject({
  format: z.literal("jar-count/manifest"),
  version: z.literal(1),
  note: z.string(),
  summary: Summary,
  files: z.record(
    z.string(),
    z.strictObject({ rows: z.int().min(0), bytes: z.int().min(0), sha256: z.string().regex(/^[0-9a-f]{64}$/) }),
  ),
});
export type Manifest = z.infer<typeof Manifest>;

/** What an archive would put in the place of what is here. */
export const RestorePlan = z.object({
  here: Summary.nullable(),
  archive: Summary,
  /** A short name for both, to be sent back with the archive. */
  seen: z.string(),
});
export type RestorePlan = z.infer<typeof RestorePlan>;

/** An archive on its way into the workshop. */
export const Restoring = z.object({
  id: Uuid,
  state: z.enum(["waiting", "done", "failed"]),
  /** The archive of what was here before, in the backup folder. */
  kept: z.string().nullable(),
  fault: z.string().nullable(),
});
export type Restoring = z.infer<typeof Restoring>;
