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
