import Big from "big.js";
import type { Component, CostBasis } from "../contract/index.ts";
import { convert } from "./convert.ts";

/** Unit costs are kept to 8 places. */
const UNIT_PLACES = 8;

/**
 * What a base unit costs, decimal text to 8 places, null where nothing is known: by the moving average of what is on
 * hand, by what was paid last, or new. Where that is not known, the nearest of the others stands in for it.
 */
export function unitCost(component: Component, basis: CostBasis = "average"): string | null {
  const { averageCost: average, lastCost: last } = component;
  if (basis === "average") return average ?? replacementCost(component);
  if (basis === "last") return last ?? average ?? replacementCost(component);
  return replacementCost(component) ?? last ?? average;
}

type Sold = Pick<Component, "offers" | "baseUnit"> & Parameters<typeof convert>[3];

/** Of a component that is here, for as long as it is: it is never changed, only replaced. */
const known = new WeakMap<Sold, string | null>();

/** What a base unit would cost now, by the first offer; a pack in another unit is converted. */
export function replacementCost(component: Sold): string | null {
  let cost = known.get(component);
  if (cost === undefined) {
    const [offer] = component.offers;
    const amount = offer && convert(offer.amount, offer.unit, component.baseUnit, component);
    cost = offer && amount && amount.n > 0 ? new Big(offer.price).div(amount.n).toFixed(UNIT_PLACES) : null;
    known.set(component, cost);
  }
  return cost;
}
