import { z } from "zod";
import { Colour, FINISHES, Millimetres, Name, ROLE_KINDS, SHAPES } from "./design.ts";

export const Uuid = z.uuid("This is not an id.");
export const Version = z.int().min(0);
/** Money as decimal text in the workshop's currency, at most 4 places: never a binary float. */
export const Money = z.string().regex(/^\d{1,9}(\.\d{1,4})?$/, "Write an amount such as 4 or 4.20.");

export const COMPONENT_KINDS = ROLE_KINDS.filter((kind) => kind !== "mix");
export const BASE_UNITS = ["piece", "mm", "g"] as const;
export type BaseUnit = (typeof BASE_UNITS)[number];

const Quantity = z.number().min(0, "Not below 0.").max(1e9, "At most 1,000,000,000.");

/** What a pack is called, how much of the base unit it holds and what it costs. */
export const Offer = z.strictObject({
  pack: Name,
  quantity: Quantity.positive("A pack holds more than 0."),
  price: Money,
});
export type Offer = z.infer<typeof Offer>;

export const ComponentInput = z
  .strictObject({
    code: z
      .string()
      .trim()
      .min(1, "Give it a code.")
      .max(40, "A code has at most 40 characters.")
      .regex(/^[\p{L}\p{N}._/-]+$/u, "A code is letters, digits and . _ / - without spaces."),
    name: Name,
    kind: z.enum(COMPONENT_KINDS as [(typeof COMPONENT_KINDS)[number]]),
    shape: z.enum(SHAPES).nullish(),
    colour: Colour,
    finish: z.enum(FINISHES),
    baseUnit: z.enum(BASE_UNITS),
    alongMm: Millimetres.nullish(),
    acrossMm: Millimetres.nullish(),
    holeMm: Millimetres.nullish(),
    linkMm: Millimetres.nullish(),
    perGram: z.number().positive("More than 0.").max(100_000, "At most 100,000.").nullish(),
    offer: Offer.nullish(),
  })
  .superRefine((c, ctx) => {
    if (c.baseUnit === "piece" && c.offer && !Number.isInteger(c.offer.quantity)) {
      ctx.addIssue({ code: "custom", path: ["offer", "quantity"], message: "A pack of pieces holds a whole number." });
    }
  });
export type ComponentInput = z.infer<typeof ComponentInput>;

export const Component = z.object({
  ...ComponentInput.shape,
  id: Uuid,
  version: Version,
  onHand: z.number(),
  /** The base unit can change only while nothing has moved. */
  moved: z.boolean(),
});
export type Component = z.infer<typeof Component>;

export const SaveComponent = z.strictObject({ version: Version, component: ComponentInput });

export const MOVE_KINDS = ["received", "counted"] as const;
export type MoveKind = (typeof MOVE_KINDS)[number];

/** A stock entry: so much received, or so much counted in the jar (which sets the balance). */
export const StockEntry = z.strictObject({
  requestKey: Uuid,
  kind: z.enum(MOVE_KINDS),
  quantity: Quantity,
  note: z.string().trim().max(500, "A note has at most 500 characters.").default(""),
});
export type StockEntry = z.input<typeof StockEntry>;

export const Movement = z.object({
  id: z.string(),
  kind: z.enum(MOVE_KINDS),
  quantity: z.number(),
  balance: z.number(),
  note: z.string(),
  at: z.string(),
});
export type Movement = z.infer<typeof Movement>;

export const ComponentDetail = z.object({ component: Component, movements: z.array(Movement) });
export type ComponentDetail = z.infer<typeof ComponentDetail>;
