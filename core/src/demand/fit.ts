import { normalCdf, type PastMonth } from "./distribution.ts";

/** What was fitted to past months. */
export interface Fitted {
  mean: number;
  sd: number;
}

const density = (z: number) => Math.exp(-(z * z) / 2) / Math.sqrt(2 * Math.PI);

/** How much beyond a limit z a standard normal lies on average, given that it does (inverse Mills ratio). */
const beyond = (z: number) => (z > 8 ? z + 1 / z : density(z) / Math.max(1e-300, 1 - normalCdf(z)));

/**
 * Mean and standard deviation of a normal distribution behind past months, where those that sold out are lower bounds
 * (Tobin, Econometrica 26, 1958, 24–36): by expectation and maximization (Dempster, Laird and Rubin 1977). The spread
 * of few months is widened by √(n ÷ (n − 1)), as a sample's is.
 */
export function fitNormal(months: readonly PastMonth[]): Fitted {
  const n = months.length;
  let mean = months.reduce((s, m) => s + m.sold, 0) / n;
  let variance = Math.max(1e-6, months.reduce((s, m) => s + (m.sold - mean) ** 2, 0) / n);
  if (months.some((m) => m.soldOut)) {
    variance = Math.max(variance, 1);
    for (let round = 0; round < 500; round++) {
      const sd = Math.sqrt(variance);
      const seen = months.map((m) => expectedOf(m, mean, sd));
      const next = seen.reduce((s, e) => s + e.first, 0) / n;
      const spread = seen.reduce((s, e) => s + e.second, 0) / n - next ** 2;
      const settled = Math.abs(next - mean) < 1e-9 * Math.max(1, mean);
      [mean, variance] = [next, Math.max(1e-6, spread)];
      if (settled) break;
      // All months sold out: nothing says how far up it goes. It is cut off where it would run away.
      if (mean > 4 * Math.max(...months.map((m) => m.sold), 1)) break;
    }
  }
  return { mean, sd: Math.sqrt(n > 1 ? (variance * n) / (n - 1) : variance) };
}

/** A month's demand and its square as they are to be expected: what was sold, or more where it sold out. */
function expectedOf({ sold, soldOut }: PastMonth, mean: number, sd: number) {
  if (!soldOut) return { first: sold, second: sold ** 2 };
  const z = (sold - mean) / sd;
  const more = beyond(z);
  const first = mean + sd * more;
  return { first, second: mean ** 2 + 2 * mean * sd * more + sd ** 2 * (1 + z * more) };
}

/**
 * Size of a negative binomial with the fitted mean and variance, by moments: r = mean² ÷ (variance − mean). Where
 * the months vary less than a Poisson would, it is one, nearly: r is very large.
 */
export const sizeOf = ({ mean, sd }: Fitted): number =>
  sd ** 2 > mean * (1 + 1e-9) ? mean ** 2 / (sd ** 2 - mean) : 1e7;
