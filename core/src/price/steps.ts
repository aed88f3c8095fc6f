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
import { coinPlaces, costsOfNeeds, inCoins, type NeedCost, sayCoins, shareCoins } from "../cost/index.ts";
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

/** Seconds of work as whole coins. */
const wageFor = (wage: string, seconds: number, places: number) =>
  inCoins(new Big(wage).times(seconds).div(3600).toFixed(8), places);

/** What one box is for the carrier, and how much work: the same for as long as it takes the same. */
const ofABox = new WeakMap<object, { parcel: Parcel; work: ReturnType<typeof workOfBox> }>();
function aBoxOf(variant: VariantBill) {
  let known = ofABox.get(variant.aBox);
  if (!known) ofABox.set(variant.aBox, (known = { parcel: parcelOf(variant), work: workOfBox(variant) }));
  return known;
}

/** A variant's parts: what each step comes to in coins, and the needs that they are of. */
interface Parts {
  by: string;
  sums: Map<CostStep, number>;
  unpriced: Component[];
  /** Made when they are asked for. */
  lines: () => StepLine[];
}
/** By a variant's bill, under what its needs cost last. */
const reckoned = new WeakMap<VariantBill, Parts>();

/** A variant's parts by steps: what each line of its bill costs is shared out to the steps that it is of. */
function partsOfVariant(variant: VariantBill, costs: readonly NeedCost[], places: number): Parts {
  const by = `${places} ${costs.map((c) => (c.unit === null ? "" : c.coins)).join()}`;
  const known = reckoned.get(variant);
  if (known?.by === by) return known;
  const sums = new Map<CostStep, number>();
  const unpriced: Component[] = [];
  const shared = variant.needs.map((need, i) => {
    const of = partsOf(need, variant);
    const { unit, coins } = costs[i]!;
    if (unit === null) {
      unpriced.push(need.component);
      return { need, of, shares: null };
    }
    const shares = shareCoins(
      coins,
      of.map((p) => p.many),
    );
    of.forEach(({ step }, k) => sums.set(step, (sums.get(step) ?? 0) + shares[k]!));
    return { need, of, shares };
  });
  let made: StepLine[] | null = null;
  const lines = () =>
    (made ??= shared.flatMap(({ need: { component, from }, of, shares }) =>
      of.map(({ step, many }, k) => ({
        step,
        component,
        role: from[0]?.boxRole ?? component.id,
        many,
        cost: shares && sayCoins(shares[k]!, places),
      })),
    ));
  const found = { by, sums, unpriced, lines };
  reckoned.set(variant, found);
  return found;
}

/**
 * What each variant of a box costs, step by step. Each component of a run is rounded once to the coin and shared out to
 * variants; a step is the sum of its lines. What one box costs is the run ÷ its boxes to the coin, shared out to the
 * steps by largest remainder: so the steps of a box add up to its cost as well.
 */
export function stepsOf({ box }: Pick<BoxDetail, "box">, bill: Bill, terms: Terms): BoxSteps {
  const { money, currency } = terms;
  const places = coinPlaces(currency);
  const price = box.prices.find((p) => money.channels.some((c) => c.id === p.channel));
  const channel = price && money.channels.find((c) => c.id === price.channel);
  const asked = price && channel ? selling(new Big(price.single), new Big(0), channel) : null;
  const fee = asked && inCoins(asked.fee.toFixed(places), places);
  const overhead = inCoins(money.overhead, places);
  const boxesInAll = bill.variants.reduce((n, v) => n + v.boxes, 0);
  const setUp = secondsFor(money.rates, "set-up");
  const setUpCosts = shareCoins(
    wageFor(money.wage, setUp, places),
    bill.variants.map((v) => v.boxes),
  );
  // Nothing is posted before the workshop says where to.
  const bands = money.zone === "" ? [] : terms.bands;
  const hasMade = Object.keys(money.made).length > 0;
  const unpriced = new Map<string, Component>();

  const needCosts = costsOfNeeds(bill, places, money.basis);
  const variants = bill.variants.map((variant, i): VariantSteps => {
    const { first, second, boxes, needs } = variant;
    const { parcel, work } = aBoxOf(variant);
    const parts = partsOfVariant(variant, needCosts[i]!, places);
    for (const component of parts.unpriced) unpriced.set(component.id, component);
    const posted = postageFor(bands, parcel, money.zone, money.service);
    const others: StepLine[] = [];
    const inSteps = new Map(parts.sums);
    let seconds = 0;
    const run = (step: CostStep, coins: number, many: number, more: Partial<StepLine> = {}) => {
      inSteps.set(step, (inSteps.get(step) ?? 0) + coins);
      seconds += more.seconds ?? 0;
      others.push({ step, many, cost: sayCoins(coins, places), ...more });
    };
    for (const { component, run: many } of hasMade ? needs : []) {
      const each = money.made[component.id];
      if (each === undefined) continue;
      const seconds = each * many;
      run("labour", wageFor(money.wage, seconds, places), many, { component, work: "made", seconds });
    }
    if (boxes > 0) {
      for (const { step, many } of work) {
        const seconds = many * boxes * secondsFor(money.rates, step);
        run("labour", wageFor(money.wage, seconds, places), many * boxes, { work: step, seconds });
      }
      if (setUp > 0) {
        run("labour", setUpCosts[i]!, 1, { work: "set-up", seconds: (setUp * boxes) / boxesInAll });
      }
      if (posted.band) run("postage", inCoins(posted.band.price, places) * boxes, boxes);
      if (fee !== null) run("fees", fee * boxes, boxes);
      if (overhead > 0) run("overhead", overhead * boxes, boxes);
    }
    const runs = COST_STEPS.map((step) => inSteps.get(step) ?? 0);
    const all = runs.reduce((a, b) => a + b, 0);
    const perBox = boxes > 0 ? Math.round(all / boxes) : null;
    const shared = perBox === null ? null : shareCoins(perBox, runs);
    const sold = (): VariantSteps["sold"] => {
      if (perBox === null || !price || !asked) return null;
      const [whole, tax] = [inCoins(price.single, places), inCoins(asked.tax.toFixed(places), places)];
      const margin = whole - tax - perBox;
      const part = asked.untaxed.gt(0) ? margin / (Number(asked.untaxed) * 10 ** places) : 0;
      return { price: sayCoins(whole, places), tax: sayCoins(tax, places), margin: signed(margin, places), part };
    };
    return {
      first,
      second,
      boxes,
      get lines() {
        return [...parts.lines(), ...others];
      },
      steps: COST_STEPS.map((step, k) => ({
        step,
        run: sayCoins(runs[k]!, places),
        perBox: shared && sayCoins(shared[k]!, places),
      })),
      run: sayCoins(all, places),
      perBox: perBox === null ? null : sayCoins(perBox, places),
      sold: sold(),
      seconds,
      parcel,
      posted,
    };
  });
  const runInAll = variants.reduce((sum, v) => sum.plus(v.run), new Big(0)).toFixed(places);
  return {
    variants,
    channel: channel?.id ?? null,
    run: runInAll,
    boxes: boxesInAll,
    perBox: boxesInAll > 0 ? new Big(runInAll).div(boxesInAll).toFixed(places) : null,
    unpriced: [...unpriced.values()],
  };
}

const signed = (coins: number, places: number) => `${coins < 0 ? "-" : ""}${sayCoins(Math.abs(coins), places)}`;

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
