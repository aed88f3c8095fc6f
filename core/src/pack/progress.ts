import type { Packing, PackNeed } from "../contract/index.ts";
import { groupBy } from "../ahead/index.ts";
import { cutFrom, howManyOf } from "../cut/index.ts";
import { exact } from "../units/index.ts";
import { boxesOf, dueAfter, isWhole, packedOf, takenNext } from "./use.ts";

/** How far one variant is, and what its next boxes wait for. */
export interface VariantProgress {
  variant: string;
  boxes: number;
  packed: number;
  /** How many more could be packed with what is there, were no other variant packed before. */
  can: number;
  /** What the box after those lacks; null where all can be packed. */
  heldUpBy: { component: string; lacks: number; ordered: PackNeed["ordered"] } | null;
}

type Asked = Pick<Packing, "of" | "needs" | "stands" | "free" | "packed">;

/** How far each variant is packed, and what holds up the rest. */
export function progressOf(packing: Asked): VariantProgress[] {
  const packed = packedOf(packing);
  const stands = groupBy(packing.stands, (s) => s.component);
  /** So much of what a need is counted in stands in the jars. */
  const onHand = ({ component, cutMm }: PackNeed) => {
    const list = stands.get(component) ?? [];
    if (cutMm === null) return exact(list.reduce((sum, s) => sum + s.quantity, 0));
    return howManyOf(
      list.map((s) => ({ mm: s.stretchMm, count: s.quantity })),
      cutMm,
    );
  };
  return [...boxesOf(packing.of)].map(([variant, boxes]): VariantProgress => {
    const done = packed.get(variant) ?? 0;
    let can = boxes - done;
    let heldUpBy: VariantProgress["heldUpBy"] = null;
    for (const need of packing.needs.filter((n) => n.variant === variant)) {
      const whole = isWhole(packing.of, need);
      const each = need.cutMm ?? 1;
      const there = Math.min(need.held + (packing.free[need.component] ?? 0) / each, onHand(need));
      const fits = (more: number) => takenNext(need, done + more, boxes, whole) <= there;
      if (fits(can)) continue;
      while (can > 0 && !fits(can)) can--;
      heldUpBy = {
        component: need.component,
        lacks: exact((takenNext(need, boxes, boxes, whole) - there) * each),
        ordered: need.ordered,
      };
    }
    return { variant, boxes, packed: done, can, heldUpBy };
  });
}

/**
 * How many more boxes can be packed with what is there, variant by variant in their order: what one takes of what they
 * share the next can't have.
 */
export function packableNow(packing: Asked): number {
  const packed = packedOf(packing);
  const free = { ...packing.free };
  let stands = packing.stands;
  let total = 0;
  for (const [variant, boxes] of boxesOf(packing.of)) {
    const done = packed.get(variant) ?? 0;
    const { can } = progressOf({ ...packing, free, stands }).find((p) => p.variant === variant)!;
    total += can;
    for (const need of packing.needs.filter((n) => n.variant === variant)) {
      const taken = Math.max(0, takenNext(need, done + can, boxes, isWhole(packing.of, need)));
      const { component, cutMm } = need;
      free[component] = exact((free[component] ?? 0) - Math.max(0, taken - need.held) * (cutMm ?? 1));
      stands = takeFrom(stands, need, taken);
    }
  }
  return total;
}

/** What stands in the jars when so much of a need is taken. */
function takeFrom(stands: Asked["stands"], { component, cutMm }: PackNeed, taken: number): Asked["stands"] {
  const others = stands.filter((s) => s.component !== component);
  const own = stands.filter((s) => s.component === component);
  if (own.length === 0) return stands;
  const first = own[0]!;
  if (cutMm === null) {
    return [...others, { ...first, quantity: exact(own.reduce((sum, s) => sum + s.quantity, 0) - taken) }];
  }
  const pieces = own.map((s) => ({ mm: s.stretchMm, count: s.quantity }));
  const { left } = cutFrom(pieces, [{ mm: cutMm, count: taken }]);
  return [...others, ...left.map((p) => ({ ...first, stretchMm: p.mm, quantity: p.count }))];
}

/** One component of a run that is over, or on its way: what the bill says, and what happened. In the base unit. */
export interface SettledRow {
  component: string;
  /** By the frozen bill, for the boxes that are packed. */
  billed: number;
  /** Used for them by the ledger. */
  used: number;
  /** Of the bill's, so much had something else put in its place; and put in the place of something else. */
  replaced: number;
  inPlace: number;
  broken: number;
  /** What counts while packing found more in the jars; below 0: less. */
  counted: number;
  /** What the bill held for boxes that were not packed: given back. */
  givenBack: number;
}

/** What was really used, held against the bill: for every component of the run, and what came in its place. */
export function settled({ of, needs, packed, told }: Pick<Packing, "of" | "needs" | "packed" | "told">): SettledRow[] {
  const rows = new Map<string, SettledRow>();
  const rowOf = (component: string) => {
    const row = rows.get(component) ?? {
      component,
      billed: 0,
      used: 0,
      replaced: 0,
      inPlace: 0,
      broken: 0,
      counted: 0,
      givenBack: 0,
    };
    rows.set(component, row);
    return row;
  };
  const [boxes, done] = [boxesOf(of), packedOf({ packed })];
  for (const need of needs) {
    const row = rowOf(need.component);
    const each = need.cutMm ?? 1;
    const billed = dueAfter(
      need.quantity,
      done.get(need.variant) ?? 0,
      boxes.get(need.variant) ?? 0,
      isWhole(of, need),
    );
    const add = (name: "billed" | "used" | "replaced" | "givenBack", n: number) =>
      (row[name] = exact(row[name] + n * each));
    add("billed", billed);
    add("used", need.used);
    add("replaced", need.swapped);
    add("givenBack", need.quantity - billed);
  }
  for (const { kind, component, quantity } of told) {
    if (kind === "cut") continue;
    const row = rowOf(component);
    const name = kind === "swapped" ? "inPlace" : kind === "counted" ? "counted" : "broken";
    row[name] = exact(row[name] + quantity);
  }
  return [...rows.values()];
}
