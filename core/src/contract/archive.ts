import { z } from "zod";
import { BoxInput } from "./box.ts";
import { ComponentInput } from "./component.ts";
import { Design } from "./design.ts";
import { LedgerLine } from "./ledger.ts";
import { Trial } from "./library.ts";
import { Order } from "./order.ts";
import { Reservation } from "./reservation.ts";
import { Instant, Uuid } from "./values.ts";
import { Person, Place, Supplier, Workshop } from "./workshop.ts";

/** A whole workshop, as its archive of open files holds it. */
export const Archive = z.strictObject({
  workshop: Workshop,
  components: z.array(z.strictObject({ id: Uuid, ...ComponentInput.shape })),
  people: z.array(Person),
  suppliers: z.array(Supplier),
  places: z.array(Place).min(1, "A workshop has at least one place."),
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
  orders: z.array(Order.omit({ version: true })),
  setAside: z.array(Reservation),
  designs: z.array(
    z.strictObject({
      id: Uuid,
      archived: z.boolean().default(false),
      trials: z.array(Trial).default([]),
      revisions: z
        .array(z.strictObject({ no: z.int().min(1), reason: z.string().max(500), savedAt: Instant, design: Design }))
        .min(1, "A design has at least one revision."),
    }),
  ),
  boxes: z.array(z.strictObject({ id: Uuid, ...BoxInput.shape })),
});
export type Archive = z.infer<typeof Archive>;
