import { z } from "zod";
import { Colour, FINISHES, Millimetres, Name, ROLE_KINDS, SHAPES } from "./design.ts";

export const Uuid = z.uuid("This is not an id.");
export const Version = z.int().min(0);
/** Money as decimal text in the workshop's currency, at most 4 places: never a binary float. */
export const Money = z.string().regex(/^\d{1,9}(\.\d{1,4})?$/, "Write an amount such as 4 or 4.20.");
const Instant = z.iso.datetime("Write a time as 2027-04-01T09:30:00Z.");
export const Day = z.iso.date("Write a date as 2027-04-01.");

export const COMPONENT_KINDS = ROLE_KINDS.filter((kind) => kind !== "mix");
export type ComponentKind = (typeof COMPONENT_KINDS)[number];
export const BASE_UNITS = ["piece", "mm", "g"] as const;
export type BaseUnit = (typeof BASE_UNITS)[number];

/** What a component is, more closely than its kind; a bead's form is its shape. */
export const FORMS = [
  ...SHAPES,
  "focal",
  "stone",
  "charm",
  "crimp tube",
  "crimp bead",
  "crimp cover",
  "jump ring",
  "head pin",
  "eye pin",
  "ear wire",
  "clasp",
  "end cap",
  "cone",
  "bead cap",
  "connector",
  "guard",
  "beading wire",
  "thread",
  "stretch cord",
  "cord",
  "ribbon",
  "chain",
  "craft wire",
  "memory wire",
  "stone chain",
  "needle",
  "glue",
  "bag",
  "card",
  "packing box",
  "label",
  "mailer",
] as const;
export type Form = (typeof FORMS)[number];

export const TRANSPARENCIES = ["opaque", "translucent", "transparent", "lined"] as const;
export const MATERIALS = [
  "glass",
  "crystal",
  "ceramic",
  "stone",
  "haematite",
  "pearl",
  "shell",
  "wood",
  "resin",
  "brass",
  "copper",
  "bronze",
  "steel",
  "silver",
  "silver plate",
  "gold plate",
  "aluminium",
  "nylon",
  "polyethylene",
  "silk",
  "cotton",
  "leather",
  "elastic",
  "paper",
  "card",
  "plastic",
  "other",
] as const;
export type Material = (typeof MATERIALS)[number];
export const METALS = ["silver", "gold", "bronze", "copper", "gunmetal", "black", "rose"] as const;
export const CAUTIONS = [
  "small parts",
  "magnet",
  "solvent glue",
  "flame",
  "hard wire",
  "sharp ends",
  "needle",
  "nickel",
  "lead",
  "latex",
  "cord round the neck",
] as const;
export type Caution = (typeof CAUTIONS)[number];

const Quantity = z.number().min(0, "Not below 0.").max(1e9, "At most 1,000,000,000.");
const More = z.number().positive("More than 0.").max(1e6, "At most 1,000,000.");
/** How long a piece on a spool is; spools are longer than any length in a design. */
const Stretch = z.number().positive("A length is more than 0.").max(1e8, "A length is at most 100 km.");
const Note = z.string().trim().max(500, "A note has at most 500 characters.");

/** How a supplier sells it: a pack of so many pieces, grams or millimetres, with price steps by number of packs. */
export const Offer = z
  .strictObject({
    supplier: Uuid.nullish(),
    pack: Name,
    amount: Quantity.positive("A pack holds more than 0."),
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
  breakKg: More.nullish(),
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
  components: z.array(Component),
  asOf: z.string(),
  /** Where there are more changes than come at once: the id to go on after. */
  next: z.string().nullish(),
});
export type ComponentList = z.infer<typeof ComponentList>;

export const SaveComponent = z.strictObject({ version: Version, component: ComponentInput });

/**
 * Why stock moves. `in` adds, `out` takes, `set` sets what was counted, `across` goes from one place to another and
 * `made` turns some components into another; a `reversed` entry undoes one.
 */
export const REASONS = {
  received: { way: "in", label: "Received" },
  returned: { way: "in", label: "Came back" },
  "put back": { way: "in", label: "Put back after a trial" },
  "swapped in": { way: "in", label: "Swapped in" },
  counted: { way: "set", label: "Counted" },
  used: { way: "out", label: "Used" },
  tried: { way: "out", label: "Taken to try" },
  broken: { way: "out", label: "Broken or lost" },
  given: { way: "out", label: "Given away" },
  "swapped out": { way: "out", label: "Swapped out" },
  "sent back": { way: "out", label: "Sent back" },
  cut: { way: "cut", label: "Cut" },
  moved: { way: "across", label: "Moved" },
  "held back": { way: "across", label: "Held back" },
  made: { way: "made", label: "Made" },
  reversed: { way: "reversed", label: "Reversed" },
} as const;
export type Reason = keyof typeof REASONS;
export const REASON_NAMES = Object.keys(REASONS) as [Reason, ...Reason[]];
export type Way = (typeof REASONS)[Reason]["way"];
type Going<W extends Way> = { [R in Reason]: (typeof REASONS)[R]["way"] extends W ? R : never }[Reason];
export const reasonsGoing = <W extends Way>(...ways: W[]) =>
  REASON_NAMES.filter((r) => (ways as Way[]).includes(REASONS[r].way)) as [Going<W>, ...Going<W>[]];

const RequestKey = Uuid;
const Written = {
  requestKey: RequestKey,
  person: Uuid.nullish(),
  note: Note.default(""),
};
/** Where exactly: the place, the lot by its name, and for what is kept by length, how long a piece. */
const Where = {
  place: Uuid.nullish(),
  lot: z.string().trim().max(40, "A lot has at most 40 characters.").default(""),
  /** Kept by length: how long each piece is. */
  stretchMm: Stretch.nullish(),
};

/** One move of one component. Quantities are in the base unit; pieces of a length for what is kept by length. */
export const StockEntry = z.discriminatedUnion("kind", [
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.enum(reasonsGoing("in", "out")),
    quantity: Quantity.positive("More than 0."),
    /** What came cost in all, in the home currency. */
    cost: Money.nullish(),
    /** Standard uncertainty of the quantity. */
    u: Quantity.nullish(),
    /** Where more is used than the book holds: count it up to what is used first. */
    countFirst: z.boolean().default(false),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("counted"),
    quantity: Quantity,
    u: Quantity.default(0),
    /** How it was counted, as read: by hand, or weighed with these readings. */
    entered: z.string().max(2000).default(""),
    /** What was learnt of a piece, remembered with the lot. */
    unitMass: z
      .strictObject({ g: More, u: z.number().min(0), sd: z.number().min(0).nullable(), pieces: z.int().min(1) })
      .nullish(),
    tareG: z.number().min(0).max(1e6).nullish(),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.enum(reasonsGoing("across")),
    quantity: Quantity.positive("More than 0."),
    to: Uuid,
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("cut"),
    /** The length that is used, each, and how many; what is left of each stretch is kept as an offcut. */
    cutMm: Millimetres,
    count: z.int("Write a whole number.").min(1).max(100_000),
  }),
  z.strictObject({
    ...Written,
    ...Where,
    kind: z.literal("made"),
    quantity: Quantity.positive("More than 0."),
    minutes: z.number().min(0).max(100_000).nullish(),
    from: z
      .array(z.strictObject({ component: Uuid, quantity: Quantity.positive("More than 0.") }))
      .min(1, "Say what it was made of.")
      .max(50),
  }),
]);
export type StockEntry = z.input<typeof StockEntry>;

export const Reverse = z.strictObject({ requestKey: RequestKey, person: Uuid.nullish(), note: Note.default("") });

export const Movement = z.object({
  id: z.string(),
  entry: z.string(),
  kind: z.enum(REASON_NAMES),
  at: z.string(),
  person: z.string().nullable(),
  note: z.string(),
  place: z.string(),
  lot: z.string(),
  stretchMm: z.number().nullable(),
  /** In the base unit; pieces for what is kept by length. */
  quantity: z.number(),
  counted: z.number().nullable(),
  u: z.number(),
  /** What the component came to with it, in the base unit. */
  balance: z.number(),
  value: z.string(),
  entered: z.string(),
  /** Whether the whole entry can still be reversed. */
  reversible: z.boolean(),
});
export type Movement = z.infer<typeof Movement>;

/** So much of a component at one place, of one lot, in pieces of one length. */
export const Balance = z.object({
  place: Uuid,
  placeCode: z.string(),
  held: z.boolean(),
  lot: z.string(),
  stretchMm: z.number().nullable(),
  quantity: z.number(),
  u: z.number(),
  tareG: z.number().nullable(),
  /** A piece of this lot as weighed: mean, its standard uncertainty, spread of single pieces, pieces weighed. */
  unitMass: z.object({ g: z.number(), u: z.number(), sd: z.number().nullable(), pieces: z.int() }).nullable(),
});
export type Balance = z.infer<typeof Balance>;

/** Stock set aside for a purpose: an amount, or pieces of at least a length. */
export const SetAside = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  purpose: Name,
  quantity: Quantity.positive("More than 0."),
  /** Kept by length: each piece this long, `quantity` of them. */
  cutMm: Millimetres.nullish(),
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

export const DueLine = z.object({
  order: Uuid,
  number: z.string(),
  supplier: z.string(),
  due: z.string().nullable(),
  quantity: z.number(),
});

export const ComponentDetail = z.object({
  component: Component,
  balances: z.array(Balance),
  movements: z.array(Movement),
  /** Whether there are older movements than those listed. */
  older: z.boolean(),
  setAside: z.array(Reservation),
  due: z.array(DueLine),
});
export type ComponentDetail = z.infer<typeof ComponentDetail>;

export const Person = z.strictObject({ id: Uuid, name: Name });
export const Supplier = z.strictObject({ id: Uuid, name: Name, leadDays: z.int().min(0).max(730).nullish() });
export const Place = z.strictObject({
  id: Uuid,
  code: z
    .string()
    .trim()
    .min(1, "Give it a code.")
    .max(20, "At most 20 characters.")
    .regex(/^[\p{L}\p{N}._-]+$/u, "Letters, digits and . _ - without spaces."),
  name: Name,
  /** What stands here is held back: on hand, but not free. */
  held: z.boolean().default(false),
});
/** The people, suppliers and places of a workshop, edited as one short list each. */
export const Rooms = z.strictObject({
  people: z.array(Person).max(200),
  suppliers: z.array(Supplier).max(2000),
  places: z.array(Place).min(1).max(2000),
});
export type Rooms = z.infer<typeof Rooms>;
export type Place = z.infer<typeof Place>;

export const OrderLine = z.strictObject({
  id: Uuid,
  component: Uuid,
  pack: Name,
  packs: z.int("Write a whole number of packs.").min(1, "At least 1.").max(1e6),
  /** In the component's base unit, all packs together. */
  quantity: Quantity.positive("More than 0."),
  /** For all packs, in the order's currency. */
  price: Money,
  due: Day.nullish(),
});
export const OrderInput = z.strictObject({
  supplier: Uuid,
  number: Name,
  placedOn: Day,
  currency: z.string().regex(/^[A-Z]{3}$/, "Three letters, such as GBP."),
  /** One of the order's currency in the home currency. */
  rate: z.string().regex(/^\d{1,6}(\.\d{1,8})?$/, "Write a rate such as 0.8534."),
  note: Note.default(""),
  lines: z.array(OrderLine).min(1, "An order has at least one line.").max(500),
});
export const Order = z.object({
  ...OrderInput.shape,
  id: Uuid,
  version: Version,
  received: z.record(Uuid, z.number()),
});
export type Order = z.infer<typeof Order>;
export type OrderInput = z.infer<typeof OrderInput>;
export const SaveOrder = z.strictObject({ version: Version, order: OrderInput });

/** A delivery: some lines of an order, in full or in part, with what freight and duty cost. */
export const Delivery = z.strictObject({
  ...Written,
  place: Uuid.nullish(),
  lines: z
    .array(
      z.strictObject({
        line: Uuid,
        quantity: Quantity.positive("More than 0."),
        lot: z.string().trim().max(40).default(""),
      }),
    )
    .min(1, "Say what came.")
    .max(500),
  /** Freight and duty in the order's currency, shared over the delivery by value or by mass. */
  freight: Money.default("0"),
  duty: Money.default("0"),
  shareBy: z.enum(["value", "mass"]).default("value"),
});
export type Delivery = z.input<typeof Delivery>;

/** A walk along the shelf: every jar counted, weighed or skipped, then posted. */
export const StocktakeLine = z.strictObject({
  component: Uuid,
  place: Uuid,
  lot: z.string().max(40),
  stretchMm: Stretch.nullish(),
  how: z.enum(["counted", "weighed", "skipped"]),
  counted: Quantity,
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
    .array(z.strictObject({ component: Uuid, place: Uuid, lot: z.string(), stretchMm: Stretch.nullish() }))
    .min(1)
    .max(20_000),
});

/** The ledger as it is written out and read in: one line a movement, entries' own columns repeated. */
export const LedgerLine = z.strictObject({
  requestKey: Uuid,
  at: Instant,
  kind: z.enum(REASON_NAMES),
  person: Uuid.nullish(),
  note: z.string().max(500),
  reverses: Uuid.nullish(),
  minutes: z.number().min(0).nullish(),
  component: Uuid,
  place: Uuid,
  lot: z.string().max(40),
  stretchMm: Stretch.nullish(),
  quantity: z.number().min(-1e9).max(1e9),
  counted: Quantity.nullish(),
  u: z.number().min(0),
  /** Variance of what the spot holds after it. */
  u2After: z.number().min(0),
  value: z.string().regex(/^-?\d{1,12}(\.\d{1,8})?$/, "Write an amount such as -4.20."),
  cost: z
    .string()
    .regex(/^\d{1,12}(\.\d{1,8})?$/, "Write an amount such as 4.20.")
    .nullish(),
  entered: z.string().max(2000),
});
export type LedgerLine = z.infer<typeof LedgerLine>;
