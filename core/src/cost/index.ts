/** Cost and price, in decimal arithmetic. */
export * from "./cost.ts";
export { coinPlaces, coinsAt, coinsOf, EXACT, inCoins, sayCoins, shareCoins, tenThousandths } from "./coin.ts";
export { packPrice, priceOfPacks, sumOfMoney, worthOf } from "./offer.ts";
export { billAsCsv } from "./csv.ts";
