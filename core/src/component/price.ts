import Big from "big.js";
import type { Component } from "../contract/index.ts";
import { convert } from "./convert.ts";

/** Unit costs are kept to 8 places. */
const UNIT_PLACES = 8;

/**
 * What a base unit costs: the moving average of what is on hand, else what it would cost new; decimal text to 8 places,
 * null where neither is known.
 */
export const unitCost = (component: Component): string | null => component.averageCost ?? replacementCost(component);

/** What a base unit would cost now, by the first offer; a pack in another unit is converted. */
export function replacementCost(
  component: Pick<Component, "offers" | "baseUnit"> & Parameters<typeof convert>[3],
): string | null {
  const [offer] = component.offers;
  const amount = offer && convert(offer.amount, offer.unit, component.baseUnit, component);
  return offer && amount && amount.n > 0 ? new Big(offer.price).div(amount.n).toFixed(UNIT_PLACES) : null;
}
