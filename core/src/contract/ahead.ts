import { z } from "zod";
import { RunState } from "./box.ts";
import { Piece } from "./count.ts";
import { Uuid } from "./values.ts";

/** A box that is not sent yet: it takes of what others want too. */
export const OpenBox = z.object({
  id: Uuid,
  theme: z.string(),
  month: z.string(),
  /** The day by which it is packed. */
  packBy: z.string(),
  state: RunState,
});
export type OpenBox = z.infer<typeof OpenBox>;

/**
 * What an open box takes of a component: of stock, of an order's line, or of what is left (`from` null); and what it
 * had already, by boxes that are packed, which nobody else can take any more.
 */
export const Claim = z.object({
  box: Uuid,
  component: Uuid,
  from: z.union([z.enum(["stock", "used"]), Uuid]).nullable(),
  /** In the base unit. */
  quantity: z.number(),
  /** What is cut of it; empty for what is not kept by length. */
  cuts: z.array(Piece),
});
export type Claim = z.infer<typeof Claim>;

/** What of an order's line is still to come. */
export const Supply = z.object({
  line: Uuid,
  order: Uuid,
  component: Uuid,
  /** null: nobody knows when, so it covers nothing. */
  due: z.string().nullable(),
  quantity: z.number(),
  /** How long each piece is, of what is kept by length. */
  pieceMm: z.number().nullable(),
});
export type Supply = z.infer<typeof Supply>;

/** What there is of a component for boxes to take. */
export const Pool = z.object({
  component: Uuid,
  onHand: z.number(),
  /** Held back, or set aside by hand: taken already. */
  aside: z.number(),
  /** Kept by length: the pieces that are not held back, and what is set aside of them by hand. */
  pieces: z.array(Piece),
  asideCuts: z.array(Piece),
});
export type Pool = z.infer<typeof Pool>;

/** Everything that boxes share: who wants what, what there is, and what is to come. */
export const Shares = z.object({
  /** The server's day. */
  today: z.string(),
  boxes: z.array(OpenBox),
  claims: z.array(Claim),
  supplies: z.array(Supply),
  pools: z.array(Pool),
});
export type Shares = z.infer<typeof Shares>;

/** One component's stock from day to day. */
export const AheadComponent = z.object({
  component: Uuid,
  onHand: z.number(),
  steps: z.array(
    z.object({
      on: z.string(),
      kind: z.enum(["box", "order"]),
      id: Uuid,
      /** As it changes stock: a box takes, so it is below 0. */
      quantity: z.number(),
      /** After it. */
      left: z.number(),
    }),
  ),
  /** The first day on which less than nothing is left; null where there is none. */
  runsOutOn: z.string().nullable(),
  /** How far below zero it goes at the worst. */
  short: z.number(),
});
export type AheadComponent = z.infer<typeof AheadComponent>;

export const Ahead = z.object({ components: z.array(AheadComponent) });
export type Ahead = z.infer<typeof Ahead>;
