import type { Packing, PackNeed } from "../contract/index.ts";
import { exact } from "../units/index.ts";
import { boxesOf, dueAfter, isWhole, packedOf, takenNext } from "./use.ts";

/** How far one variant is, and what its next boxes wait for. */
export interface VariantProgress {
  variant: string;
  boxes: number;
  packed: number;
  /** How many more could be packed with what is there. */
  can: number;
  /** What the box after those lacks; null where all can be packed. */
  heldUpBy: { component: string; lacks: number; ordered: PackNeed["ordered"] } | null;
}

type Asked = Pick<Packing, "of" | "needs" | "stands" | "free" | "packed">;

/** How far each variant is packed, and what holds up the rest. */
export function progressOf(packing: Asked): VariantProgress[] {
  const packed = packedOf(packing);
  const onHand = new Map<string, number>();
  for (const s of packing.stands) {
    onHand.set(s.component, exact((onHand.get(s.component) ?? 0) + s.quantity * (s.stretchMm || 1)));
  }
  return [...boxesOf(packing.of)].map(([variant, boxes]): VariantProgress => {
    const done = packed.get(variant) ?? 0;
    let can = boxes - done;
    let heldUpBy: VariantProgress["heldUpBy"] = null;
    for (const need of packing.needs.filter((n) => n.variant === variant)) {
      const whole = isWhole(packing.of, need);
      const each = need.cutMm ?? 1;
      const there = Math.min(
        need.held + (packing.free[need.component] ?? 0) / each,
        (onHand.get(need.component) ?? 0) / each,
      );
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
