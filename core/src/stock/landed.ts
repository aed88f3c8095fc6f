import Big from "big.js";

/**
 * Shares freight and duty over the lines of a delivery by what each weighs in: its value or its mass. The shares add up
 * to the charge exactly: each is rounded to cents down, and what is left goes to the largest remainders.
 * @param charge decimal text
 * @param weights one a line; all 0 shares evenly
 * @returns decimal text a line, to 2 places
 */
export function shareCharge(charge: string, weights: readonly number[]): string[] {
  const cents = new Big(charge).times(100).round(0);
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
  return whole.map((w) => w.div(100).toFixed(2));
}
