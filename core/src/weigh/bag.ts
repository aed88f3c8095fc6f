import { type Balance, readingU } from "./count.ts";

/** What lies in a bag: so many pieces, and what is known of one. */
export interface BagItem {
  name: string;
  count: number;
  /** Mass of a piece, its standard uncertainty and the spread of single pieces, g; null where nobody knows. */
  piece: { g: number; u: number; sd: number; estimated: boolean } | null;
}

/** What one missing piece of an item would show as. */
export interface Detectable {
  name: string;
  /** So many pieces fewer are seen; 1: a single one. Infinity where even all of them would not be. */
  from: number;
  count: number;
}

export interface BagWeight {
  /** What the bag should weigh, net, g. */
  g: number;
  /** Its standard uncertainty with the reading's, and the ± of 95 %. */
  u: number;
  plusMinus: number;
  /** The least mass that is seen to be missing. */
  leastG: number;
  items: Detectable[];
  /** Which item's mass is an estimate, and brings most of the ±: weighing some of it would help; null for none. */
  weighFirst: string | null;
  /** Items that nobody knows the mass of: they are to be left off the scale. */
  unknown: string[];
}

/** The normal quantile of 0.95 and of 0.975 (to 7 digits; NIST/SEMATECH e-Handbook, 1.3.6.7.1). */
const Z95 = 1.6448536;
const Z975 = 1.959964;

/**
 * What a bag should weigh and what its weight can show. The mass is the sum of its pieces'; its variance that of how
 * well each mean is known (which all pieces of an item share), of single pieces, and of two readings, with the bag and
 * without it (JCGM 100:2008, 5.1).
 *
 * A bag is called light where it weighs less than expected by more than chance explains in 19 of 20 good bags; a
 * shortage is detectable where 19 of 20 such bags are then called light: (z₀.₉₅ + z₀.₉₅) u, the detection
 * limit of ISO 11843-1.
 */
export function bagWeight(items: readonly BagItem[], balance: Balance): BagWeight {
  const known = items.flatMap(({ name, count, piece }) => (piece && count > 0 ? [{ name, count, piece }] : []));
  const g = known.reduce((sum, i) => sum + i.count * i.piece.g, 0);
  const partOf = ({ count, piece }: (typeof known)[number]) => (count * piece.u) ** 2 + count * piece.sd ** 2;
  const variance = known.reduce((sum, i) => sum + partOf(i), 0);
  const estimated = known.filter((i) => i.piece.estimated).sort((a, b) => partOf(b) - partOf(a))[0];
  const u = Math.sqrt(variance + 2 * readingU(balance) ** 2);
  const leastG = 2 * Z95 * u;
  return {
    g,
    u,
    plusMinus: Z975 * u,
    leastG,
    items: known.map(({ name, count, piece }) => {
      const from = Math.ceil(leastG / piece.g - 1e-9);
      return { name, count, from: from > count ? Infinity : Math.max(1, from) };
    }),
    weighFirst: estimated && 3 * partOf(estimated) > variance ? estimated.name : null,
    unknown: items.filter((i) => i.piece === null && i.count > 0).map((i) => i.name),
  };
}

export type BagVerdict =
  | { is: "fits" }
  | { is: "light" | "heavy"; byG: number; /** Which single item, so many of it, explains it. */ by: string[] };

/** What a reading says of a bag: within what chance explains, or light or heavy, and by how many of what. */
export function judgeBag(weight: BagWeight, items: readonly BagItem[], readingG: number): BagVerdict {
  const off = readingG - weight.g;
  if (Math.abs(off) <= Z95 * weight.u) return { is: "fits" };
  const light = off < 0;
  const by = items.flatMap(({ name, count, piece }) => {
    if (!piece || count === 0) return [];
    const n = Math.round(Math.abs(off) / piece.g);
    const explains = n >= 1 && Math.abs(Math.abs(off) - n * piece.g) <= Z975 * weight.u;
    return explains && n <= Math.max(3, count / 10) && (!light || n <= count) ? [`${n} × ${name}`] : [];
  });
  return { is: light ? "light" : "heavy", byG: Math.abs(off), by };
}
