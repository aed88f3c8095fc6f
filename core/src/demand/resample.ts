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

/** A gamma variate of a shape, scale 1 (Marsaglia and Tsang, ACM Transactions on Mathematical Software 26, 2000). */
function gamma(shape: number, random: () => number): number {
  if (shape < 1) return gamma(shape + 1, random) * random() ** (1 / shape);
  const d = shape - 1 / 3;
  const c = 1 / Math.sqrt(9 * d);
  for (;;) {
    // Box and Muller's normal.
    const x = Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    const v = (1 + c * x) ** 3;
    if (v > 0 && Math.log(1 - random()) < 0.5 * x * x + d - d * v + d * Math.log(v)) return d * v;
  }
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
  const upTo = new Float64Array(alphas.length);
  const wanted = new Int32Array(made.length);
  for (let t = 0; t < times; t++) {
    const n = Math.max(presold, reaching(atMost, random()));
    let all = 0;
    for (let i = 0; i < alphas.length; i++) upTo[i] = all += gamma(Math.max(1e-6, alphas[i]!), random);
    wanted.fill(0);
    for (let k = 0; k < n; k++) wanted[reaching(upTo, random() * all)]!++;
    let profit = 0;
    for (let i = 0; i < made.length; i++) {
      const [there, want] = [made[i]!, wanted[i]!];
      if (want >= there) out[i]!++;
      left[i]! += Math.max(0, there - want);
      short[i]! += Math.max(0, want - there);
      profit += stakes.under * Math.min(there, want) - stakes.over * Math.max(0, there - want);
    }
    profits[t] = profit;
    numbers[t] = shape === "three-point" ? 0 : numberAgain(months, shape, stakes, presold, random);
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

/** The number to make from past months drawn with replacement. */
function numberAgain(
  months: readonly PastMonth[],
  shape: Exclude<ShapeOfDemand, "three-point">,
  stakes: Stakes,
  presold: number,
  random: () => number,
): number {
  const drawn = months.map(() => months[Math.floor(random() * months.length)]!);
  if (shape === "empirical") return Math.max(presold, leastOf(drawn, stakes.under / (stakes.under + stakes.over)));
  const mean = drawn.reduce((s, m) => s + m.sold, 0) / drawn.length;
  const variance = drawn.reduce((s, m) => s + (m.sold - mean) ** 2, 0) / Math.max(1, drawn.length - 1);
  // Months that sold out are taken as they are here: the fit of lower bounds is for the number itself.
  const z = normalQuantile(stakes.under / (stakes.under + stakes.over));
  return Math.max(presold, Math.max(0, Math.ceil(mean + z * Math.sqrt(variance) - 0.5)));
}

/** The least number that reaches the ratio, by the product-limit estimate, without its whole list. */
function leastOf(drawn: readonly PastMonth[], ratio: number): number {
  const sorted = [...drawn].sort((a, b) => a.sold - b.sold || Number(a.soldOut) - Number(b.soldOut));
  let left = 1;
  for (const [i, { sold, soldOut }] of sorted.entries()) {
    if (!soldOut) left *= 1 - 1 / (sorted.length - i);
    if (1 - left >= ratio - 1e-12) return sold;
  }
  return sorted.at(-1)!.sold;
}

/** The standard normal's quantile, by bisection of its distribution: to 1e-9. */
function normalQuantile(part: number): number {
  const known = QUANTILES.get(part);
  if (known !== undefined) return known;
  let [low, high] = [-9, 9];
  while (high - low > 1e-9) {
    const middle = (low + high) / 2;
    if (normalCdf(middle) < part) low = middle;
    else high = middle;
  }
  QUANTILES.clear();
  QUANTILES.set(part, low);
  return low;
}
const QUANTILES = new Map<number, number>();
