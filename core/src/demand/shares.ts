import { shareCharge } from "../stock/index.ts";

/** A colourway's part of what is sold. */
export interface Share {
  /** Sold of it so far. */
  sold: number;
  /** Its part by this month's own sales alone; null with none. */
  own: number | null;
  /** Its part by past months: what was sold under its name there, else as much as any other. */
  past: number;
  /** Both weighed together. */
  share: number;
}

/** What one past month sold of each colourway. */
export type PastShares = readonly { name: string; sold: number }[];

/**
 * What a colourway got of past months where it had the same name, against what an equal part would have been; 1 where
 * it was never there.
 */
function pastWeight(name: string, months: readonly PastShares[]): number {
  let [sold, even] = [0, 0];
  for (const month of months) {
    const found = month.find((c) => c.name.toLowerCase() === name.toLowerCase());
    const all = month.reduce((sum, c) => sum + c.sold, 0);
    if (!found || all === 0) continue;
    sold += found.sold;
    even += all / month.length;
  }
  return even > 0 ? sold / even : 1;
}

/** log Γ(x), by Stirling's series with the argument shifted above 10 (Abramowitz and Stegun 6.1.41). */
function logGamma(x: number): number {
  let shift = 0;
  for (; x < 10; x++) shift -= Math.log(x);
  const inverse = 1 / (x * x);
  const series = (1 / 12 - inverse * (1 / 360 - inverse * (1 / 1260 - inverse / 1680))) / x;
  return shift + (x - 0.5) * Math.log(x) - x + 0.5 * Math.log(2 * Math.PI) + series;
}

const FROM_EVEN = [2, 4, 8, 15, 25, 40, 65, 100, 160, 250, 400, 650, 1000];

/**
 * How many sales of this month the past is worth: the size of the Dirichlet distribution of shares round an even split
 * under which the past months' sales are the likeliest (Dirichlet-multinomial; Minka, Estimating a Dirichlet
 * distribution, 2000). Colourways that sold alike in every month weigh much, wild ones little.
 */
export function weightOfPast(months: readonly PastShares[]): number {
  const told = months.filter((m) => m.length > 1 && m.some((c) => c.sold > 0));
  if (told.length === 0) return 25;
  const likelihood = (size: number) =>
    told.reduce((sum, month) => {
      const all = month.reduce((n, c) => n + c.sold, 0);
      const each = size / month.length;
      const rest = month.reduce((s, c) => s + logGamma(c.sold + each) - logGamma(each), 0);
      return sum + logGamma(size) - logGamma(size + all) + rest;
    }, 0);
  return FROM_EVEN.reduce((best, size) => (likelihood(size) > likelihood(best) ? size : best));
}

/** Each colourway's part: its own sales so far and the past, the past counted as so many sales. */
export function sharesOf(
  colourways: readonly { name: string; sold: number }[],
  months: readonly PastShares[],
  weight = weightOfPast(months),
): Share[] {
  const all = colourways.reduce((n, c) => n + c.sold, 0);
  const pasts = colourways.map((c) => pastWeight(c.name, months));
  const inAll = pasts.reduce((a, b) => a + b, 0) || 1;
  return colourways.map(({ sold }, i) => {
    const past = pasts[i]! / inAll;
    return { sold, own: all > 0 ? sold / all : null, past, share: (sold + weight * past) / (all + weight) };
  });
}

/** So many boxes shared out by colourway: by largest remainder, and no fewer of one than are sold of it already. */
export function boxesByShare(make: number, shares: readonly Pick<Share, "share" | "sold">[]): number[] {
  const out = shares.map(() => 0);
  let open = shares.map((_, i) => i);
  let left = make;
  // Whoever would get fewer than are sold gets those, and the others share what is left.
  for (;;) {
    const parts = shareCharge(
      String(Math.max(0, left)),
      open.map((i) => shares[i]!.share),
      0,
    ).map(Number);
    const few = open.filter((i, k) => parts[k]! < shares[i]!.sold);
    if (few.length === 0) {
      open.forEach((i, k) => (out[i] = parts[k]!));
      return out;
    }
    for (const i of few) {
      out[i] = shares[i]!.sold;
      left -= out[i];
    }
    open = open.filter((i) => !few.includes(i));
    if (open.length === 0) return out;
  }
}
