import { colourSaid, formSaid } from "../component/index.ts";
import { type Finish, type KeyEntry, type Shape, SHAPES } from "../contract/index.ts";
import { fittingOf, fittingSize } from "./fittings.ts";
import type { ChainLink, Fitting, FittingShape } from "./picture.ts";

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

/** Of what neither its record nor its name gives a colour: undyed, so that nothing is shown that nobody said. */
const UNDYED = "#b9b2a4";
/** The plain metal of what nobody gave a colour. */
const METAL_COLOUR = "#b9b6b0";

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
  rectangle: 0.5,
  diamond: 0.65,
  cross: 0.7,
  medal: 1,
  gear: 1,
  animal: 0.8,
};
/** A pendant of no shape that anybody named is a drop, drilled lengthwise: its one size is its longest. */
const PENDANT_ACROSS = 0.55;
/** A drop or dagger is drilled through its top: it lies with its thickness along the thread and hangs by its length. */
export const isTopDrilled = ({ shape, alongMm, acrossMm }: Appearance) =>
  (shape === "drop" || shape === "dagger") && acrossMm > alongMm;

/** The shape that a name says. Stone beads are strung as rounds: a stone or ring seen from the front is a focal. */
function shapeSaid(name: string, kind: string): Shape | null {
  const form = formSaid(name, kind);
  if (kind === "focal" && form === null && /\bstone\b/i.test(name)) return "cabochon";
  if (form === "crimp tube" || form === "crimp bead") return "tube";
  if (kind !== "focal" && (form === "cabochon" || form === "ring")) return null;
  return (SHAPES as readonly unknown[]).includes(form) ? (form as Shape) : null;
}

/** How a bead or component is drawn: what is said of it, else what its name and size let one guess. */
export function appearanceOf(of: Looks): Appearance {
  const fitting = of.shape == null ? fittingOf(of as unknown as KeyEntry) : null;
  const metal = {
    colour: (of.colour as string | null | undefined) ?? colourSaid(of.name) ?? METAL_COLOUR,
    finish: (of.finish as Finish | null | undefined) ?? ("metal" as const),
  };
  if (fitting) return { shape: fitting, ...metal, ...fittingSize(fitting, of as unknown as KeyEntry) };
  const guess: Shape = shapeSaid(of.name, of.kind) ?? (of.kind === "focal" ? "drop" : "round");
  // A component's form is a shape where it is a bead.
  const given = (of.shape ?? (SHAPES as readonly unknown[]).find((s) => s === of.form)) as Shape | null | undefined;
  const shape = given ?? guess;
  const isPendant = of.kind === "focal" && shape === "drop" && given == null && !/drop|briolette/i.test(of.name);
  const alongMm = positive(of.alongMm) ?? (of.kind === "finding" ? 2 : 4);
  return {
    shape,
    ...(of.kind === "finding" || (of.kind === "stringing" && /\bchain\b/i.test(`${String(of.form ?? "")} ${of.name}`))
      ? metal
      : {
          colour: (of.colour as string | null | undefined) ?? colourSaid(of.name) ?? UNDYED,
          finish: (of.finish as Finish | null | undefined) ?? "opaque",
        }),
    alongMm,
    acrossMm: positive(of.heightMm) ?? positive(of.acrossMm) ?? alongMm * (isPendant ? PENDANT_ACROSS : ACROSS[shape]),
  };
}

/** What a look is called when it hangs, where it is drawn otherwise then than on a strand. */
export const hungKey = (key: string) => `${key} hung`;

const positive = (n: unknown) => (typeof n === "number" && n > 0 ? n : null);

/** The looks of a bead key, by key; of what has a height of its own also as it hangs, by `hungKey`. */
export function appearancesOf(key: readonly KeyEntry[]): Map<string, Appearance> {
  const looks = new Map<string, Appearance>();
  key.forEach((entry) => {
    const look = appearanceOf(entry);
    looks.set(entry.key, look);
    if (entry.heightMm == null) return;
    const across = positive(entry.acrossMm) ?? look.alongMm;
    looks.set(hungKey(entry.key), { ...look, alongMm: entry.heightMm, acrossMm: across });
  });
  return looks;
}

/** What is drawn in the colour of its role. @param other where its role is known and has no look; of no role: metal */
export const colourOf = (key: string | null, looks: ReadonlyMap<string, Appearance>, other = METAL_COLOUR): string =>
  key === null ? METAL_COLOUR : (looks.get(key)?.colour ?? other);

/** The look of a finding that no row names: its role's colour and finish, its own shape and size. */
export function lookOfFitting(f: Fitting, looks: ReadonlyMap<string, Appearance>): Appearance {
  const finish = (f.key === null ? undefined : looks.get(f.key)?.finish) ?? "metal";
  return { shape: f.shape, colour: colourOf(f.key, looks), finish, alongMm: f.alongMm, acrossMm: f.acrossMm };
}

/**
 * A link of chain as it is drawn, mm: half its length and width, how thick its wire is, and its own metal's or enamel's
 * colour; of stone chain a stone, which is filled.
 */
export function linkLook({ lengthMm, stone, key }: ChainLink, looks: ReadonlyMap<string, Appearance>) {
  return {
    rx: lengthMm * (stone ? 0.46 : 0.6),
    ry: lengthMm * (stone ? 0.46 : 0.3),
    thick: Math.min(1, Math.max(0.35, lengthMm * 0.15)),
    colour: colourOf(key, looks),
    filled: stone,
  };
}
