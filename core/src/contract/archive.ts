import { z } from "zod";
import { BoxInput, Workshop } from "./box.ts";
import { Design } from "./design.ts";
import { ComponentInput, MOVE_KINDS, Uuid } from "./stock.ts";

const Instant = z.iso.datetime("Write a time as 2027-04-01T09:30:00Z.");

/** A whole workshop, as its archive of open files holds it. */
export const Archive = z.strictObject({
  workshop: Workshop,
  components: z.array(z.strictObject({ id: Uuid, ...ComponentInput.shape })),
  /** The stock ledger in its order: what was received, and what was counted. */
  stock: z.array(
    z.strictObject({
      requestKey: Uuid,
      at: Instant,
      component: Uuid,
      kind: z.enum(MOVE_KINDS),
      quantity: z.number().min(0).max(1e9),
      note: z.string().max(500),
    }),
  ),
  designs: z.array(
    z.strictObject({
      id: Uuid,
      revisions: z
        .array(z.strictObject({ no: z.int().min(1), reason: z.string().max(500), savedAt: Instant, design: Design }))
        .min(1, "A design has at least one revision."),
    }),
  ),
  boxes: z.array(z.strictObject({ id: Uuid, ...BoxInput.shape })),
});
export type Archive = z.infer<typeof Archive>;
