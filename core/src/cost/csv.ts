import type { BoxDetail } from "../contract/index.ts";
import type { Bill } from "../bom/index.ts";
import { writeSheet } from "../table/index.ts";
import type { BoxCost } from "./cost.ts";

/**
 * The bill of materials as CSV by RFC 4180: a header, CRLF, quotes where needed. One line a component and variant.
 * Quantities are plain decimals in the base unit named beside them.
 */
export function billAsCsv({ box }: BoxDetail, bill: Bill, cost: BoxCost): string {
  const names = new Map([...box.colourways, ...box.seconds].map((c) => [c.id, c.name]));
  const totals = new Map(bill.totals.map((t) => [t.component.id, t]));
  const rows = bill.variants.flatMap((variant, i) => [
    ...variant.needs.map((need, j) => ({
      month: box.month,
      box: box.theme,
      colourway: names.get(variant.first) ?? "",
      "second choice": variant.second === null ? "" : (names.get(variant.second) ?? ""),
      boxes: variant.boxes,
      code: need.component.code,
      component: need.component.name,
      kind: need.component.kind,
      unit: need.component.baseUnit,
      "a box": decimal(need.perBox),
      spare: decimal(need.spare),
      "spare by": need.rule ?? "",
      "the run": decimal(need.run),
      "on hand": decimal(need.component.onHand),
      "left for it": decimal(totals.get(need.component.id)!.left),
      "short in all": decimal(totals.get(need.component.id)!.short),
      "unit cost": cost.variants[i]!.lines[j]!.unitCost ?? "",
      cost: cost.variants[i]!.lines[j]!.cost ?? "",
    })),
    // What nobody has chosen yet must not drop out of the list.
    ...variant.gaps.map(({ boxRole, perBox, unit }) => ({
      month: box.month,
      box: box.theme,
      colourway: names.get(variant.first) ?? "",
      "second choice": variant.second === null ? "" : (names.get(variant.second) ?? ""),
      boxes: variant.boxes,
      code: "",
      component: `not chosen: ${boxRole.name}`,
      kind: boxRole.kind,
      unit,
      "a box": decimal(perBox),
      "the run": decimal(perBox * variant.boxes),
    })),
  ]);
  return writeSheet(COLUMNS, rows);
}

const COLUMNS = [
  "month",
  "box",
  "colourway",
  "second choice",
  "boxes",
  "code",
  "component",
  "kind",
  "unit",
  "a box",
  "spare",
  "spare by",
  "the run",
  "on hand",
  "left for it",
  "short in all",
  "unit cost",
  "cost",
];

const decimal = (n: number) => String(Number(n.toFixed(6)));
