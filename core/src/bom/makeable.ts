import type { Component } from "../contract/index.ts";
import { addCuts, cutFrom, type Stretch } from "../cut/index.ts";
import type { ComponentTotal, Need, VariantBill } from "./bom.ts";

export interface Makeable {
  /** How many boxes can be made in all. */
  boxes: number;
  /** What allows the fewest boxes, all that tie; empty where nothing limits them. */
  limitedBy: { component: Component; boxes: number }[];
}

/** What is left of a component while boxes are taken from it one after another: a sum, or pieces to cut from. */
type Left = { sum: number } | { pieces: readonly Stretch[] };

/**
 * How many of the planned boxes can be made from what there is for them, colourway by colourway in their order: a
 * greedy answer, since what one colourway takes of a shared component the next can't have. A sum of offcuts is no
 * piece, so what is cut must find pieces that are long enough.
 */
export function makeable(variants: readonly VariantBill[], totals: readonly ComponentTotal[]): Makeable {
  // What is not short never limits.
  const short = new Map(totals.filter((t) => t.short > 0).map((t) => [t.component.id, t]));
  const left = new Map([...short].map(([id, total]) => [id, startOf(total)]));
  const allows = new Map([...short].map(([id, total]) => [id, { left: startOf(total), boxes: 0 }]));
  let boxes = 0;
  let whole = 0;
  for (const variant of variants) {
    const wanted = variant.gaps.length > 0 ? 0 : variant.boxes;
    whole += wanted;
    const needs = new Map(variant.needs.filter((n) => short.has(n.component.id)).map((n) => [n.component.id, n]));
    let possible = wanted;
    for (const [id, need] of needs) possible = Math.min(possible, fit(left.get(id)!, need, possible));
    for (const [id, need] of needs) left.set(id, without(left.get(id)!, need, possible));
    boxes += possible;
    for (const [id, alone] of allows) {
      const need = needs.get(id);
      const n = need ? fit(alone.left, need, wanted) : wanted;
      alone.boxes += n;
      if (need) alone.left = without(alone.left, need, n);
    }
  }
  const least = Math.min(...[...allows.values()].map((a) => a.boxes));
  const limitedBy = [...allows].flatMap(([id, alone]) =>
    alone.boxes === least && least < whole ? [{ component: short.get(id)!.component, boxes: least }] : [],
  );
  return { boxes, limitedBy };
}

const startOf = ({ left, pieces }: ComponentTotal): Left => (pieces ? { pieces } : { sum: Math.max(0, left) });

const cutsOf = (need: Need, boxes: number) => addCuts([], need.pieces, boxes);

/** How many boxes, at most so many, what is left allows. */
function fit(left: Left, need: Need, most: number): number {
  const aBox = need.perBox + need.spare;
  if (aBox <= 0) return most;
  if ("sum" in left) return Math.min(most, Math.floor(left.sum / aBox + 1e-9));
  let [can, cannot] = [0, most + 1];
  while (cannot - can > 1) {
    const middle = Math.floor((can + cannot) / 2);
    if (cutFrom(left.pieces, cutsOf(need, middle)).missing.length === 0) can = middle;
    else cannot = middle;
  }
  return can;
}

const without = (left: Left, need: Need, boxes: number): Left =>
  "sum" in left
    ? { sum: left.sum - (need.perBox + need.spare) * boxes }
    : { pieces: cutFrom(left.pieces, cutsOf(need, boxes)).left };
