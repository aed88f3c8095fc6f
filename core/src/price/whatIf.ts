import { replacementCost } from "../component/index.ts";
import type { Box, BoxDetail, BoxInput, Component, WhatIfChange } from "../contract/index.ts";
import { shareCharge } from "../stock/index.ts";
import type { Terms } from "./steps.ts";

/** What a what-if is tried on. */
export interface Tried {
  detail: BoxDetail;
  terms: Terms;
}

/** Whether a change is of the box itself, so that it is applied by changing the box. */
export const isOfBox = ({ what }: WhatIfChange) => what === "price" || what === "boxes" || what === "component";

/** Boxes of each variant where the run makes so many in all: shared out as they are now, by largest remainder. */
export function shareBoxes<V extends { boxes: number }>(variants: readonly V[], boxes: number): V[] {
  const shares = shareCharge(
    String(boxes),
    variants.map((v) => v.boxes),
    0,
  );
  return variants.map((v, i) => (Number(shares[i]) === v.boxes ? v : { ...v, boxes: Number(shares[i]) }));
}

/** A box with those of the changes in it that are of the box. */
export function changedBox<B extends Box | BoxInput>(box: B, changes: readonly WhatIfChange[]): B {
  return changes.reduce<B>((now, change) => {
    switch (change.what) {
      case "price": {
        const { channel, single } = change;
        const known = now.prices.some((p) => p.channel === channel);
        const prices = now.prices.map((p) => (p.channel === channel ? { ...p, single } : p));
        return { ...now, prices: known ? prices : [...prices, { channel, single, subscription: null }] };
      }
      case "boxes":
        return { ...now, variants: shareBoxes(now.variants, change.boxes) };
      case "component": {
        const swap = <T extends { component: string }>(list: readonly T[]) =>
          list.map((x) => (x.component === change.component ? { ...x, component: change.with } : x));
        return { ...now, picks: swap(now.picks), contents: swap(now.contents) };
      }
      default:
        return now;
    }
  }, box);
}

/** A component as it would be where it is bought by another of its offers: that one first, at what it costs. */
export function boughtBy(component: Component, offer: string): Component {
  const chosen = component.offers.find((o) => o.id === offer);
  if (!chosen) return component;
  const offers = [chosen, ...component.offers.filter((o) => o !== chosen)];
  const cost = replacementCost({ ...component, offers });
  return { ...component, offers, averageCost: cost, lastCost: cost };
}

/**
 * A box and what it costs by, as they would be with some changes. What is not changed stays the same object, so that
 * what was worked out from it holds.
 * @param known every component that could be chosen, by id
 */
export function tried(
  { detail, terms }: Tried,
  changes: readonly WhatIfChange[],
  known: ReadonlyMap<string, Component>,
) {
  const box = changedBox(detail.box, changes);
  let { components, spares } = detail;
  let { money } = terms;
  for (const change of changes) {
    if (change.what === "component") {
      const other = known.get(change.with);
      if (other && !components.some((c) => c.id === other.id)) components = [...components, other];
    } else if (change.what === "pack") {
      components = components.map((c) => (c.id === change.component ? boughtBy(c, change.offer) : c));
    } else if (change.what === "wage") money = { ...money, wage: change.wage };
    else if (change.what === "rate") {
      const others = money.rates.filter((r) => r.step !== change.step);
      const { step, seconds } = change;
      money = { ...money, rates: [...others, { step, seconds, spread: 0, n: 0, from: "default" }] };
    } else if (change.what === "spare") {
      spares = spares.map((r) => (r.id === change.rule ? { ...r, add: change.add } : r));
    }
  }
  const same = box === detail.box && components === detail.components && spares === detail.spares;
  return {
    detail: same ? detail : { ...detail, box, components, spares },
    terms: money === terms.money ? terms : { ...terms, money },
  };
}
