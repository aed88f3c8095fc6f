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
  const digits = String(coins).padStart(places + 1, "0");
  return places === 0 ? digits : `${digits.slice(0, -places)}.${digits.slice(-places)}`;
}
