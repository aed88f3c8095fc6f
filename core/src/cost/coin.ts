import Big from "big.js";

/** Currencies whose smallest coin is not a hundredth: ISO 4217, list one, minor units; from memory. */
const NO_COIN = "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF";
const THOUSANDTHS = "BHD IQD JOD KWD LYD OMR TND";
const TEN_THOUSANDTHS = "CLF UYW";
const PLACES = new Map(
  [[NO_COIN, 0] as const, [THOUSANDTHS, 3] as const, [TEN_THOUSANDTHS, 4] as const].flatMap(([codes, places]) =>
    codes.split(" ").map((code) => [code, places] as const),
  ),
);

/** How many decimal places a currency's smallest coin has, by its code (ISO 4217): 0 for JPY, 2 for GBP, 3 for KWD. */
export const coinPlaces = (currency: string): number => PLACES.get(currency) ?? 2;

/** Whole numbers, and what is multiplied of them, are exact up to here. */
export const EXACT = 2 ** 52;

/** Decimal text of at most four places in ten-thousandths: exact. */
export const tenThousandths = (amount: string): number => Math.round(Number(amount) * 10_000);

/** So many times a price in ten-thousandths, in whole coins, half a coin up; Infinity where that is not exact. */
export function coinsOf(price: number, times: number, places: number): number {
  const share = 10 ** (4 - places);
  return price * times > EXACT ? Infinity : Math.floor((price * times + share / 2) / share);
}

/** Coins as decimal text. */
export function sayCoins(coins: number, places: number): string {
  const digits = (coins < 1e21 ? String(coins) : BigInt(coins).toString()).padStart(places + 1, "0");
  return places === 0 ? digits : `${digits.slice(0, -places)}.${digits.slice(-places)}`;
}

/** Unit costs are kept to 8 places, amounts to 4: their product is whole in so many places. */
const [UNIT_PLACES, AMOUNT_PLACES] = [8, 4];

/**
 * What an amount is worth at a cost of its base unit, in whole coins, half a coin up. In whole numbers, which is exact
 * and quick; where they grow too large for that, in decimals.
 * @param unitCost decimal text of at most 8 places
 * @param amount not below 0, to ten-thousandths
 */
export function coinsAt(unitCost: string, amount: number, places: number): number {
  const whole = Math.round(Number(unitCost) * 10 ** UNIT_PLACES) * Math.round(amount * 10 ** AMOUNT_PLACES);
  const coin = 10 ** (UNIT_PLACES + AMOUNT_PLACES - places);
  if (whole + coin < EXACT) return Math.floor((whole + coin / 2) / coin);
  return Number(
    new Big(unitCost)
      .times(amount)
      .times(10 ** places)
      .round(0, Big.roundHalfUp),
  );
}

/** Decimal text of money as whole coins, half a coin up. */
export function inCoins(amount: string, places: number): number {
  const point = amount.indexOf(".");
  // No finer than a coin, and short enough: a binary float holds it.
  const plain = amount.length < 15 && (point < 0 || amount.length - point - 1 <= places);
  if (plain) return Math.round(Number(amount) * 10 ** places);
  return Number(new Big(amount).times(10 ** places).round(0, Big.roundHalfUp));
}

/**
 * Shares whole coins by weight: each part is rounded down, and what is left goes to the largest remainders, the first
 * of equal ones first. The shares add up to the coins.
 * @param weights not below 0; all 0 shares evenly
 */
export function shareCoins(coins: number, weights: readonly number[]): number[] {
  if (weights.length === 1) return [coins];
  const all = weights.reduce((a, b) => a + b, 0);
  const parts = weights.map((w) => (all > 0 ? (coins * w) / all : coins / weights.length));
  // The dust of a binary float must not take a whole coin away.
  const shares = parts.map((p) => Math.floor(p + 1e-9));
  let left = coins - shares.reduce((a, b) => a + b, 0);
  const order = parts.map((p, i) => ({ i, rest: p - shares[i]! })).sort((a, b) => b.rest - a.rest || a.i - b.i);
  for (const { i } of order) {
    if (left <= 0) break;
    shares[i]!++;
    left--;
  }
  return shares;
}
