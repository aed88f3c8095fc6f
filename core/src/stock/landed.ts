import Big from "big.js";

/**
 * Shares freight and duty over the lines of a delivery by what each weighs in: its value or its mass. The shares add up
 * to the charge exactly: each is rounded down to the smallest coin, and what is left goes to the largest remainders.
 * @param charge decimal text
 * @param weights one a line; all 0 shares evenly
 * @param places decimal places of the smallest coin
 * @returns decimal text a line, to so many places
 */
export function shareCharge(charge: string, weights: readonly number[], places = 2): string[] {
  const one = 10 ** places;
  const cents = new Big(charge).times(one).round(0);
  const sum = weights.reduce((a, b) => a + b, 0);
  const parts = weights.map((w) => (sum > 0 ? cents.times(w).div(sum) : cents.div(weights.length)));
  const whole = parts.map((p) => p.round(0, 0));
  let left = Number(cents.minus(whole.reduce((a, b) => a.plus(b), new Big(0))));
  const order = parts
    .map((p, i) => ({ i, rest: Number(p.minus(whole[i]!)) }))
    .sort((a, b) => b.rest - a.rest || a.i - b.i);
  for (const { i } of order) {
    if (left <= 0) break;
    whole[i] = whole[i]!.plus(1);
    left--;
  }
  return whole.map((w) => w.div(one).toFixed(places));
}
