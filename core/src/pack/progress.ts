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

/** What there is to pack from: what is free of each component, and what stands in the jars. */
interface ToTake {
  free: Record<string, number>;
  stands: Map<string, Packing["stands"]>;
}
const toTakeFrom = (packing: Asked): ToTake => ({
  free: { ...packing.free },
  stands: groupBy(packing.stands, (s) => s.component),
});

/** How far each variant is packed, and what holds up the rest. */
export function progressOf(packing: Asked): VariantProgress[] {
  const [packed, needs, there] = [packedOf(packing), groupBy(packing.needs, (n) => n.variant), toTakeFrom(packing)];
  return [...boxesOf(packing.of)].map(([variant, boxes]) =>
    progressIn(packing.of, { variant, boxes, packed: packed.get(variant) ?? 0 }, needs.get(variant) ?? [], there),
  );
}

function progressIn(
  bill: Packing["of"],
  { variant, boxes, packed }: Pick<VariantProgress, "variant" | "boxes" | "packed">,
  needs: readonly PackNeed[],
  { free, stands }: ToTake,
): VariantProgress {
  let can = boxes - packed;
  let heldUpBy: VariantProgress["heldUpBy"] = null;
  for (const need of needs) {
    const whole = isWhole(bill, need);
    const each = need.cutMm ?? 1;
    const there = Math.min(need.held + (free[need.component] ?? 0) / each, standing(need, stands));
    const fits = (more: number) => takenNext(need, packed + more, boxes, whole) <= there;
    if (fits(can)) continue;
    while (can > 0 && !fits(can)) can--;
    heldUpBy = {
      component: need.component,
      lacks: exact((takenNext(need, boxes, boxes, whole) - there) * each),
      ordered: need.ordered,
    };
  }
  return { variant, boxes, packed, can, heldUpBy };
}

/** So much of what a need is counted in stands in the jars: pieces, grams, or cuts. */
function standing({ component, cutMm }: PackNeed, stands: ToTake["stands"]): number {
  const list = stands.get(component) ?? [];
  if (cutMm === null) return exact(list.reduce((sum, s) => sum + s.quantity, 0));
  return howManyOf(
    list.map((s) => ({ mm: s.stretchMm, count: s.quantity })),
    cutMm,
  );
}

/**
 * How many more boxes can be packed with what is there, variant by variant in their order: what one takes of what they
 * share the next can't have.
 */
export function packableNow(packing: Asked): number {
  const [packed, needs, there] = [packedOf(packing), groupBy(packing.needs, (n) => n.variant), toTakeFrom(packing)];
  let total = 0;
  for (const [variant, boxes] of boxesOf(packing.of)) {
    const own = needs.get(variant) ?? [];
    const done = packed.get(variant) ?? 0;
    const { can } = progressIn(packing.of, { variant, boxes, packed: done }, own, there);
    total += can;
    for (const need of own) {
      const taken = Math.max(0, takenNext(need, done + can, boxes, isWhole(packing.of, need)));
      const { component, cutMm } = need;
      const fromFree = Math.max(0, taken - need.held) * (cutMm ?? 1);
      there.free[component] = exact((there.free[component] ?? 0) - fromFree);
      const left = takeFrom(there.stands.get(component) ?? [], cutMm, taken);
      there.stands.set(component, left);
    }
  }
  return total;
}

/** What of a component stands in the jars when so much of it is taken. */
function takeFrom(stands: Packing["stands"], cutMm: number | null, taken: number): Packing["stands"] {
  const [first] = stands;
  if (!first || taken === 0) return stands;
  if (cutMm === null) return [{ ...first, quantity: exact(stands.reduce((sum, s) => sum + s.quantity, 0) - taken) }];
  const pieces = stands.map((s) => ({ mm: s.stretchMm, count: s.quantity }));
  const { left } = cutFrom(pieces, [{ mm: cutMm, count: taken }]);
  return left.map((p) => ({ ...first, stretchMm: p.mm, quantity: p.count }));
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
