import Big from "big.js";
import { type Bill, type Need, roundUp, type VariantBill } from "../bom/index.ts";
import {
  type Band,
  type BoxDetail,
  type Component,
  COST_STEPS,
  type CostStep,
  type FrozenCost,
  type MoneyTerms,
  type WorkStep,
} from "../contract/index.ts";
import { coinPlaces, costOf } from "../cost/index.ts";
import { shareCharge } from "../stock/index.ts";
import { type Parcel, parcelOf } from "./parcel.ts";
import { type Posted, postageFor } from "./postage.ts";
import { selling } from "./price.ts";
import { secondsFor, workOfBox } from "./work.ts";

/** All that a box's cost goes by beside the box itself. */
export interface Terms {
  currency: string;
  money: Omit<MoneyTerms, "version">;
  bands: readonly Band[];
}

/** One line of a step: what it is, how much of it the run takes, and what that costs. */
export interface StepLine {
  step: CostStep;
  /** What it is of: a component, a kind of work, or itself. */
  component?: Component;
  /** The role of the box that it was chosen for, or the component itself where it lies beside the designs. */
  role?: string;
  work?: WorkStep | "made";
  /** In the component's base unit, or how often; for work, with its seconds in all. */
  many: number;
  seconds?: number;
  /** Decimal text; null where no price is known. */
  cost: string | null;
}

/** What one variant's boxes cost, from material to margin. */
export interface VariantSteps {
  first: string;
  second: string | null;
  boxes: number;
  lines: StepLine[];
  /** In the order of {@link COST_STEPS}: for the run, and for one box; null with no boxes. */
  steps: { step: CostStep; run: string; perBox: string | null }[];
  run: string;
  perBox: string | null;
  /** What a box is sold at in the channel at hand, and what is left; null where it has no price or no boxes. */
  sold: { price: string; tax: string; margin: string; part: number } | null;
  /** The work of the run, s. */
  seconds: number;
  parcel: Parcel;
  posted: Posted;
}

export interface BoxSteps {
  variants: VariantSteps[];
  /** The channel that fees are of; null where the box has no price. */
  channel: string | null;
  run: string;
  boxes: number;
  perBox: string | null;
  unpriced: Component[];
}

/** What one need costs, shared out to the steps that it is of: packaging, contents, material, and what is to spare. */
function partsOf(need: Need, variant: VariantBill): { step: CostStep; many: number }[] {
  const { component, spare, run, beside } = need;
  const { boxes } = variant;
  const more = Math.min(run, roundUp(spare * boxes, component.baseUnit));
  const own = run - more;
  const besideRun = Math.min(own, beside.reduce((sum, b) => sum + b.perBox, 0) * boxes);
  const packaging = component.kind === "packaging";
  return [
    { step: packaging ? ("packaging" as const) : ("material" as const), many: own - besideRun },
    { step: packaging ? ("packaging" as const) : ("contents" as const), many: besideRun },
    { step: "spares" as const, many: more },
  ].filter((p) => p.many > 1e-9);
}

/** Seconds of work as money, to the coin. */
const wageFor = (wage: string, seconds: number, places: number) =>
  new Big(wage).times(seconds).div(3600).toFixed(places);

/** What a variant's parts, its parcel and its work are: the same for as long as its bill is there. */
const measured = new WeakMap<VariantBill, { parcel: Parcel; work: ReturnType<typeof workOfBox> }>();
function measure(variant: VariantBill) {
  const known = measured.get(variant) ?? { parcel: parcelOf(variant), work: workOfBox(variant) };
  measured.set(variant, known);
  return known;
}

const sum = (amounts: readonly (string | null)[], places: number) =>
  amounts.reduce((all, a) => (a === null ? all : all.plus(a)), new Big(0)).toFixed(places);

/**
 * What each variant of a box costs, step by step. Each line of a run is rounded once to the coin; a step is the sum of
 * its lines. What one box costs is the run ÷ its boxes to the coin, shared out to the steps by largest remainder: so
 * the steps of a box add up to its cost as well.
 */
export function stepsOf({ box }: Pick<BoxDetail, "box">, bill: Bill, terms: Terms): BoxSteps {
  const { money, currency } = terms;
  const places = coinPlaces(currency);
  const material = costOf(bill, places, money.basis);
  const price = box.prices.find((p) => money.channels.some((c) => c.id === p.channel));
  const channel = price && money.channels.find((c) => c.id === price.channel);
  const boxesInAll = bill.variants.reduce((n, v) => n + v.boxes, 0);
  const setUp = secondsFor(money.rates, "set-up");
  const weights = bill.variants.map((v) => v.boxes);
  const setUpCosts = boxesInAll > 0 ? shareCharge(wageFor(money.wage, setUp, places), weights, places) : [];

  const variants = bill.variants.map((variant, i): VariantSteps => {
    const { first, second, boxes, needs } = variant;
    const { parcel, work } = measure(variant);
    // Nothing is posted before the workshop says where to.
    const posted = postageFor(money.zone === "" ? [] : terms.bands, parcel, money.zone, money.service);
    const lines: StepLine[] = [];
    const run = (step: CostStep, amount: string, many: number, more: Partial<StepLine> = {}) =>
      lines.push({ step, many, cost: amount, ...more });
    needs.forEach((need, j) => {
      const { component, cost } = material.variants[i]!.lines[j]!;
      const parts = partsOf(need, variant);
      const shares =
        cost === null
          ? null
          : shareCharge(
              cost,
              parts.map((p) => p.many),
              places,
            );
      const role = need.from[0]?.boxRole ?? component.id;
      parts.forEach(({ step, many }, k) => lines.push({ step, component, role, many, cost: shares && shares[k]! }));
      const made = money.made[component.id];
      if (made) {
        const seconds = made * need.run;
        run("labour", wageFor(money.wage, seconds, places), need.run, { component, work: "made", seconds });
      }
    });
    if (boxes > 0) {
      for (const { step, many } of work) {
        const seconds = many * boxes * secondsFor(money.rates, step);
        run("labour", wageFor(money.wage, seconds, places), many * boxes, { work: step, seconds });
      }
      if (setUp > 0) {
        run("labour", setUpCosts[i]!, 1, { work: "set-up", seconds: (setUp * boxes) / boxesInAll });
      }
      const times = (amount: string | number) => new Big(amount).round(places, 1).times(boxes).toFixed(places);
      if (posted.band) run("postage", times(posted.band.price), boxes);
      if (price && channel) {
        const { fee } = selling(new Big(price.single), new Big(0), channel);
        run("fees", times(fee.toFixed(places)), boxes);
      }
      if (Number(money.overhead) > 0) run("overhead", times(money.overhead), boxes);
    }

    const byStep = new Map(COST_STEPS.map((step) => [step, [] as (string | null)[]]));
    for (const line of lines) byStep.get(line.step)!.push(line.cost);
    const runs = COST_STEPS.map((step) => sum(byStep.get(step)!, places));
    const all = sum(runs, places);
    const perBox = boxes > 0 ? new Big(all).div(boxes).toFixed(places) : null;
    const shared = perBox === null ? null : shareCharge(perBox, runs.map(Number), places);
    const sold = (): VariantSteps["sold"] => {
      if (perBox === null || !price || !channel) return null;
      const { tax, untaxed } = selling(new Big(price.single), new Big(0), channel);
      const taxed = tax.toFixed(places);
      const margin = new Big(price.single).minus(taxed).minus(perBox);
      const part = untaxed.gt(0) ? Number(margin.div(untaxed)) : 0;
      return { price: new Big(price.single).toFixed(places), tax: taxed, margin: margin.toFixed(places), part };
    };
    return {
      first,
      second,
      boxes,
      lines,
      steps: COST_STEPS.map((step, k) => ({ step, run: runs[k]!, perBox: shared && shared[k]! })),
      run: all,
      perBox,
      sold: sold(),
      seconds: lines.reduce((n, l) => n + (l.seconds ?? 0), 0),
      parcel,
      posted,
    };
  });
  const runInAll = sum(
    variants.map((v) => v.run),
    places,
  );
  return {
    variants,
    channel: channel?.id ?? null,
    run: runInAll,
    boxes: boxesInAll,
    perBox: boxesInAll > 0 ? new Big(runInAll).div(boxesInAll).toFixed(places) : null,
    unpriced: material.unpriced,
  };
}

/** What a run was planned to cost, to be frozen with its bill. */
export function frozenCosts({ box }: Pick<BoxDetail, "box">, steps: BoxSteps, { money, currency }: Terms): FrozenCost {
  const price = box.prices.find((p) => p.channel === steps.channel)?.single ?? null;
  return {
    currency,
    basis: money.basis,
    wage: money.wage,
    rates: money.rates,
    variants: steps.variants.map(({ first, second, steps: list, seconds }) => ({
      first,
      second,
      steps: list.map(({ step, run }) => ({ step, run })),
      seconds,
      price,
    })),
  };
}

/** What one variant costs beyond the cheapest, and the component that brings most of it. */
export interface Dearer {
  /** Decimal text, a box. */
  more: string;
  /** The component that brings most of it, and how much; null where no single one does. */
  by: { component: Component; more: string } | null;
}

/** Why a variant costs more than another: what the difference is, a box, and which component brings most of it. */
export function dearerThan(variant: VariantSteps, cheapest: VariantSteps, currency: string): Dearer | null {
  if (variant.perBox === null || cheapest.perBox === null) return null;
  const places = coinPlaces(currency);
  const more = new Big(variant.perBox).minus(cheapest.perBox);
  if (more.lte(0)) return null;
  const each = ({ lines, boxes }: VariantSteps) => {
    const costs = new Map<string, { component: Component; cost: Big }>();
    for (const { component, role, cost } of lines) {
      if (!component || !role || cost === null) continue;
      const known = costs.get(role)?.cost ?? new Big(0);
      costs.set(role, { component, cost: known.plus(new Big(cost).div(boxes)) });
    }
    return costs;
  };
  // What was chosen for a role in the one is set against what was chosen for it in the other.
  const [here, there] = [each(variant), each(cheapest)];
  const most = [...here]
    .map(([role, { component, cost }]) => ({ component, more: cost.minus(there.get(role)?.cost ?? 0) }))
    .sort((a, b) => b.more.cmp(a.more))[0];
  const by = most && most.more.gt(0) ? { component: most.component, more: most.more.toFixed(places) } : null;
  return { more: more.toFixed(places), by };
}
