import { type Finish, type KeyEntry, type Shape, SHAPES } from "../contract/index.ts";
import { fittingOf, fittingSize } from "./fittings.ts";
import type { FittingShape } from "./picture.ts";

export interface Appearance {
  shape: Shape | FittingShape;
  colour: string;
  finish: Finish;
  /** Size along the thread, mm. */
  alongMm: number;
  /** Size across the thread, mm. */
  acrossMm: number;
}

type Looks = Partial<Record<"shape" | "form" | "colour" | "finish" | "alongMm" | "acrossMm" | "heightMm", unknown>> & {
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
  [/\bcoin\b/i, "coin"],
  [/\bleaf|leaves\b/i, "leaf"],
  [/\bstar\b/i, "star"],
  [/\bshell\b/i, "shell"],
  [/\bheart\b/i, "heart"],
  [/\b(bird|wren|finch|swallow|owl|bee|moth)\b/i, "bird"],
  [/\b(donut|hoop|ring)\b/i, "ring"],
  [/\b(stone|cabochon)\b/i, "cabochon"],
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
  coin: 1,
  leaf: 0.6,
  star: 1,
  ring: 1,
  shell: 1,
  heart: 1,
  bird: 1.2,
  cabochon: 1,
};
/** A drop or dagger is drilled through its top: it lies with its thickness along the thread and hangs by its length. */
export const isTopDrilled = ({ shape, alongMm, acrossMm }: Appearance) =>
  (shape === "drop" || shape === "dagger") && acrossMm > alongMm;

/** How a bead or component is drawn: what is said of it, else what its name and size let one guess. */
export function appearanceOf(of: Looks, index = 0): Appearance {
  const fitting = of.shape == null ? fittingOf(of as unknown as KeyEntry) : null;
  const metal = {
    colour: (of.colour as string | null | undefined) ?? "#b9b6b0",
    finish: (of.finish as Finish | null | undefined) ?? ("metal" as const),
  };
  if (fitting) return { shape: fitting, ...metal, ...fittingSize(fitting, of as unknown as KeyEntry) };
  // Crystals and stone beads are strung as rounds: a stone seen from the front is a focal.
  const words = of.kind === "focal" ? WORDS : WORDS.filter(([, shape]) => shape !== "cabochon" && shape !== "ring");
  const named = words.find(([word]) => word.test(of.name))?.[1];
  const guess: Shape = named ?? (of.kind === "focal" ? "drop" : "round");
  // A component's form is a shape where it is a bead.
  const shape =
    ((of.shape ?? (SHAPES as readonly unknown[]).find((s) => s === of.form)) as Shape | null | undefined) ?? guess;
  const alongMm = positive(of.alongMm) ?? (of.kind === "finding" ? 2 : 4);
  return {
    shape,
    ...(of.kind === "finding"
      ? metal
      : {
          colour: (of.colour as string | null | undefined) ?? STAND_IN[index % STAND_IN.length]!,
          finish: (of.finish as Finish | null | undefined) ?? "opaque",
        }),
    alongMm,
    acrossMm: positive(of.heightMm) ?? positive(of.acrossMm) ?? alongMm * ACROSS[shape],
  };
}

/** What a look is called when it hangs, where it is drawn otherwise then than on a strand. */
export const hungKey = (key: string) => `${key} hung`;

const positive = (n: unknown) => (typeof n === "number" && n > 0 ? n : null);

/** The looks of a bead key, by key; of what has a height of its own also as it hangs, by `hungKey`. */
export function appearancesOf(key: readonly KeyEntry[]): Map<string, Appearance> {
  const looks = new Map<string, Appearance>();
  key.forEach((entry, i) => {
    const look = appearanceOf(entry, i);
    looks.set(entry.key, look);
    if (entry.heightMm == null) return;
    const across = positive(entry.acrossMm) ?? look.alongMm;
    looks.set(hungKey(entry.key), { ...look, alongMm: entry.heightMm, acrossMm: across });
  });
  return looks;
}
