import Big from "big.js";
import type { Bill, VariantBill } from "../bom/index.ts";
import { unitCost } from "../component/index.ts";
import type { Component, CostBasis } from "../contract/index.ts";
import { exact } from "../units/index.ts";
import { coinsAt, sayCoins, shareCoins } from "./coin.ts";

export interface CostLine {
  component: Component;
  /** Decimal text to 8 places, a base unit; null where no price is known. */
  unitCost: string | null;
  /** The variant's share of what this component costs in the whole run, in coins; null where no price is known. */
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

/** What a need of one variant costs over the run. */
export interface NeedCost {
  /** Decimal text to 8 places, a base unit; null where no price is known. */
  unit: string | null;
  /** Whole coins; 0 where no price is known. */
  coins: number;
}

const needCosts = new WeakMap<Bill, { by: string; costs: NeedCost[][] }>();

/**
 * What the needs of each variant cost, in their order. A component's cost over the whole run is rounded once; variants
 * bear their shares of it, by largest remainder.
 */
export function costsOfNeeds(bill: Bill, places: number, basis: CostBasis): NeedCost[][] {
  const by = `${places} ${basis}`;
  const known = needCosts.get(bill);
  if (known?.by === by) return known.costs;
  const costs = bill.variants.map(({ needs }) => needs.map((): NeedCost => ({ unit: null, coins: 0 })));
  const wanted = new Map<Component, { runs: number[]; costs: NeedCost[] }>();
  bill.variants.forEach(({ needs }, v) =>
    needs.forEach(({ component, run }, n) => {
      let of = wanted.get(component);
      if (!of) wanted.set(component, (of = { runs: [], costs: [] }));
      of.runs.push(run);
      of.costs.push(costs[v]![n]!);
    }),
  );
  for (const [component, of] of wanted) {
    const unit = unitCost(component, basis);
    if (unit === null) continue;
    const all = coinsAt(unit, exact(of.runs.reduce((sum, run) => sum + run, 0)), places);
    const shares = shareCoins(all, of.runs);
    of.costs.forEach((cost, i) => Object.assign(cost, { unit, coins: shares[i]! }));
  }
  needCosts.set(bill, { by, costs });
  return costs;
}

/**
 * Material cost of a box's run: each component rounded once, to `places` of the currency, and shared out to variants; a
 * box costs the run ÷ its boxes; totals are sums of shown lines.
 */
export function costOf(bill: Bill, places = 2, basis: CostBasis = "average"): BoxCost {
  const costs = costsOfNeeds(bill, places, basis);
  const variants = bill.variants.map((variant, i) => variantCost(variant, costs[i]!, places));
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

function variantCost(variant: VariantBill, costs: readonly NeedCost[], places: number): VariantCost {
  const { first, second, boxes, needs } = variant;
  let all = 0;
  const lines = needs.map(({ component }, i): CostLine => {
    const { unit, coins } = costs[i]!;
    if (unit === null) return { component, unitCost: null, cost: null };
    all += coins;
    return { component, unitCost: unit, cost: sayCoins(coins, places) };
  });
  const run = sayCoins(all, places);
  const perBox = boxes > 0 ? new Big(run).div(boxes).toFixed(places) : null;
  return { first, second, boxes, lines, run, perBox };
}

/** What one component costs over the whole run, in every variant together; null where no price is known. */
export function costOfComponent(cost: BoxCost, component: string, places = 2): string | null {
  const lines = cost.variants.flatMap((v) => v.lines).filter((l) => l.component.id === component && l.cost !== null);
  return lines.length === 0 ? null : lines.reduce((sum, l) => sum.plus(l.cost!), new Big(0)).toFixed(places);
}
