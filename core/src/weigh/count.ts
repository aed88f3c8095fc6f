import { COVERAGE_95 } from "../units/index.ts";
/**
 * Counting by weighing, by the method of JCGM 100:2008 (the GUM). All masses in grams.
 *
 * The count is n = (gross − tare) ÷ m, with m the mass of a piece. Its uncertainty has three sources: what the scale
 * reads (a rectangular distribution over its readability, GUM 4.3.7, and its repeatability), how well m is known, and
 * how much single pieces vary.
 */
export interface Balance {
  /** Readability: the smallest step shown. */
  d: number;
  /** Standard deviation of repeated readings; 0 where it is not known. */
  repeatability: number;
}

/** So many pieces weighed together. */
export interface Sample {
  pieces: number;
  /** Net mass of them all. */
  g: number;
  /** Whether they went back into the jar that is being counted, or are still in it. */
  fromJar: boolean;
}

/** What earlier weighings of the lot found for the mass of a piece. */
export interface KnownPiece {
  g: number;
  u: number;
  /** Standard deviation of single pieces; null where it was never seen. */
  sd: number | null;
  /** How many pieces that rests on. */
  pieces: number;
}

export interface Weighing {
  balance: Balance;
  /** Readings of the jar with what is in it; several are averaged. */
  gross: readonly number[];
  /** The empty jar, as read on the same scale; 0 where the scale was zeroed with it on. */
  tare: number;
  samples: readonly Sample[];
  known: KnownPiece | null;
  /** Spread of single pieces as a share of their mass, where neither samples nor the lot tell. */
  usualSpread: number;
}

export type Source = "scale" | "piece" | "spread";

export interface WeighedCount {
  /** Whole number nearest to what was weighed. */
  n: number;
  /** Before rounding. */
  exact: number;
  /** Combined standard uncertainty, pieces. */
  u: number;
  /** Half width of the 95 % interval, whole pieces, rounded up. */
  plusMinus: number;
  /** Effective degrees of freedom (GUM G.4); Infinity where nothing was estimated from few. */
  freedom: number;
  /** Standard uncertainty from each source, pieces. */
  from: Record<Source, number>;
  dominant: Source;
  /** A piece: mean mass, its standard uncertainty and the spread of single pieces. */
  piece: KnownPiece & { sd: number };
}

/**
 * Standard uncertainty of one reading: rectangular over the readability (half width d/2, so d/√12), and
 * repeatability.
 */
export const readingU = ({ d, repeatability }: Balance) => Math.hypot(d / Math.sqrt(12), repeatability);

/** Usual spread of single pieces as a share of their mass, by form: common practice, from memory. */
export const USUAL_SPREAD: Readonly<Record<string, number>> = {
  seed: 0.06,
  cylinder: 0.03,
  chip: 0.35,
  stone: 0.08,
  focal: 0.08,
  "jump ring": 0.02,
  "crimp tube": 0.02,
};
export const usualSpread = (form: string | null | undefined) => USUAL_SPREAD[form ?? ""] ?? 0.05;

/** @returns the count with its uncertainty, or what is missing to count */
export function countByWeight(w: Weighing): WeighedCount | { fault: string } {
  if (w.gross.length === 0) return { fault: "Put the jar on the scale." };
  const samples = w.samples.filter((s) => s.pieces > 0 && s.g > 0);
  if (samples.length === 0 && !w.known)
    return { fault: "Weigh a few pieces that you have counted: twenty are a good start." };
  const net = w.gross.reduce((a, b) => a + b, 0) / w.gross.length - w.tare;
  if (net < 0) return { fault: "The jar weighs less than its tare. Weigh the empty jar again." };
  const reading = readingU(w.balance);
  const piece = pieceOf(samples, w, reading);
  if (!(piece.g > 0)) return { fault: "The sample weighs nothing. Weigh more pieces." };

  const n = net / piece.g;
  const scale = Math.hypot(reading / Math.sqrt(w.gross.length), w.tare === 0 ? 0 : reading) / piece.g;
  // Mean mass by the scale's part, and by which pieces happened to be in the sample.
  const c = piece.sd / piece.g;
  const byScale = (n * piece.scaleU) / piece.g;
  // Of a sample out of this very jar only the pieces that were not in it are uncertain: 1/k − 1/n, not 1/k + 1/n.
  const inJar = Math.min(piece.inJar, n);
  const ofSample = piece.pieces > 0 ? (n * c) / Math.sqrt(piece.pieces) : 0;
  const ofJar = c * Math.sqrt(n);
  const shared = piece.pieces > 0 ? (2 * c * c * n * inJar) / piece.pieces : 0;
  const from: Record<Source, number> = {
    scale: Math.hypot(scale, byScale),
    piece: Math.hypot(Math.sqrt(Math.max(0, ofSample ** 2 - shared)), (n * piece.knownU) / piece.g),
    spread: ofJar,
  };
  const u = Math.sqrt(
    Math.max(0, from.scale ** 2 + ofSample ** 2 + ofJar ** 2 - shared + ((n * piece.knownU) / piece.g) ** 2),
  );
  // Welch–Satterthwaite: only the spread is estimated from few, if it is.
  const spreadShare = Math.max(0, ofSample ** 2 + ofJar ** 2 - shared);
  const freedom =
    Number.isFinite(piece.freedom) && spreadShare > 0 ? piece.freedom * (u ** 4 / spreadShare ** 2) : Infinity;
  const factor = studentFactor(freedom);
  const dominant = (Object.keys(from) as Source[]).reduce((a, b) => (from[b] > from[a] ? b : a));
  const { g, u: pieceU, sd, pieces } = piece;
  return {
    n: Math.round(n),
    exact: n,
    u,
    plusMinus: Math.ceil(factor * u - 1e-9),
    freedom,
    from,
    dominant,
    piece: { g, u: pieceU, sd, pieces },
  };
}

/** Student's t for 95 %, two-sided, by degrees of freedom from 1 on: JCGM 100:2008, table G.2. */
const T95 = [
  12.71, 4.3, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26, 2.23, 2.2, 2.18, 2.16, 2.14, 2.13, 2.12, 2.11, 2.1, 2.09, 2.09,
];
const T95_MORE: readonly [from: number, t: number][] = [
  [100, 1.984],
  [50, 2.01],
  [45, 2.01],
  [40, 2.02],
  [35, 2.03],
  [30, 2.04],
  [25, 2.06],
  [21, 2.08],
];

/** The coverage factor for 95 %; degrees of freedom between the table's are taken down to the next, as the GUM does. */
export function studentFactor(freedom: number): number {
  if (freedom >= 1000) return COVERAGE_95;
  return T95_MORE.find(([from]) => freedom >= from)?.[1] ?? T95[Math.max(1, Math.floor(freedom)) - 1]!;
}

interface PieceFound {
  g: number;
  u: number;
  sd: number;
  pieces: number;
  /** The scale's part in the mean, g; and what the lot's remembered mean brings, g. */
  scaleU: number;
  knownU: number;
  /** How many of the sampled pieces are in the jar that is counted. */
  inJar: number;
  freedom: number;
}

function pieceOf(samples: readonly Sample[], { known, usualSpread }: Weighing, reading: number): PieceFound {
  const pieces = samples.reduce((sum, s) => sum + s.pieces, 0);
  const mean = pieces > 0 ? samples.reduce((sum, s) => sum + s.g, 0) / pieces : known!.g;
  // From three samples on, they tell the spread themselves: what differs between them more than the scale explains.
  let sd = known?.sd ?? usualSpread * mean;
  let freedom = Infinity;
  if (samples.length >= 3) {
    const between = samples.reduce((sum, s) => sum + s.pieces * (s.g / s.pieces - mean) ** 2, 0) / (samples.length - 1);
    const ofScale = samples.reduce((sum, s) => sum + (2 * reading * reading) / s.pieces, 0) / samples.length;
    sd = Math.sqrt(Math.max(between - ofScale, 0));
    freedom = samples.length - 1;
  }
  if (pieces === 0) return { ...known!, sd, scaleU: 0, knownU: known!.u, pieces: 0, inJar: 0, freedom };
  // A net mass is two readings, with and without the pieces.
  const scaleU = (Math.SQRT2 * reading * Math.sqrt(samples.length)) / pieces;
  const own: PieceFound = {
    g: mean,
    sd,
    pieces,
    scaleU,
    knownU: 0,
    inJar: samples.reduce((sum, s) => sum + (s.fromJar ? s.pieces : 0), 0),
    freedom,
    u: Math.hypot(scaleU, sd / Math.sqrt(pieces)),
  };
  return own;
}

/** What is remembered of a lot's piece once it has been weighed again: both, each by what it rests on. */
export function pooledPiece(known: KnownPiece | null, seen: KnownPiece): KnownPiece {
  if (!known || known.pieces === 0) return seen;
  const pieces = known.pieces + seen.pieces;
  const g = (known.g * known.pieces + seen.g * seen.pieces) / pieces;
  const u = Math.hypot(known.u * known.pieces, seen.u * seen.pieces) / pieces;
  return { g, u, sd: seen.sd ?? known.sd, pieces };
}

/** How many pieces to sample in all for a wanted ±, or that no sample reaches it and what stands in the way. */
export function sampleFor(w: Weighing, wanted: number): { pieces: number } | { never: Source } {
  const now = countByWeight(w);
  if ("fault" in now) return { never: "scale" };
  const at = (pieces: number) =>
    countByWeight({
      ...w,
      known: null,
      usualSpread: now.piece.sd / now.piece.g,
      samples: [{ pieces, g: pieces * now.piece.g, fromJar: true }],
    }) as WeighedCount;
  const most = Math.max(1, now.n);
  if (at(most).plusMinus > wanted) return { never: at(most).dominant };
  let [low, high] = [0, most];
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (at(middle).plusMinus <= wanted) high = middle;
    else low = middle;
  }
  return { pieces: high };
}
