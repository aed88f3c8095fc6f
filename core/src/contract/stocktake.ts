import { z } from "zod";
import { Amount, Quantity, RequestKey, Stretch, Uuid, Version } from "./values.ts";

/** A walk along the shelf: every jar counted, weighed or skipped, then posted. */
export const StocktakeLine = z.strictObject({
  component: Uuid,
  place: Uuid,
  lot: z.string().max(40),
  stretchMm: Stretch.nullish(),
  how: z.enum(["counted", "weighed", "skipped"]),
  counted: Amount,
  u: Quantity,
  entered: z.string().max(2000).default(""),
});

export const Stocktake = z.object({
  id: Uuid,
  version: Version,
  startedAt: z.string(),
  lines: z.array(
    z.object({
      component: Uuid,
      place: Uuid,
      lot: z.string(),
      stretchMm: z.number().nullable(),
      how: z.enum(["counted", "weighed", "skipped"]),
      counted: z.number(),
      u: z.number(),
      entered: z.string(),
      /** What the book said, and how sure it was, when this was counted. */
      book: z.number(),
      bookU: z.number(),
      posted: z.boolean(),
    }),
  ),
});
export type Stocktake = z.infer<typeof Stocktake>;

export const ShelfJar = z.object({
  component: Uuid,
  place: Uuid,
  placeCode: z.string(),
  lot: z.string(),
  stretchMm: z.number().nullable(),
  quantity: z.number(),
  u: z.number(),
});
export type ShelfJar = z.infer<typeof ShelfJar>;

export const PostStocktake = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  lines: z
    .array(
      z.strictObject({
        component: Uuid,
        place: Uuid,
        lot: z.string().max(40),
        stretchMm: Stretch.nullish(),
        /** What it was seen to be counted as: where it was counted again since, nothing is posted. */
        counted: Quantity.nullish(),
      }),
    )
    .min(1)
    .max(20_000),
});
