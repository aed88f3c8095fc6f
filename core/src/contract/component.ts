import { z } from "zod";
import { BASE_UNITS, CAUTIONS, COMPONENT_KINDS, FINISHES, FORMS, MATERIALS, METALS, TRANSPARENCIES } from "./kinds.ts";
import { Colour, Millimetres, Money, Name, Positive, Quantity, RequestKey, Uuid, Version } from "./values.ts";

/** The most that one of a pack's units may cost: a slip of the pen costs more. */
const DEAREST = 1e6;

/** How a supplier sells it: a pack of so many pieces, grams or millimetres, with price steps by number of packs. */
export const Offer = z
  .strictObject({
    /** Stays with it for as long as it is offered; one without is new. */
    id: Uuid.optional(),
    supplier: Uuid.nullish(),
    pack: Name,
    amount: Quantity.positive("A pack holds more than 0.").min(0.001, "A pack holds at least a thousandth."),
    unit: z.enum(BASE_UNITS),
    price: Money,
    /** From so many packs on, a pack costs this. */
    steps: z
      .array(z.strictObject({ from: z.int().min(2, "A step begins at 2 packs or more.").max(1e6), price: Money }))
      .max(10)
      .default([]),
    /** The fewest packs that are sold. */
    minimum: z.int("Write a whole number.").min(1, "At least 1.").max(1e6).default(1),
    leadDays: z.int("Write a whole number.").min(0).max(730, "At most 730 days.").nullish(),
  })
  .superRefine((offer, ctx) => {
    if (offer.unit === "piece" && !Number.isInteger(offer.amount))
      ctx.addIssue({ code: "custom", path: ["amount"], message: "A pack of pieces holds a whole number." });
    const froms = offer.steps.map((s) => s.from);
    if (froms.some((from, j) => j > 0 && from <= froms[j - 1]!))
      ctx.addIssue({ code: "custom", path: ["steps"], message: "Write price steps from few packs to many." });
    if ([offer.price, ...offer.steps.map((s) => s.price)].some((price) => Number(price) / offer.amount > DEAREST))
      ctx.addIssue({
        code: "custom",
        path: ["amount"],
        message: "One of it would cost more than a million. Check what the pack holds.",
      });
  });
export type Offer = z.infer<typeof Offer>;

export const ComponentInput = z.strictObject({
  code: z
    .string()
    .trim()
    .min(1, "Give it a code.")
    .max(40, "A code has at most 40 characters.")
    .regex(/^[\p{L}\p{N}._/-]+$/u, "A code is letters, digits and . _ / - without spaces."),
  name: Name,
  kind: z.enum(COMPONENT_KINDS as [(typeof COMPONENT_KINDS)[number]]),
  form: z.enum(FORMS).nullish(),
  colour: Colour,
  finish: z.enum(FINISHES),
  transparency: z.enum(TRANSPARENCIES).nullish(),
  material: z.enum(MATERIALS).nullish(),
  metal: z.enum(METALS).nullish(),
  baseUnit: z.enum(BASE_UNITS),
  /** As the trade says it: 11/0, 6 mm, 20 ga. */
  size: z.string().trim().max(20, "At most 20 characters.").nullish(),
  alongMm: Millimetres.nullish(),
  acrossMm: Millimetres.nullish(),
  holeMm: Millimetres.nullish(),
  linkMm: Millimetres.nullish(),
  coilMm: Millimetres.nullish(),
  /** Of the wire, thread or cord itself. */
  diameterMm: Millimetres.nullish(),
  /** Of a pin, an end or a needle. */
  lengthMm: Millimetres.nullish(),
  /** Clear inner width of a ring, a cap, a cone or an end. */
  innerMm: Millimetres.nullish(),
  /** Of packaging: how much thicker it makes a parcel; of what hangs: how thick it is where a ring goes through. */
  thickMm: Millimetres.nullish(),
  breakKg: Positive.nullish(),
  holes: z.int("Write a whole number.").min(1).max(50).nullish(),
  /** Pieces a gram, and the standard uncertainty of that. */
  perGram: z.number().positive("More than 0.").max(100_000, "At most 100,000.").nullish(),
  perGramU: z.number().min(0).max(100_000).nullish(),
  /** A piece, measured. */
  massG: z.number().positive("More than 0.").max(100_000).nullish(),
  /** Order again when what is free comes down to this, in the base unit. */
  reorderAt: Quantity.nullish(),
  cautions: z.array(z.enum(CAUTIONS)).max(CAUTIONS.length).default([]),
  notes: z.string().max(4000, "At most 4,000 characters.").default(""),
  /** Put away: not used any more, and not offered where components are chosen. */
  away: z.boolean().nullish(),
  offers: z.array(Offer).max(20, "At most 20 offers.").default([]),
});
export type ComponentInput = z.infer<typeof ComponentInput>;

/** What is known of a component's stock, in its base unit. */
const Totals = {
  onHand: z.number(),
  /** Standard uncertainty of what is on hand. */
  u: z.number(),
  /** Set aside, or held back. */
  spokenFor: z.number(),
  /** Ordered and not yet received. */
  onTheWay: z.number(),
  /**
   * Cost of a base unit: the moving average of what is on hand, and the last paid; decimal text, null where none is
   * known.
   */
  averageCost: z.string().nullable(),
  lastCost: z.string().nullable(),
  /** The base unit can change only while nothing has moved. */
  moved: z.boolean(),
};

export const Component = z.object({ ...ComponentInput.shape, id: Uuid, version: Version, ...Totals });
export type Component = z.infer<typeof Component>;

/** A list of components, and what to send back to hear only of those that changed after it. */
export const ComponentList = z.object({
  /** Which workshop they are of: another after an archive took its place. */
  workshop: Uuid,
  components: z.array(Component),
  asOf: z.string(),
  /** Where there are more changes than come at once: the id to go on after. */
  next: z.string().nullish(),
});
export type ComponentList = z.infer<typeof ComponentList>;

/** So many components may be changed at once. */
export const MOST_AT_ONCE = 5000;

/** What may be changed of many components at once. */
export const ComponentChange = z.strictObject({
  alongMm: ComponentInput.shape.alongMm,
  acrossMm: ComponentInput.shape.acrossMm,
  holeMm: ComponentInput.shape.holeMm,
  material: ComponentInput.shape.material,
  reorderAt: ComponentInput.shape.reorderAt,
  away: ComponentInput.shape.away,
  offers: ComponentInput.shape.offers.unwrap().optional(),
});
export type ComponentChange = z.infer<typeof ComponentChange>;

/** Changes to several components, all or none: each based on a version, what is not named stays. */
export const ChangeComponents = z.strictObject({
  requestKey: RequestKey.nullish(),
  changes: z
    .array(z.strictObject({ id: Uuid, version: Version, set: ComponentChange }))
    .min(1, "Choose at least one.")
    .max(MOST_AT_ONCE, `At most ${MOST_AT_ONCE.toLocaleString("en")} at once.`)
    .refine((list) => new Set(list.map((c) => c.id)).size === list.length, "One of them is there twice."),
});

/** Moves all that there is of several components to one place. */
export const PlaceComponents = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  place: Uuid,
  components: z.array(Uuid).min(1, "Choose at least one.").max(MOST_AT_ONCE),
});

export const SaveComponent = z.strictObject({
  requestKey: RequestKey.nullish(),
  version: Version,
  component: ComponentInput,
});
