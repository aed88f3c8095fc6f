import { type Finish, type KeyEntry, type Shape, SHAPES } from "../contract/index.ts";

export interface Appearance {
  shape: Shape;
  colour: string;
  finish: Finish;
  /** Size along the thread, mm. */
  alongMm: number;
  /** Size across the thread, mm. */
  acrossMm: number;
}

type Looks = Partial<Record<"shape" | "form" | "colour" | "finish" | "alongMm" | "acrossMm", unknown>> & {
  name: string;
  kind: string;
};

/** Earthy, well-spread stand-ins for roles that nobody has given a colour yet. */
const STAND_IN = [
  "#8fae9b",
  "#e3c987",
  "#a8492f",
  "#4f7a76",
  "#c9c1b4",
  "#5d6b8c",
  "#b98a5e",
  "#8c5a74",
  "#6f8f4e",
  "#3f4a4f",
];

const WORDS: [RegExp, Shape][] = [
  [/two-hole|wedge/i, "two-hole"],
  [/spacer bar|\bbar\b/i, "bar"],
  [/cylinder/i, "cylinder"],
  [/seed|\d+\/0/i, "seed"],
  [/bicone/i, "bicone"],
  [/rondelle|saucer/i, "rondelle"],
  [/cube/i, "cube"],
  [/dagger/i, "dagger"],
  [/drop|briolette/i, "drop"],
  [/chip/i, "chip"],
  [/tube|crimp/i, "tube"],
  [/disc|heishi|cup/i, "disc"],
];

/** Across over along, where only the size along the thread is known: common practice, from memory. */
const ACROSS: Record<Shape, number> = {
  seed: 1.5,
  cylinder: 1.3,
  round: 1,
  bicone: 1,
  rondelle: 1.6,
  cube: 1,
  drop: 2,
  dagger: 3.6,
  chip: 1.4,
  tube: 0.6,
  disc: 3,
  "two-hole": 1.7,
  bar: 4,
};

/** How a bead or component is drawn: what is said of it, else what its name and size let one guess. */
export function appearanceOf(of: Looks, index = 0): Appearance {
  const named = WORDS.find(([word]) => word.test(of.name))?.[1];
  const guess: Shape = named ?? (of.kind === "focal" ? "drop" : "round");
  // A component's form is a shape where it is a bead.
  const shape =
    ((of.shape ?? (SHAPES as readonly unknown[]).find((s) => s === of.form)) as Shape | null | undefined) ?? guess;
  const alongMm = positive(of.alongMm) ?? (of.kind === "finding" ? 2 : 4);
  return {
    shape,
    colour:
      (of.colour as string | null | undefined) ??
      (of.kind === "finding" ? "#b9b6b0" : STAND_IN[index % STAND_IN.length]!),
    finish: (of.finish as Finish | null | undefined) ?? (of.kind === "finding" ? "metal" : "opaque"),
    alongMm,
    acrossMm: positive(of.acrossMm) ?? alongMm * ACROSS[shape],
  };
}

const positive = (n: unknown) => (typeof n === "number" && n > 0 ? n : null);

export const appearancesOf = (key: readonly KeyEntry[]): Map<string, Appearance> =>
  new Map(key.map((entry, i) => [entry.key, appearanceOf(entry, i)]));
