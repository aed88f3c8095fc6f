/** How many may be asked for: `p[n]` is the chance of just n. They add up to 1. */
export interface Demand {
  p: readonly number[];
}

/** What one past month says: so many were sold; where all were, at least so many would have been. */
export interface PastMonth {
  sold: number;
  soldOut: boolean;
}

/** The part of a distribution beyond which nothing is kept. */
const TAIL = 1e-9;
const MOST = 200_000;

/** Weights made to add up to 1; the dust of differences of binary floats is no chance below 0. */
function normalized(weights: readonly number[]): Demand {
  const kept = weights.map((w) => Math.max(0, w));
  const all = kept.reduce((a, b) => a + b, 0);
  return { p: kept.map((w) => w / all) };
}

export const meanOf = ({ p }: Demand) => p.reduce((sum, x, n) => sum + n * x, 0);

/** The standard normal distribution up to z, by its series (Abramowitz and Stegun 26.2.11), good to 1e-15. */
export function normalCdf(z: number): number {
  if (z < -9) return 0;
  if (z > 9) return 1;
  let [term, total] = [z, z];
  for (let k = 3; Math.abs(term) > 1e-17 * Math.abs(total); k += 2) {
    term *= (z * z) / k;
    total += term;
  }
  return 0.5 + total * normalDensity(z);
}

const normalDensity = (z: number) => Math.exp(-(z * z) / 2) / Math.sqrt(2 * Math.PI);

/**
 * Each past month again with equal chance. A month that sold out says only that at least so many were asked for: the
 * product-limit estimate (Kaplan and Meier, Journal of the American Statistical Association 53, 1958, 457–481) gives
 * its chance to the months that sold more. Where the best month sold out, what is left stays with it, as if it had just
 * been enough (Efron 1967): a lower bound.
 */
export function empirical(months: readonly PastMonth[]): Demand {
  const most = Math.max(0, ...months.map((m) => m.sold));
  const p = new Array<number>(most + 1).fill(0);
  let left = 1;
  for (const sold of [...new Set(months.map((m) => m.sold))].sort((a, b) => a - b)) {
    // Who sold out at so many is still waiting there: it stands behind those that asked for just so many.
    const atRisk = months.filter((m) => m.sold >= sold).length;
    const just = months.filter((m) => m.sold === sold && !m.soldOut).length;
    p[sold] = (left * just) / atRisk;
    left -= p[sold];
  }
  p[most] = p[most]! + Math.max(0, left);
  return { p };
}

/** A normal distribution in whole boxes: each n holds what lies within half a box of it, 0 what lies below. */
export function normalDemand(mean: number, sd: number): Demand {
  if (sd <= 0) return normalized([...new Array<number>(Math.round(mean)).fill(0), 1]);
  const up = Math.min(MOST, Math.ceil(mean + 7 * sd));
  const cdf = (n: number) => normalCdf((n + 0.5 - mean) / sd);
  return normalized(Array.from({ length: up + 1 }, (_, n) => (n === 0 ? cdf(0) : cdf(n) - cdf(n - 1))));
}

/**
 * A negative binomial distribution by its mean and its size r: variance mean + mean² ÷ r. p(0) = (r ÷ (r + m))^r,
 * and each next one is the last times (n + r) ÷ (n + 1) × m ÷ (r + m).
 */
export function negativeBinomial(mean: number, r: number): Demand {
  if (mean <= 0) return { p: [1] };
  const [success, failure] = [r / (r + mean), mean / (r + mean)];
  // In logarithms: with a large mean, p(0) is smaller than a number can be.
  let log = r * Math.log(success);
  const weights: number[] = [];
  for (let [n, all] = [0, 0]; n < MOST && (all < 1 - TAIL || n < mean); n++) {
    const now = Math.exp(log);
    weights.push(now);
    all += now;
    log += Math.log(((n + r) / (n + 1)) * failure);
  }
  return normalized(weights);
}

/**
 * Three guesses: least, likeliest, most. A triangular distribution in whole boxes (Johnson, The Statistician 46, 1997,
 * 387–398).
 */
export function threePoint(least: number, likely: number, most: number): Demand {
  const [a, c, b] = [least - 0.5, likely, most + 0.5];
  const cdf = (x: number) => {
    if (x <= a) return 0;
    if (x >= b) return 1;
    return x <= c ? (x - a) ** 2 / ((b - a) * (c - a)) : 1 - (b - x) ** 2 / ((b - a) * (b - c));
  };
  return normalized(Array.from({ length: most + 1 }, (_, n) => cdf(n + 0.5) - (n === 0 ? 0 : cdf(n - 0.5))));
}
