import { toMicrometre } from "../units/index.ts";
import type { BaseUnit, Caution, ComponentInput, ComponentKind, Form, Material } from "../contract/index.ts";

/** A field of a component that not every form has. */
export type FormField =
  | "size"
  | "alongMm"
  | "acrossMm"
  | "holeMm"
  | "holes"
  | "linkMm"
  | "coilMm"
  | "diameterMm"
  | "lengthMm"
  | "innerMm"
  | "thickMm"
  | "breakKg"
  | "perGram"
  | "massG";

export interface FormKnown {
  kind: ComponentKind;
  baseUnit: BaseUnit;
  fields: readonly FormField[];
  material?: Material;
  cautions?: readonly Caution[];
  /** Sizes that fill in the rest. */
  sizes?: Readonly<Record<string, Partial<ComponentInput>>>;
}

const BEAD: readonly FormField[] = ["size", "alongMm", "acrossMm", "holeMm", "massG"];
/** What hangs is also as thick as it is where a ring goes through it. */
const HUNG: readonly FormField[] = [...BEAD, "thickMm"];
const SEED: readonly FormField[] = ["size", "alongMm", "acrossMm", "holeMm", "perGram"];

/**
 * Round seed beads by size: common practice, from memory; along the thread from beads an inch. Pieces a gram is the
 * middle of the usual range, its uncertainty that of a rectangular distribution over the range (half width ÷ √3).
 */
const SEEDS: Record<string, Partial<ComponentInput>> = {
  "15/0": { acrossMm: 1.5, alongMm: 1.06, holeMm: 0.65, perGram: 270, perGramU: 12 },
  "11/0": { acrossMm: 2.1, alongMm: 1.41, holeMm: 0.85, perGram: 115, perGramU: 3 },
  "8/0": { acrossMm: 3, alongMm: 1.95, holeMm: 1.05, perGram: 38, perGramU: 1.2 },
  "6/0": { acrossMm: 4, alongMm: 2.54, holeMm: 1.4, perGram: 13.5, perGramU: 0.9 },
};

/** A bead named by one size has it along the thread and across it. */
const even = (...sizes: number[]) => Object.fromEntries(sizes.map((mm) => [`${mm} mm`, { alongMm: mm, acrossMm: mm }]));
/** A rondelle lies with its smaller number along the thread. */
const flat = (...sizes: [number, number][]) =>
  Object.fromEntries(sizes.map(([across, along]) => [`${across} x ${along} mm`, { alongMm: along, acrossMm: across }]));
/** Coated beading wire is sold by thousandths of an inch. */
const thousandths = (...sizes: number[]) =>
  Object.fromEntries(
    sizes.map((n) => [`0.${String(n).padStart(3, "0")} in`, { diameterMm: toMicrometre(n * 0.0254) }]),
  );
/** ASTM B258: d = 0.127 mm × 92^((36 − n)/39). */
const gauges = (...sizes: number[]) =>
  Object.fromEntries(sizes.map((n) => [`${n} ga`, { diameterMm: toMicrometre(0.127 * 92 ** ((36 - n) / 39)) }]));
const finding = (fields: readonly FormField[], more: Partial<FormKnown> = {}): FormKnown => ({
  kind: "finding",
  baseUnit: "piece",
  fields: [...fields, "massG"],
  material: "brass",
  cautions: ["small parts", "nickel"],
  ...more,
});
const line = (fields: readonly FormField[], more: Partial<FormKnown> = {}): FormKnown => ({
  kind: "stringing",
  baseUnit: "mm",
  fields: ["size", ...fields],
  ...more,
});
const bead = (more: Partial<FormKnown> = {}): FormKnown => ({
  kind: "bead",
  baseUnit: "piece",
  fields: BEAD,
  material: "glass",
  cautions: ["small parts"],
  ...more,
});
const PACKING: readonly FormField[] = ["size", "thickMm", "massG"];
/** What a parcel is measured by. */
const OUTER: readonly FormField[] = ["size", "alongMm", "acrossMm", "thickMm", "massG"];

/** What is known of every form: where it belongs, what it is kept in, which fields fit it, what its sizes fill in. */
export const FORM_KNOWN: Readonly<Record<Form, FormKnown>> = {
  seed: bead({ baseUnit: "g", fields: SEED, sizes: SEEDS }),
  cylinder: bead({
    baseUnit: "g",
    fields: SEED,
    sizes: { "11/0": { acrossMm: 1.8, alongMm: 1.4, holeMm: 0.8, perGram: 195, perGramU: 3 } },
  }),
  round: bead({ sizes: even(2, 3, 4, 6, 8, 10, 12) }),
  bicone: bead({ sizes: even(3, 4, 6), material: "crystal" }),
  rondelle: bead({ sizes: flat([4, 3], [6, 4], [8, 6]) }),
  cube: bead({ sizes: even(3, 4, 6, 8) }),
  drop: bead({ fields: HUNG }),
  dagger: bead({ fields: HUNG }),
  chip: bead({ material: "stone" }),
  tube: bead(),
  disc: bead(),
  "two-hole": bead({ fields: [...BEAD, "holes"] }),
  bar: bead({ fields: [...BEAD, "holes"], material: "brass" }),
  coin: bead({ kind: "focal", fields: HUNG }),
  leaf: bead({ kind: "focal", fields: HUNG }),
  star: bead({ kind: "focal", fields: HUNG }),
  ring: bead({ kind: "focal", fields: HUNG }),
  shell: bead({ kind: "focal", fields: HUNG, material: "shell" }),
  heart: bead({ kind: "focal", fields: HUNG }),
  bird: bead({ kind: "focal", fields: HUNG }),
  cabochon: bead({ kind: "focal", material: "stone" }),
  rectangle: bead({ kind: "focal", fields: HUNG }),
  diamond: bead({ kind: "focal", fields: HUNG }),
  cross: bead({ kind: "focal", fields: HUNG, material: "brass" }),
  medal: bead({ kind: "focal", fields: HUNG, material: "brass" }),
  gear: bead({ kind: "focal", fields: HUNG, material: "brass" }),
  animal: bead({ kind: "focal", fields: HUNG, material: "brass" }),
  focal: bead({ kind: "focal", fields: HUNG }),
  stone: bead({ kind: "focal", fields: HUNG, material: "stone" }),
  charm: bead({ kind: "focal", fields: HUNG, material: "brass" }),
  "crimp tube": finding(["size", "alongMm", "acrossMm", "innerMm"], {
    sizes: { "2 x 2 mm": { alongMm: 2, acrossMm: 2, innerMm: 1.3 } },
  }),
  "crimp bead": finding(["size", "alongMm", "acrossMm", "innerMm"]),
  "crimp cover": finding(["size", "alongMm", "acrossMm", "innerMm"], {
    sizes: { "3 mm": { alongMm: 3, acrossMm: 3 } },
  }),
  "jump ring": finding(["size", "diameterMm", "innerMm"]),
  "head pin": finding(["size", "lengthMm", "diameterMm"], { cautions: ["small parts", "nickel", "sharp ends"] }),
  "eye pin": finding(["size", "lengthMm", "diameterMm"], { cautions: ["small parts", "nickel", "sharp ends"] }),
  "ear wire": finding(["size", "diameterMm"], { cautions: ["nickel", "sharp ends"] }),
  "ear post": finding(["size", "diameterMm"], { cautions: ["nickel", "sharp ends", "small parts"] }),
  "ear nut": finding(["size"]),
  clasp: finding(["size", "alongMm", "acrossMm"]),
  "end cap": finding(["innerMm", "lengthMm"]),
  cone: finding(["innerMm", "lengthMm"]),
  "bead cap": finding(["innerMm", "alongMm", "acrossMm", "holeMm"]),
  connector: finding(["size", "alongMm", "acrossMm", "holes"]),
  guard: finding(["size", "diameterMm"]),
  "beading wire": line(["diameterMm", "breakKg"], { material: "steel", sizes: thousandths(14, 18, 19, 24) }),
  thread: line(["diameterMm", "breakKg"], { material: "nylon" }),
  "stretch cord": line(["diameterMm", "breakKg"], { material: "elastic", cautions: ["latex"] }),
  cord: line(["diameterMm"], { material: "cotton", cautions: ["cord round the neck"] }),
  ribbon: line(["acrossMm"], { material: "silk" }),
  chain: line(["linkMm", "diameterMm"], { material: "brass", cautions: ["nickel"] }),
  "craft wire": line(["diameterMm"], {
    material: "copper",
    sizes: gauges(16, 18, 20, 22, 24, 26, 28),
    cautions: ["sharp ends"],
  }),
  "memory wire": line(["diameterMm", "coilMm"], { material: "steel", cautions: ["hard wire", "sharp ends"] }),
  "stone chain": line(["linkMm"], { material: "stone" }),
  needle: {
    kind: "consumable",
    baseUnit: "piece",
    fields: ["size", "lengthMm", "diameterMm"],
    material: "steel",
    cautions: ["needle"],
  },
  glue: { kind: "consumable", baseUnit: "piece", fields: ["size"], cautions: ["solvent glue"] },
  bag: { kind: "packaging", baseUnit: "piece", fields: PACKING, material: "polyethylene" },
  card: { kind: "packaging", baseUnit: "piece", fields: PACKING, material: "card" },
  "packing box": { kind: "packaging", baseUnit: "piece", fields: OUTER, material: "card" },
  label: { kind: "packaging", baseUnit: "piece", fields: PACKING, material: "paper" },
  mailer: { kind: "packaging", baseUnit: "piece", fields: OUTER, material: "paper" },
};

/** The forms of a kind, in the catalogue's order. */
export const formsOf = (kind: ComponentKind): Form[] =>
  (Object.keys(FORM_KNOWN) as Form[]).filter((form) => FORM_KNOWN[form].kind === kind);

/** What choosing a form, or one of its sizes, fills in: never over something that is there already. */
export function filledIn(of: Partial<ComponentInput>, form: Form, size: string | null): Partial<ComponentInput> {
  const { kind, baseUnit, material, cautions, sizes } = FORM_KNOWN[form];
  const by: Partial<ComponentInput> = {
    kind,
    baseUnit,
    ...(material ? { material } : {}),
    cautions: [...(cautions ?? [])],
    ...(size !== null ? (sizes?.[size] ?? {}) : {}),
  };
  const empty = (x: unknown) => x === null || x === undefined || x === "" || (Array.isArray(x) && x.length === 0);
  return Object.fromEntries(
    Object.entries(by).filter(([field]) => empty(of[field as keyof ComponentInput])),
  ) as Partial<ComponentInput>;
}

/** The usual cautions in words. Local rules and the maker's own judgement come first. */
export const CAUTION_WORDS: Readonly<Record<Caution, string>> = {
  "small parts": "Small parts: not for children under 3.",
  magnet: "Small magnet: never swallow; keep from children and pacemakers.",
  "solvent glue": "Solvent glue: fresh air, no skin contact, leave overnight.",
  flame: "Flame or thread burner: adults only.",
  "hard wire": "Hard wire: eye protection and hard-wire cutters.",
  "sharp ends": "Sharp ends: eye protection when cutting, tuck ends in.",
  needle: "Needle: keep from small children.",
  nickel: "May contain nickel: say what is known.",
  lead: "May contain lead: say what is known.",
  latex: "May contain latex: say what is known.",
  "cord round the neck": "A cord round the neck of a small child is a danger.",
};
