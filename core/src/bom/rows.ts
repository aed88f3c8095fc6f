import type { BoxRole, Component } from "../contract/index.ts";
import { type Bill, type ComponentTotal, type Need, roundUp, type VariantBill } from "./bom.ts";

/** A component on the counts sheet, over one colourway or all of them. */
export interface CountRow {
  component: Component;
  /** Least and most that a box takes: pieces, or millimetres of what is cut. */
  least: number;
  most: number;
  /** Least and most that a box holds to spare, in the same; and by which rules. */
  spareLeast: number;
  spareMost: number;
  rule: string | null;
  /** What the colourways looked at take in all, in the base unit. */
  run: number;
  /** What the whole run takes, every colourway together. */
  runInAll: number;
  /** What is there for this box, before its own needs. */
  left: number;
  /** Needed by the whole run and not there for it. */
  short: number;
  /** Who took it. */
  because: ComponentTotal["because"];
}

/** A role on the counts sheet that nobody chose anything for, in some colourway looked at. */
export interface GapRow {
  boxRole: BoxRole;
  unit: "piece" | "mm";
  perBox: number;
  run: number;
}

/** What a box takes of a need, as people count it: pieces, or millimetres of what is cut. */
export const aBoxOf = (need: Need): number => need.piecesPerBox ?? need.perBox;

/** What a box holds of it to spare, as people count it. */
export const spareOfBox = (need: Need): number =>
  need.component.baseUnit === "mm" ? need.spare : need.bags.reduce((sum, bag) => sum + bag.more, 0);

/** The variants of one colourway, or of all of them. */
export const variantsOf = (bill: Bill, colourway: string | null): readonly VariantBill[] =>
  colourway === null ? bill.variants : bill.variants.filter((v) => v.first === colourway);

/** The counts sheet: what the run takes, component by component, and what is still to be chosen. */
export function countRows(bill: Bill, colourway: string | null): { rows: CountRow[]; gaps: GapRow[]; boxes: number } {
  const totals = new Map(bill.totals.map((t) => [t.component.id, t]));
  const rows = new Map<string, CountRow>();
  const gaps = new Map<string, GapRow>();
  let boxes = 0;
  for (const variant of variantsOf(bill, colourway)) {
    boxes += variant.boxes;
    for (const need of variant.needs) {
      const { component, run } = need;
      const [aBox, spare] = [aBoxOf(need), spareOfBox(need)];
      const row = rows.get(component.id);
      if (row) {
        row.least = Math.min(row.least, aBox);
        row.most = Math.max(row.most, aBox);
        row.spareLeast = Math.min(row.spareLeast, spare);
        row.spareMost = Math.max(row.spareMost, spare);
        row.rule ??= need.rule;
        row.run += run;
      } else {
        const total = totals.get(component.id)!;
        const { run: runInAll, left, short, because } = total;
        const spares = { spareLeast: spare, spareMost: spare, rule: need.rule };
        rows.set(component.id, { component, least: aBox, most: aBox, ...spares, run, runInAll, left, short, because });
      }
    }
    for (const { boxRole, perBox, unit } of variant.gaps) {
      const run = (gaps.get(boxRole.id)?.run ?? 0) + perBox * variant.boxes;
      gaps.set(boxRole.id, { boxRole, perBox, unit, run });
    }
  }
  // Sums of what was rounded already: only the dust of adding is taken off.
  for (const row of rows.values()) row.run = roundUp(row.run, row.component.baseUnit);
  return { rows: [...rows.values()], gaps: [...gaps.values()], boxes };
}

/** The needs of one component, variant by variant. */
export const needsOf = (
  bill: Bill,
  colourway: string | null,
  component: string,
): { variant: VariantBill; need: Need }[] =>
  variantsOf(bill, colourway).flatMap((variant) =>
    variant.needs.filter((n) => n.component.id === component).map((need) => ({ variant, need })),
  );
