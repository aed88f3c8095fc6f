import type { ComponentInput, Material } from "../contract/index.ts";

/**
 * Density, g/cm³. Handbook values: soda-lime glass 2.5, lead crystal 3.1, brass 8.5, sterling 10.4, freshwater pearl
 * 2.7, hardwood 0.7, acrylic 1.18, haematite 5.2; copper 8.96, steel 7.85, aluminium 2.70 (CRC Handbook of Chemistry
 * and Physics, from memory); the rest common practice.
 */
export const DENSITY: Readonly<Record<Material, number>> = {
  glass: 2.5,
  crystal: 3.1,
  ceramic: 2.4,
  stone: 2.65,
  haematite: 5.2,
  pearl: 2.7,
  shell: 2.7,
  wood: 0.7,
  resin: 1.18,
  brass: 8.5,
  copper: 8.96,
  bronze: 8.8,
  steel: 7.85,
  silver: 10.4,
  "silver plate": 8.5,
  "gold plate": 8.5,
  aluminium: 2.7,
  nylon: 1.14,
  polyethylene: 0.94,
  silk: 1.34,
  cotton: 1.54,
  leather: 0.9,
  elastic: 1.1,
  paper: 0.8,
  card: 0.8,
  plastic: 1.18,
  other: 2.5,
};

type Shaped = Pick<ComponentInput, "form" | "alongMm" | "acrossMm" | "holeMm" | "material">;

/**
 * Volume of a bead with its hole taken out, mm³; null where its shape and sizes don't tell. `a` lies along the hole,
 * `b` across it. Seed beads are cylinders with rounded edges, drops and daggers half ellipsoids on a cone, chips half
 * of their box: rough, and shown as an estimate.
 */
export function volumeMm3({ form, alongMm: a, acrossMm: b, holeMm }: Shaped): number | null {
  if (!a || !b) return null;
  const solid = solidOf(form ?? null, a, b);
  if (solid === null) return null;
  const through = form === "drop" || form === "dagger" ? a / 2 : a;
  return Math.max(solid - (Math.PI / 4) * (holeMm ?? 0) ** 2 * through, 0.2 * solid);
}

function solidOf(form: Shaped["form"], a: number, b: number): number | null {
  const cylinder = (Math.PI / 4) * b * b * a;
  switch (form) {
    case "round":
    case "rondelle":
    case "focal":
    case "stone":
      return (Math.PI / 6) * a * b * b;
    case "bicone":
      return cylinder / 3;
    case "cube":
    case "bar":
    case "two-hole":
      return a * b * (form === "cube" ? b : a);
    case "cylinder":
    case "tube":
    case "disc":
    case "crimp tube":
      return cylinder;
    case "seed":
      return 0.85 * cylinder;
    case "drop":
    case "dagger":
      return (Math.PI / 8) * a * a * b;
    case "chip":
      return 0.5 * a * b * b * 0.6;
    default:
      return null;
  }
}

export interface PieceMass {
  g: number;
  /** Standard uncertainty, g. */
  u: number;
  from: "measured" | "pieces a gram" | "estimated";
}

/** An estimate from shape and density is good to about a fifth: common practice, no source. */
const ESTIMATE_U = 0.2;

/** Mass of a piece: measured, else by pieces a gram, else from shape and density and marked as an estimate. */
export function pieceMass(c: Shaped & Pick<ComponentInput, "massG" | "perGram" | "perGramU">): PieceMass | null {
  if (c.massG) return { g: c.massG, u: 0.01 * c.massG, from: "measured" };
  if (c.perGram) return { g: 1 / c.perGram, u: (c.perGramU ?? 0) / c.perGram ** 2, from: "pieces a gram" };
  const mm3 = volumeMm3(c);
  if (mm3 === null) return null;
  const g = (mm3 / 1000) * DENSITY[c.material ?? "glass"];
  return { g, u: ESTIMATE_U * g, from: "estimated" };
}
