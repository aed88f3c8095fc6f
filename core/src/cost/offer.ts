import Big from "big.js";
import type { Offer } from "../contract/index.ts";
import { coinPlaces, coinsOf, sayCoins, tenThousandths } from "./coin.ts";

/** What a pack costs where so many are bought: the step with the most packs that are reached holds for all of them. */
export const packPrice = ({ price, steps }: Pick<Offer, "price" | "steps">, packs: number): string =>
  steps.reduce<Offer["steps"][number]>((best, s) => (packs >= s.from && s.from > best.from ? s : best), {
    from: 0,
    price,
  }).price;

/** What so many packs cost by an offer's price steps: decimal text, rounded once to the currency's smallest coin. */
export function priceOfPacks(offer: Pick<Offer, "price" | "steps">, packs: number, currency: string): string {
  const [price, places] = [packPrice(offer, packs), coinPlaces(currency)];
  const coins = coinsOf(tenThousandths(price), packs, places);
  return Number.isFinite(coins) ? sayCoins(coins, places) : new Big(price).times(packs).toFixed(places);
}

/** What an amount is worth at a cost of its base unit: decimal text to the currency's smallest coin, with its sign. */
export const worthOf = (unitCost: string, amount: number, currency: string): string =>
  new Big(unitCost).times(amount).toFixed(coinPlaces(currency));

/** The sum of some money: decimal text to the currency's smallest coin. */
export const sumOfMoney = (amounts: readonly string[], currency: string): string =>
  amounts.reduce((sum, a) => sum.plus(a), new Big(0)).toFixed(coinPlaces(currency));
