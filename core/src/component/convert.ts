import type { BaseUnit, ComponentInput } from "../contract/index.ts";
import { pieceMass } from "./mass.ts";

type Measured = Pick<
  ComponentInput,
  "form" | "alongMm" | "acrossMm" | "holeMm" | "material" | "massG" | "perGram" | "perGramU"
>;

/** An amount with its standard uncertainty: 0 where it is exact. */
export interface Amount {
  n: number;
  u: number;
}

/**
 * The same stuff in another unit: pieces by grams, grams by pieces, and the length that beads make strung side by side.
 * Exact where nothing is assumed; else with the standard uncertainty that the mass of a piece brings.
 * @returns null where it can't be said: no mass, no size along the thread
 */
export function convert(amount: number, from: BaseUnit, to: BaseUnit, of: Measured): Amount | null {
  if (from === to) return { n: amount, u: 0 };
  const pieces = inPieces(amount, from, of);
  if (!pieces) return null;
  if (to === "piece") return pieces;
  if (to === "mm") return of.alongMm ? { n: pieces.n * of.alongMm, u: pieces.u * of.alongMm } : null;
  const mass = pieceMass(of);
  return mass && { n: pieces.n * mass.g, u: Math.hypot(pieces.u * mass.g, pieces.n * mass.u) };
}

function inPieces(amount: number, from: BaseUnit, of: Measured): Amount | null {
  if (from === "piece") return { n: amount, u: 0 };
  if (from === "mm") return of.alongMm ? { n: amount / of.alongMm, u: 0 } : null;
  const mass = pieceMass(of);
  if (!mass) return null;
  const n = amount / mass.g;
  return { n, u: n * (mass.u / mass.g) };
}
