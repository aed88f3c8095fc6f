import { dayAfter } from "@jar-count/core/day";
import { seeded } from "@jar-count/core/weigh";
import Papa from "papaparse";

/** A box as it is put on sale. */
export interface OnSale {
  month: string;
  theme: string;
  /** The day by which it is packed: buyers come around it. */
  packBy: string;
  /** Decimal text; none: it is not said what was paid. */
  price: string | null;
  colourways: { name: string; second: string; boxes: number }[];
}

/** A line of an order, under the shop's own headings. */
export interface ShopLine {
  Order: string;
  Item: string;
  Type: "sale" | "return";
  Date: string;
  Month: string;
  Box: string;
  Option: string;
  Finish: string;
  Qty: number;
  Total: string;
  Stock: number;
}

/** It sells from so many days before a box is packed, until so many after. */
const BEFORE = 49;
const AFTER = 41;
/** Again more of it from so many days before, as the month comes near. */
const NEAR = 1;
/** One of so many boxes comes back. */
const BACK = 60;

const seedOf = (text: string) => [...text].reduce((sum, letter) => Math.imul(sum, 31) + letter.codePointAt(0)!, 2729);

/** The standard normal quantile, roughly: the sum of twelve even draws less six. */
const draw = (random: () => number) => Array.from({ length: 12 }, random).reduce((a, b) => a + b, -6);

/**
 * A shop that is not there: sells each box to buyers who come by a seeded demand, more of them at first and again from
 * its packing day on, until it is sold out. The same boxes bring the same orders, up to the day that is asked for.
 * Invented.
 * @param until the last day that is told, `2027-04-30`
 */
export function shopSales(boxes: readonly OnSale[], until: string): ShopLine[] {
  return boxes.flatMap((box) => salesOf(box, until));
}

function salesOf({ month, theme, packBy, price, colourways }: OnSale, until: string): ShopLine[] {
  const random = seeded(seedOf(theme));
  const offered = colourways.reduce((n, c) => n + c.boxes, 0);
  if (offered === 0) return [];
  const wanted = Math.max(0, Math.round(offered * (0.82 + 0.13 * draw(random))));
  // Some colourways are liked better than others.
  const liking = colourways.map(() => 0.6 + random());
  const left = colourways.map((c) => c.boxes);
  const buyers = Array.from({ length: wanted }, () => {
    const early = random() < 0.45;
    const at = early ? BEFORE * random() ** 2 : BEFORE - NEAR + random() * (AFTER + NEAR);
    return Math.floor(at);
  }).sort((a, b) => a - b);
  const lines: ShopLine[] = [];
  const prefix = theme.replace(/[^\p{L}\p{N}]+/gu, "-").toUpperCase();
  for (const [i, day] of buyers.entries()) {
    const open = liking.map((l, k) => (left[k]! > 0 ? l : 0));
    let at = random() * open.reduce((a, b) => a + b, 0);
    if (open.every((l) => l === 0)) break;
    const k = open.findIndex((l) => (at -= l) < 0);
    const of = colourways[k < 0 ? left.findIndex((n) => n > 0) : k]!;
    left[colourways.indexOf(of)]!--;
    const line = {
      Order: `${prefix}-${String(i + 1).padStart(4, "0")}`,
      Item: "1",
      Month: month,
      Box: theme,
      Option: of.name,
      Finish: of.second,
      Qty: 1,
      Total: price ?? "",
      Stock: offered,
    };
    const on = (days: number) => dayAfter(packBy, days - BEFORE);
    lines.push({ ...line, Type: "sale", Date: on(day) });
    if (random() < 1 / BACK) lines.push({ ...line, Item: "1 back", Type: "return", Date: on(day + 14) });
  }
  return lines.filter((l) => l.Date <= until);
}

/** The same as CSV (RFC 4180), under headings of the shop's own. */
export function shopCsv(lines: readonly ShopLine[]): string {
  const fields = ["Order", "Item", "Type", "Date", "Month", "Box", "Option", "Finish", "Qty", "Total", "Stock"];
  return `${Papa.unparse({ fields, data: [...lines] }, { newline: "\r\n" })}\r\n`;
}
