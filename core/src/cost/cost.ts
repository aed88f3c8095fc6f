import Big from "big.js";
import type { Bill, VariantBill } from "../bom/index.ts";
import { unitCost } from "../component/index.ts";
import type { Component, CostBasis } from "../contract/index.ts";
import { coinsAt, sayCoins } from "./coin.ts";

export interface CostLine {
  component: Component;
  /** Decimal text to 8 places, a base unit; null where no price is known. */
  unitCost: string | null;
  /** The run's cost of this component, to the currency's cent; null where no price is known. */
  cost: string | null;
}

export interface VariantCost {
  first: string;
  second: string | null;
  boxes: number;
  lines: CostLine[];
  /** The sum of the lines as they are shown. */
  run: string;
  /** The run's cost shared by its boxes; null with no boxes. */
  perBox: string | null;
}

export interface BoxCost {
  variants: VariantCost[];
  run: string;
  boxes: number;
  perBox: string | null;
  unpriced: Component[];
}

/**
 * Material cost of a box's run. Decimal arithmetic: each line is rounded once, to `places` of the currency; a box costs
 * the run ÷ its boxes; totals are sums of shown lines.
 */
export function costOf(bill: Bill, places = 2, basis: CostBasis = "average"): BoxCost {
  const variants = bill.variants.map((variant) => variantCost(variant, places, basis));
  const unpriced = new Map(
    variants.flatMap((v) =>
      v.lines.flatMap((l) => (l.unitCost === null ? [[l.component.id, l.component] as const] : [])),
    ),
  );
  const run = variants.reduce((sum, v) => sum.plus(v.run), new Big(0));
  const boxes = variants.reduce((sum, v) => sum + v.boxes, 0);
  return {
    variants,
    run: run.toFixed(places),
    boxes,
    perBox: boxes > 0 ? run.div(boxes).toFixed(places) : null,
    unpriced: [...unpriced.values()],
  };
}

/** What a variant's bill costs holds for as long as that bill is there: it is never changed, only replaced. */
const costed = new WeakMap<VariantBill, { by: string; cost: VariantCost }>();

function variantCost(variant: VariantBill, places: number, basis: CostBasis): VariantCost {
  const by = `${places} ${basis}`;
  const known = costed.get(variant);
  if (known?.by === by) return known.cost;
  const { first, second, boxes, needs } = variant;
  let all = 0;
  const lines = needs.map(({ component, run }): CostLine => {
    const unit = unitCost(component, basis);
    if (unit === null) return { component, unitCost: null, cost: null };
    const coins = coinsAt(unit, run, places);
    all += coins;
    return { component, unitCost: unit, cost: sayCoins(coins, places) };
  });
  const run = sayCoins(all, places);
  const perBox = boxes > 0 ? new Big(run).div(boxes).toFixed(places) : null;
  const cost = { first, second, boxes, lines, run, perBox };
  costed.set(variant, { by, cost });
  return cost;
}

/** What one component costs over the whole run, in every variant together; null where no price is known. */
export function costOfComponent(cost: BoxCost, component: string, places = 2): string | null {
  const lines = cost.variants.flatMap((v) => v.lines).filter((l) => l.component.id === component && l.cost !== null);
  return lines.length === 0 ? null : lines.reduce((sum, l) => sum.plus(l.cost!), new Big(0)).toFixed(places);
}
