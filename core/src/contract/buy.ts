import { z } from "zod";
import { OpenBox } from "./ahead.ts";
import { Piece } from "./count.ts";
import { Order } from "./order.ts";
import { Amount, Currency, Day, Money, Name, Note, Quantity, RequestKey, Sum, Uuid } from "./values.ts";

/** Which packs cover a need for the least money: amounts in one unit, money as decimal text. */
export const PacksRequest = z.strictObject({
  need: Sum,
  currency: Currency,
  offers: z
    .array(
      z.strictObject({
        amount: Quantity.min(0.001, "A pack holds at least a thousandth."),
        price: Money,
        /** From so many packs on, every pack costs this. */
        steps: z
          .array(z.strictObject({ from: z.int().min(1).max(1e6), price: Money }))
          .max(10, "At most 10 price steps.")
          .refine((steps) => new Set(steps.map((s) => s.from)).size === steps.length, "A step is there twice.")
          .default([]),
        minimum: z.int().min(1, "At least 1.").max(1e6).default(1),
      }),
    )
    .max(20, "At most 20 offers."),
});

export const PacksAnswer = z.object({
  chosen: z.array(z.object({ offer: z.int(), packs: z.int(), price: z.string() })),
  total: z.string(),
  amount: z.number(),
  over: z.number(),
});

/** So many packs of an offer: what it brings and costs, and by when. */
export const Packs = z.object({
  offer: Uuid,
  supplier: Uuid.nullable(),
  pack: z.string(),
  packs: z.int(),
  /** In the component's base unit. */
  amount: z.number(),
  price: z.string(),
  /** The last day to order so that it comes in time; null where nobody knows how long it takes. */
  orderBy: z.string().nullable(),
  /** When it comes, ordered today. */
  due: z.string().nullable(),
  /** Ordered today it comes after the first box that needs it is packed. */
  late: z.boolean(),
});
export type Packs = z.infer<typeof Packs>;

/** What some boxes lack of a component. */
export const Lack = z.object({
  component: Uuid,
  /** In the base unit. */
  need: z.number(),
  /** What is cut of it; empty for what is not kept by length. */
  cuts: z.array(Piece),
  /** The day by which the first of them is packed. */
  by: z.string(),
  /** Who is packed first first. */
  boxes: z.array(z.object({ box: Uuid, quantity: z.number(), cuts: z.array(Piece) })),
  /**
   * What is ordered and comes too late for one of them, or nobody knows when: it is not counted, and what is bought
   * beside it is there twice. In the base unit, without what other boxes have of it.
   */
  late: z.array(z.object({ order: Uuid, line: Uuid, due: z.string().nullable(), quantity: z.number() })),
});
export type Lack = z.infer<typeof Lack>;

/** What to buy of a component: the packs that cover it for the least money. */
export const BuyLine = z.object({
  ...Lack.shape,
  chosen: z.array(Packs),
  total: z.string(),
  amount: z.number(),
  /** Bought beyond the need, and what that is worth at the price paid. */
  over: z.number(),
  overWorth: z.string(),
  /** Without stepping up to more packs at a lower price it would cost this; null where no step was taken. */
  unstepped: z.string().nullable(),
});
export type BuyLine = z.infer<typeof BuyLine>;

export const BuyList = z.object({
  /** The server's day. */
  today: z.string(),
  currency: z.string(),
  /** Boxes that are not sent. */
  open: z.array(OpenBox),
  /** Which of them it is for. */
  boxes: z.array(Uuid),
  /** The late ones first, then by the last day to order. */
  lines: z.array(BuyLine),
  total: z.string(),
});
export type BuyList = z.infer<typeof BuyList>;

/** Orders to suppliers for what boxes lack; what they cost and bring follows from the offers. */
export const WriteOrders = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  placedOn: Day,
  orders: z
    .array(
      z.strictObject({
        id: Uuid,
        supplier: Uuid,
        number: Name,
        note: Note.default(""),
        lines: z
          .array(
            z.strictObject({
              id: Uuid,
              component: Uuid,
              offer: Uuid,
              packs: z.int("Write a whole number of packs.").min(1, "At least 1.").max(1e6),
              /** What they were shown to bring, and to cost: where that is otherwise now, nothing is written. */
              amount: Amount,
              price: Money,
            }),
          )
          .min(1, "An order has at least one line.")
          .max(500, "An order has at most 500 lines."),
      }),
    )
    .min(1, "Say what to order.")
    .max(200),
  /** What the boxes were seen to lack, to be bound to the lines: where one lacks less now, nothing is written. */
  lacks: z
    .array(
      z.strictObject({
        component: Uuid,
        boxes: z.array(z.strictObject({ box: Uuid, quantity: Sum })).max(1000),
      }),
    )
    .max(10_000),
});
export type WriteOrders = z.input<typeof WriteOrders>;

export const WrittenOrders = z.object({ orders: z.array(Order) });
