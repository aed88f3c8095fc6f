/** The plain words that components and designs are sorted by: lists alone, so that a page need not carry schemas. */
export const ROLE_KINDS = ["bead", "focal", "finding", "stringing", "consumable", "packaging", "mix"] as const;

export const SHAPES = [
  "seed",
  "cylinder",
  "round",
  "bicone",
  "rondelle",
  "cube",
  "drop",
  "dagger",
  "chip",
  "tube",
  "disc",
  "two-hole",
  "bar",
  "coin",
  "leaf",
  "star",
  "ring",
  "shell",
  "heart",
  "bird",
  "cabochon",
  "rectangle",
  "diamond",
  "cross",
  "medal",
  "gear",
  "animal",
] as const;

export const FINISHES = ["opaque", "matt", "clear", "lustre", "iridescent", "metal", "pearl"] as const;

export type Shape = (typeof SHAPES)[number];

export type Finish = (typeof FINISHES)[number];

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
  "ear post",
  "ear nut",
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

/** What a unit of material is taken to cost: the average of what is on hand, what was paid last, or a new pack. */
export const COST_BASES = ["average", "last", "replacement"] as const;

export type CostBasis = (typeof COST_BASES)[number];

/** What a packed box's cost is made of, in the order in which it adds up. */
export const COST_STEPS = [
  "material",
  "spares",
  "contents",
  "packaging",
  "labour",
  "postage",
  "fees",
  "overhead",
] as const;

export type CostStep = (typeof COST_STEPS)[number];

/** What work on a box is made of. Each has a rate: seconds for one of it; `set-up` comes once a run. */
export const WORK_STEPS = ["count", "weigh", "cut", "prepare", "bag", "label", "set-up"] as const;

export type WorkStep = (typeof WORK_STEPS)[number];

/** By which marks a workshop measures what it cuts: sixteenths of an inch, or millimetres. */
export const RULERS = ["in", "mm"] as const;

/** How much a maker must be able to do, in its order. */
export const LEVELS = ["first steps", "comfortable", "practised", "demanding"] as const;

export type Level = (typeof LEVELS)[number];

/** What the bench checks beside counting, in the order in which it says it. What each compares: docs/fit.md. */
export const FIT_RULES = [
  "hole",
  "crimp",
  "cover",
  "pin",
  "ring",
  "cone",
  "slip",
  "cut",
  "links",
  "alike",
  "strength",
  "pair",
  "drops",
  "magnet",
  "lacks",
  "body",
] as const;

export type FitRule = (typeof FIT_RULES)[number];

/** How closely the steps of a sheet are told. */
export const READING_LEVELS = ["short", "plain", "every move"] as const;

export type ReadingLevel = (typeof READING_LEVELS)[number];
