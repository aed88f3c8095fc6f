import Big from "big.js";
import type { HowManyAnswer, HowManyRequest } from "../contract/index.ts";
import type { Demand } from "./distribution.ts";

/** What making so many comes to. */
export interface Outcome {
  make: number;
  /** That as many are asked for as there are, or more. */
  chanceToSellOut: number;
  expectedLeft: number;
  expectedShort: number;
}

/** What one too many costs, and one too few. */
export interface Stakes {
  over: number;
  under: number;
}

/** P(D ≤ n) for each n. */
export function cumulative({ p }: Demand): number[] {
  let all = 0;
  return p.map((x) => (all += x));
}

export function outcomeOf({ p }: Demand, make: number): Outcome {
  let [sellOut, left, short] = [0, 0, 0];
  p.forEach((x, n) => {
    if (n >= make) sellOut += x;
    if (n < make) left += (make - n) * x;
    else short += (n - make) * x;
  });
  return { make, chanceToSellOut: Math.min(1, sellOut), expectedLeft: left, expectedShort: short };
}

/**
 * Expected profit of making n, for n from 0 to `upTo`: under × E min(D, n) − over × E(n − D)⁺. One more is sold
 * as often as more than n are asked for, so each follows from the last.
 */
export function profitCurve(demand: Demand, { over, under }: Stakes, upTo: number): { n: number; profit: number }[] {
  const atMost = cumulative(demand);
  const curve = [{ n: 0, profit: 0 }];
  let profit = 0;
  for (let n = 1; n <= upTo; n++) {
    const left = n - 1 < atMost.length ? Math.min(1, atMost[n - 1]!) : 1;
    profit += under * (1 - left) - over * left;
    curve.push({ n, profit });
  }
  return curve;
}

/**
 * The least number that is asked for no more often than pays: P(D ≤ n) ≥ under ÷ (under + over), the newsvendor's
 * critical ratio (Arrow, Harris and Marschak, Econometrica 19, 1951, 250–272). Of numbers that nobody ever asked for,
 * none is the least: it is always one that the distribution holds.
 */
export function bestNumber(demand: Demand, { over, under }: Stakes): number {
  const ratio = under / (under + over);
  const atMost = cumulative(demand);
  const n = atMost.findIndex((x) => x >= ratio - 1e-12);
  return n < 0 ? demand.p.length - 1 : n;
}

/**
 * How many to make from past sales, each of which comes again with equal chance. Whether P(D ≤ n) reaches the ratio
 * is decided in decimals: (how many months asked for n or fewer) × (under + over) ≥ under × (how many months there
 * are).
 * @returns null where a cost is not above 0
 */
export function howMany({ sales, over, under, presold }: HowManyRequest): HowManyAnswer | null {
  const [o, u] = [new Big(over), new Big(under)];
  if (o.lte(0) || u.lte(0)) return null;
  const sorted = [...sales].sort((a, b) => a - b);
  const wanted = u.times(sorted.length);
  // The last of equal months: as many asked for so few or fewer.
  const least = sorted.find((n) =>
    o
      .plus(u)
      .times(sorted.filter((m) => m <= n).length)
      .gte(wanted),
  )!;
  const make = Math.max(presold ?? 0, least);
  const mean = (of: (d: number) => number) => sales.reduce((s, d) => s + of(d), 0) / sales.length;
  const upTo = Math.max(make, sorted.at(-1)!);
  const [costOver, costUnder] = [Number(over), Number(under)];
  // Sorted once: what n boxes sell follows from how many months asked for fewer, and for how many together.
  const byQuantity: HowManyAnswer["byQuantity"] = [];
  for (let [n, i, below] = [0, 0, 0]; n <= upTo; n++) {
    while (i < sorted.length && sorted[i]! <= n) below += sorted[i++]!;
    const sold = (below + n * (sorted.length - i)) / sorted.length;
    const left = (n * i - below) / sorted.length;
    byQuantity.push({ n, profit: costUnder * sold - costOver * left });
  }
  return {
    make,
    chanceToSellOut: mean((d) => (d >= make ? 1 : 0)),
    expectedLeft: mean((d) => Math.max(0, make - d)),
    expectedShort: mean((d) => Math.max(0, d - make)),
    byQuantity,
  };
}

/**
 * How many to hold back for claims: the least number that is enough in `sure` of all runs, where each of so many boxes
 * brings a claim with the same chance (binomial).
 */
export function reserveFor(boxes: number, rate: number, sure = 0.95): number {
  if (boxes === 0 || rate <= 0) return 0;
  let log = boxes * Math.log1p(-rate);
  let all = Math.exp(log);
  let k = 0;
  while (all < sure && k < boxes) {
    log += Math.log(((boxes - k) / (k + 1)) * (rate / (1 - rate)));
    all += Math.exp(log);
    k++;
  }
  return k;
}
