import { z } from "zod";
import { Amount, CutLength, Name, RequestKey, Uuid } from "./values.ts";

/** Stock set aside for a purpose: an amount, or pieces of at least a length. */
export const SetAside = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  purpose: Name,
  quantity: Amount.positive("More than 0."),
  /** Kept by length: each piece this long, `quantity` of them. */
  cutMm: CutLength.nullish(),
});

export const Reservation = z.object({
  id: Uuid,
  component: Uuid,
  purpose: z.string(),
  quantity: z.number(),
  cutMm: z.number().nullable(),
  at: z.string(),
});
export type Reservation = z.infer<typeof Reservation>;
