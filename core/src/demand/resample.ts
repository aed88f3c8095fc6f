import { seeded } from "../weigh/index.ts";
import { type Demand, empirical, negativeBinomial, normalCdf, normalDemand, type PastMonth } from "./distribution.ts";
import { fitNormal, sizeOf } from "./fit.ts";
import { cumulative, type Stakes } from "./newsvendor.ts";

/** How a month's demand is thought to be spread. */
export const SHAPES_OF_DEMAND = ["empirical", "normal", "negative binomial", "three-point"] as const;
export type ShapeOfDemand = (typeof SHAPES_OF_DEMAND)[number];

/** Demand as past months say it, by the shape that is asked for. */
export function demandOf(months: readonly PastMonth[], shape: Exclude<ShapeOfDemand, "three-point">): Demand {
  if (shape === "empirical") return empirical(months);
  const fitted = fitNormal(months);
  return shape === "normal" ? normalDemand(fitted.mean, fitted.sd) : negativeBinomial(fitted.mean, sizeOf(fitted));
}

export interface Resampled {
  /** Of each colourway: how often it is sold out, and what is left of it and short of it on average. */
  colourways: { chanceToSellOut: number; expectedLeft: number; expectedShort: number }[];
  /** The number to make in nine of ten resamples of the past months: it is no surer than this. */
  from: number;
  to: number;
  /** Profit in nine of ten runs of the number at hand. */
  profit: { from: number; to: number };
}

/**
 * Makes a generator of standard normal variates, two at a time (Marsaglia and Bray, SIAM Review 6, 1964, 260–264).
 */
function makeNormal(random: () => number): () => number {
  let kept: number | null = null;
  return () => {
    if (kept !== null) {
      const now = kept;
      kept = null;
      return now;
    }
    for (;;) {
      const [x, y] = [2 * random() - 1, 2 * random() - 1];
      const s = x * x + y * y;
      if (s >= 1 || s === 0) continue;
      const scale = Math.sqrt((-2 * Math.log(s)) / s);
      kept = y * scale;
      return x * scale;
    }
  };
}

/** A gamma variate of a shape, scale 1 (Marsaglia and Tsang, ACM Transactions on Mathematical Software 26, 2000). */
function gamma(shape: number, random: () => number, normal: () => number): number {
  if (shape < 1) return gamma(shape + 1, random, normal) * Math.exp(Math.log(1 - random()) / shape);
  const d = shape - 1 / 3;
  const c = 1 / Math.sqrt(9 * d);
  for (;;) {
    const x = normal();
    const root = 1 + c * x;
    if (root <= 0) continue;
    // Written out: powers are slow, and this is drawn half a million times.
    const [v, square] = [root * root * root, x * x];
    const u = 1 - random();
    // Most are taken without a logarithm.
    if (u < 1 - 0.0331 * square * square || Math.log(u) < 0.5 * square + d - d * v + d * Math.log(v)) return d * v;
  }
}

/**
 * Makes a generator of binomial variates for up to so many tries: inversion from the mode outwards, exact but for what
 * a binary float leaves (Kemp, Communications in Statistics, Theory and Methods 15, 1986, 805–813; from memory).
 */
export function makeBinomial(most: number, random: () => number): (n: number, p: number) => number {
  const logFactorial = new Float64Array(most + 1);
  for (let k = 2; k <= most; k++) logFactorial[k] = logFactorial[k - 1]! + Math.log(k);
  return (n, p) => {
    if (n === 0 || p <= 0) return 0;
    if (p >= 1) return n;
    const odds = p / (1 - p);
    const mode = Math.floor((n + 1) * p);
    const log = logFactorial[n]! - logFactorial[mode]! - logFactorial[n - mode]!;
    let [up, down] = [mode, mode];
    let high = Math.exp(log + mode * Math.log(p) + (n - mode) * Math.log1p(-p));
    let low = high;
    let left = random() - high;
    while (left > 0 && (up < n || down > 0)) {
      if (up < n) {
        high *= ((n - up) / ++up) * odds;
        left -= high;
        if (left <= 0) return up;
      }
      if (down > 0) {
        low *= down / ((n - --down) * odds);
        left -= low;
        if (left <= 0) return down;
      }
    }
    return mode;
  };
}

/** The first place where a rising list reaches a value. */
function reaching(list: ArrayLike<number>, value: number): number {
  let [low, high] = [0, list.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle]! >= value) high = middle;
    else low = middle + 1;
  }
  return low;
}

const quantile = (sorted: ArrayLike<number>, part: number) =>
  sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(part * (sorted.length - 1))))]!;

/**
 * Plays a month over and over: so many are asked for, each buyer chooses a colourway, and what there is of it is sold.
 * How colourways are chosen is drawn each time from what is known of their shares (Dirichlet, the sales so far and the
 * past's weight); and the number to make is found anew from past months drawn with replacement (the bootstrap; Efron,
 * Annals of Statistics 7, 1979, 1–26). The same seed gives the same.
 * @param alphas of each colourway: its sales so far + the past's weight × its past part
 */
export function resample(asked: {
  months: readonly PastMonth[];
  shape: ShapeOfDemand;
  demand: Demand;
  stakes: Stakes;
  made: readonly number[];
  alphas: readonly number[];
  presold: number;
  times: number;
  seed: number;
}): Resampled {
  const { months, shape, demand, stakes, made, alphas, presold, times } = asked;
  const random = seeded(asked.seed);
  const atMost = cumulative(demand);
  const left = new Float64Array(made.length);
  const short = new Float64Array(made.length);
  const out = new Float64Array(made.length);
  const profits = new Float64Array(times);
  const numbers = new Float64Array(times);
  const shares = new Float64Array(alphas.length);
  const numberAgain =
    shape === "three-point" || months.length === 0 ? null : makeNumberAgain(months, shape, stakes, presold, random);
  const normal = makeNormal(random);
  const binomial = makeBinomial(Math.max(presold, atMost.length), random);
  for (let t = 0; t < times; t++) {
    const n = Math.max(presold, reaching(atMost, random()));
    let all = 0;
    for (let i = 0; i < alphas.length; i++) all += shares[i] = gamma(Math.max(1e-6, alphas[i]!), random, normal);
    let profit = 0;
    // Colourway by colourway: of the buyers that are left, each takes this one with its part of what is left.
    let buyers = n;
    for (let i = 0; i < made.length; i++) {
      const want = i === made.length - 1 ? buyers : binomial(buyers, Math.min(1, shares[i]! / all));
      buyers -= want;
      all -= shares[i]!;
      const there = made[i]!;
      if (want >= there) out[i]!++;
      left[i]! += Math.max(0, there - want);
      short[i]! += Math.max(0, want - there);
      profit += stakes.under * Math.min(there, want) - stakes.over * Math.max(0, there - want);
    }
    profits[t] = profit;
    numbers[t] = numberAgain?.() ?? 0;
  }
  profits.sort();
  numbers.sort();
  return {
    colourways: made.map((_, i) => ({
      chanceToSellOut: out[i]! / times,
      expectedLeft: left[i]! / times,
      expectedShort: short[i]! / times,
    })),
    from: quantile(numbers, 0.05),
    to: quantile(numbers, 0.95),
    profit: { from: quantile(profits, 0.05), to: quantile(profits, 0.95) },
  };
}

/**
 * Makes what finds the number to make from past months drawn with replacement, again and again: each draw only says how
 * often each month came.
 */
function makeNumberAgain(
  months: readonly PastMonth[],
  shape: Exclude<ShapeOfDemand, "three-point">,
  stakes: Stakes,
  presold: number,
  random: () => number,
): () => number {
  const ratio = stakes.under / (stakes.under + stakes.over);
  // Who sold out at so many stands behind those that asked for just so many.
  const sorted = [...months].sort((a, b) => a.sold - b.sold || Number(a.soldOut) - Number(b.soldOut));
  const many = sorted.length;
  const came = new Int32Array(many);
  const z = shape === "empirical" ? 0 : normalQuantile(ratio);
  const least = () => {
    let [left, atRisk, last] = [1, many, 0];
    for (let i = 0; i < many; i++) {
      if (came[i] === 0) continue;
      last = sorted[i]!.sold;
      if (!sorted[i]!.soldOut) left *= 1 - came[i]! / atRisk;
      atRisk -= came[i]!;
      if (1 - left >= ratio - 1e-12) return last;
    }
    return last;
  };
  // Months that sold out are taken as they are here: the fit of lower bounds is for the number itself.
  const fitted = () => {
    let [sum, squares] = [0, 0];
    for (let i = 0; i < many; i++) {
      sum += came[i]! * sorted[i]!.sold;
      squares += came[i]! * sorted[i]!.sold ** 2;
    }
    const mean = sum / many;
    const variance = many > 1 ? Math.max(0, squares - sum * mean) / (many - 1) : 0;
    return Math.max(0, Math.ceil(mean + z * Math.sqrt(variance) - 0.5));
  };
  return () => {
    came.fill(0);
    for (let i = 0; i < many; i++) came[Math.floor(random() * many)]!++;
    return Math.max(presold, shape === "empirical" ? least() : fitted());
  };
}

/** The standard normal's quantile, by bisection of its distribution: to 1e-9. */
function normalQuantile(part: number): number {
  let [low, high] = [-9, 9];
  while (high - low > 1e-9) {
    const middle = (low + high) / 2;
    if (normalCdf(middle) < part) low = middle;
    else high = middle;
  }
  return low;
}
