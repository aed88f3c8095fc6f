import Big from "big.js";
import type { BoxBill, LookedBack, MoneyTerms, PackNeed } from "../contract/index.ts";
import { coinPlaces } from "../cost/index.ts";
import { boxesOf, dueAfter, isWhole } from "../pack/index.ts";
import { AT_THE_BENCH, secondsFor, workOfBilled } from "./work.ts";

/** What came of a run, as its books have it. */
export interface Happened {
  bill: BoxBill;
  needs: readonly PackNeed[];
  /** How many of each variant are packed. */
  packed: ReadonlyMap<string, number>;
  /** What left the jars for it, in money: by variant, or by none where it broke. */
  spent: readonly { variant: string | null; component: string; value: string }[];
  /** Seconds of single boxes, by variant. */
  timed: readonly { variant: string; seconds: number }[];
  /** Sold, by the variant's id; of no known variant under none. */
  sold: ReadonlyMap<string | null, number>;
}

/**
 * What was planned of a run against what came of it, for the boxes that are packed: parts by the frozen bill at its own
 * unit costs against what the ledger took out; minutes by the rates that were frozen, or those in use where none were,
 * against the times at the bench. What broke is shared by the variants as they are packed.
 */
export function lookBack(
  { bill, needs, packed, spent, timed, sold }: Happened,
  rates: MoneyTerms["rates"],
  currency: string,
): Pick<LookedBack, "boxes" | "packed" | "variants" | "sold" | "worst"> {
  const places = coinPlaces(currency);
  const unitCost = new Map(bill.components.map((c) => [c.id, c.unitCost ?? "0"]));
  const names = new Map(bill.components.map((c) => [c.id, c.name]));
  const boxes = boxesOf(bill);
  const inAll = [...packed.values()].reduce((a, b) => a + b, 0);
  const byComponent = new Map<string, Big>();
  const add = (component: string, amount: Big) =>
    byComponent.set(component, (byComponent.get(component) ?? new Big(0)).plus(amount));
  const broken = spent.filter((s) => s.variant === null).reduce((sum, s) => sum.plus(s.value), new Big(0));
  for (const s of spent) add(s.component, new Big(s.value));

  const variants = bill.variants.flatMap((v): LookedBack["variants"] => {
    if (!v.id) return [];
    const done = packed.get(v.id) ?? 0;
    let planned = new Big(0);
    for (const need of needs.filter((n) => n.variant === v.id)) {
      const due = dueAfter(need.quantity, done, boxes.get(v.id) ?? 0, isWhole(bill, need));
      const cost = new Big(unitCost.get(need.component) ?? "0").times(due * (need.cutMm ?? 1));
      planned = planned.plus(cost);
      add(need.component, cost.times(-1));
    }
    const used = spent.filter((s) => s.variant === v.id).reduce((sum, s) => sum.plus(s.value), new Big(0));
    const real = inAll > 0 ? used.plus(broken.times(done).div(inAll)) : used;
    const work = workOfBilled(bill, v).filter((w) => AT_THE_BENCH.includes(w.step));
    const frozen = bill.costs?.rates ?? rates;
    const seconds = work.reduce((sum, w) => sum + w.many * secondsFor(frozen, w.step), 0);
    const own = timed.filter((t) => t.variant === v.id);
    const mean = own.reduce((sum, t) => sum + t.seconds, 0) / own.length;
    return [
      {
        name: v.name,
        boxes: v.boxes,
        packed: done,
        sold: sold.get(v.id) ?? 0,
        planned: planned.toFixed(places),
        real: (real.lt(0) ? new Big(0) : real).toFixed(places),
        plannedMinutes: (seconds * done) / 60,
        realMinutes: own.length > 0 ? (mean * done) / 60 : null,
        timed: own.length,
      },
    ];
  });
  const most = [...byComponent].sort((a, b) => b[1].abs().cmp(a[1].abs()))[0];
  return {
    boxes: bill.variants.reduce((sum, v) => sum + v.boxes, 0),
    packed: inAll,
    variants,
    sold: [...sold.values()].reduce((a, b) => a + b, 0),
    worst: most ? { component: names.get(most[0]) ?? "", more: most[1].toFixed(places) } : null,
  };
}

/** One plan of a colourway's month that was off. */
export interface WrongPlan {
  what: "parts" | "minutes" | "sales";
  month: string;
  name: string;
  /** Money, minutes or boxes. */
  planned: number;
  came: number;
  /** How far off, as a part of what was planned: above 0 where it was more. */
  part: number;
}

/**
 * The plan that was off by most, as a part of itself: the cost of parts, the minutes or the sales of a colourway. A
 * month that has not gone out says nothing of its sales yet. Null where nothing is packed.
 */
export function wrongMost(months: readonly LookedBack[]): WrongPlan | null {
  const plans = months.flatMap(({ month, state, variants }) =>
    variants.flatMap(({ name, packed, boxes, sold, planned, real, plannedMinutes, realMinutes }) => {
      const off = (what: WrongPlan["what"], plan: number, came: number | null): WrongPlan[] =>
        plan > 0 && came !== null && packed > 0
          ? [{ what, month, name, planned: plan, came, part: came / plan - 1 }]
          : [];
      return [
        ...off("parts", Number(planned), Number(real)),
        ...off("minutes", plannedMinutes, realMinutes),
        ...(state === "sent" ? off("sales", boxes, sold) : []),
      ];
    }),
  );
  return plans.reduce<WrongPlan | null>(
    (most, p) => (most && Math.abs(most.part) >= Math.abs(p.part) ? most : p),
    null,
  );
}
