import Big from "big.js";
import { type Channel, COST_STEPS, type CostStep, type MoneyInput } from "../contract/index.ts";
import { sumOfMoney } from "../cost/index.ts";
import { atPrice, breakEven } from "./price.ts";
import type { BoxSteps } from "./steps.ts";

/** What a wrong number of boxes costs: averages of the run, a box. They are reckoned, and nobody pays them. */
export interface OffByOne {
  /** What one too many costs: what it cost to make less what it still brings. */
  over: number;
  /** What one too few costs: what is left of a box that could have been sold. */
  under: number;
  cost: number;
  worth: number;
}

/** Steps that are spent on a box whether it is sold or not: only what is sold is posted, and pays fees. */
const SPENT: readonly CostStep[] = COST_STEPS.filter((step) => step !== "postage" && step !== "fees");
/** Parts that go back to the jars where a box is taken apart. */
const PARTS: readonly CostStep[] = ["material", "spares", "contents", "packaging"];

/**
 * What one too many and one too few cost. Of what is left over, a share is taken apart and its parts go back to the
 * jars; the others are sold at a share of the price without tax, and are posted and pay fees then.
 */
export function offByOne(
  { variants, boxes }: Pick<BoxSteps, "variants" | "boxes">,
  { takenApart, sellsAt }: Pick<MoneyInput, "takenApart" | "sellsAt">,
): OffByOne {
  const mean = (of: (v: BoxSteps["variants"][number]) => number) =>
    variants.reduce((sum, v) => sum + of(v) * v.boxes, 0) / Math.max(1, boxes);
  const stepsIn = (names: readonly CostStep[]) =>
    mean((v) => v.steps.reduce((n, s) => n + (names.includes(s.step) ? Number(s.perBox ?? 0) : 0), 0));
  const cost = stepsIn(SPENT);
  const untaxed = mean((v) => Number(v.sold?.price ?? 0) - Number(v.sold?.tax ?? 0));
  const sells = Math.max(0, untaxed * sellsAt - stepsIn(["postage", "fees"]));
  const worth = takenApart * stepsIn(PARTS) + (1 - takenApart) * sells;
  return {
    over: Math.max(0, cost - worth),
    under: Math.max(
      0,
      mean((v) => Number(v.sold?.margin ?? 0)),
    ),
    cost,
    worth,
  };
}

/** From how many sold boxes on a run earns at a price; null where no number does. */
export function paidForBy(
  { variants, boxes }: Pick<BoxSteps, "variants" | "boxes">,
  price: string,
  channel: Pick<Channel, "feeRate" | "feeFixed" | "taxRate">,
  currency: string,
): number | null {
  const runs = (names: readonly CostStep[]) =>
    sumOfMoney(
      variants.flatMap((v) => v.steps.filter((s) => names.includes(s.step)).map((s) => s.run)),
      currency,
    );
  const { feeRate, feeFixed, taxRate } = channel;
  const { net } = atPrice(price, "0", { feeRate, feeFixed, taxRate }, currency);
  const posted = new Big(runs(["postage"])).div(Math.max(1, boxes));
  return breakEven(runs(SPENT), new Big(net).minus(posted).toFixed(8));
}
