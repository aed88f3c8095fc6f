import Big from "big.js";
import type { Offer } from "../contract/index.ts";

/** What so many packs cost by an offer's price steps: decimal text. */
export function priceOfPacks(offer: Pick<Offer, "price" | "steps">, packs: number): string {
  const each = offer.steps.filter((s) => packs >= s.from).at(-1)?.price ?? offer.price;
  const places = Math.max(2, each.split(".")[1]?.length ?? 0);
  return new Big(each).times(packs).toFixed(places);
}

/** What an amount is worth at a cost of its base unit: decimal text to cents, with its sign. */
export const worthOf = (unitCost: string, amount: number): string => new Big(unitCost).times(amount).toFixed(2);
