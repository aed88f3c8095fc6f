import { Sale } from "../contract/index.ts";
import { type DecimalMark, moneyOf, numberOf } from "./read.ts";

/** A box that sales may be of, with its variants by the names of their choices. */
export interface SoldBox {
  id: string;
  month: string;
  theme: string;
  variants: { id: string; first: string; second: string }[];
}

/** What a table of sales is held against: lines that are there already, and the boxes here. */
export interface KnownSales {
  sales: readonly Sale[];
  boxes: readonly SoldBox[];
}

type Read =
  | { faults: string[]; status: "new"; what: string; sale: Sale }
  | { faults: []; status: "new" | "changed" | "same"; what: string; sale: Sale };

const keyOf = ({ source, order, line }: Pick<Sale, "source" | "order" | "line">) =>
  JSON.stringify([source, order, line]);
const SAID = ["kind", "day", "month", "theme", "colourway", "second", "quantity", "paid", "offered"] as const;

/**
 * Makes a reader of rows of sales. The same shop, order and line is the same sale: it is new, says what is known
 * already, or changes it, and then what it changes is named. A number below 0 is a return. A box is found by its theme,
 * and by its month where that is said; its variant by the names of its choices, where just one has them.
 */
export function salesReader(
  { sales, boxes }: KnownSales,
  mark: DecimalMark,
): (row: Readonly<Record<string, string>>) => Read {
  const known = new Map(sales.map((s) => [keyOf(s), s]));
  const seen = new Set<string>();
  return (row) => {
    const faults: string[] = [];
    const theme = row.box ?? "";
    const named = boxes.filter((b) => b.theme.toLowerCase() === theme.toLowerCase());
    const month = row.month ?? (named.length === 1 ? named[0]!.month : undefined);
    if (month === undefined) {
      faults.push(
        named.length > 1
          ? `month: there are ${named.length} boxes called ${theme.slice(0, 40)}; say which month's, such as 2027-04.`
          : `month: there is no box ${theme.slice(0, 40)} here, so say its month, such as 2027-04.`,
      );
    }
    const quantity = row.quantity === undefined ? 1 : (numberOf(row.quantity, mark) ?? NaN);
    const paid = row.paid === undefined ? null : moneyOf(row.paid.replace(/^-/, ""), mark);
    if (paid === undefined) faults.push(`paid: “${row.paid!.slice(0, 30)}” is no amount such as 24.00.`);
    const box = named.find((b) => b.month === month);
    const plain = (text: string | undefined) => (text ?? "").trim().toLowerCase();
    const variants = (box?.variants ?? []).filter(
      (v) =>
        v.first.toLowerCase() === plain(row.colourway) &&
        (v.second === "" || row.second === undefined || v.second.toLowerCase() === plain(row.second)),
    );
    const found = Sale.safeParse({
      source: row.shop ?? "shop",
      order: row.order,
      line: row.line ?? "",
      kind: quantity < 0 ? "return" : (row.kind ?? "sale").toLowerCase(),
      day: (row.day ?? "").slice(0, 10),
      month: month ?? "2000-01",
      theme: box?.theme ?? theme,
      colourway: row.colourway ?? "",
      second: row.second ?? "",
      quantity: Math.abs(quantity),
      paid: paid ?? null,
      offered: row.offered === undefined ? null : (numberOf(row.offered, mark) ?? NaN),
      box: box?.id ?? null,
      variant: variants.length === 1 ? variants[0]!.id : null,
    });
    if (!found.success) {
      const said = new Set<unknown>();
      for (const issue of found.error.issues) {
        if (said.has(issue.path[0])) continue;
        said.add(issue.path[0]);
        const name = String(issue.path[0]).replace("theme", "box").replace("source", "shop");
        faults.push(`${name}: ${/invalid input/i.test(issue.message) ? "this is no number." : issue.message}`);
      }
      return { faults, status: "new", what: "", sale: {} as Sale };
    }
    const sale = found.data;
    const key = keyOf(sale);
    if (seen.has(key)) faults.push(`order: line ${sale.line} of order ${sale.order} is in this file twice.`);
    seen.add(key);
    const what = `${sale.order} ${sale.line}: ${sale.kind === "return" ? "back, " : ""}${sale.theme}`;
    const options = [sale.colourway, sale.second].filter(Boolean).join(", ");
    const whole = options ? `${what}, ${options}` : what;
    if (faults.length > 0) return { faults, status: "new", what: whole, sale };
    const before = known.get(key);
    if (!before) return { faults: [], status: "new", what: whole, sale };
    const differ = SAID.filter((f) => same(before[f]) !== same(sale[f]));
    if (differ.length === 0 && (before.box ?? null) === sale.box && (before.variant ?? null) === sale.variant) {
      return { faults: [], status: "same", what: whole, sale };
    }
    const changes = differ.map((f) => `${f === "theme" ? "box" : f} ${same(before[f])} → ${same(sale[f])}`);
    const told = changes.length > 0 ? changes.join("; ") : "now known which box it is of";
    return { faults: [], status: "changed", what: `${whole} (${told})`, sale };
  };
}

/** A field as it is compared: 24 and 24.00 are the same. */
const same = (value: unknown) =>
  value == null ? "nothing" : /^\d+\.\d+$/.test(String(value)) ? String(Number(value)) : String(value);
