import type { BaseUnit, Order } from "../contract/index.ts";
import { sumOfMoney } from "../cost/index.ts";
import { writeSheet } from "../table/index.ts";
import { plainNumber } from "../units/index.ts";

/** An order with the names that its lines go by. */
export interface Letter {
  order: Pick<Order, "number" | "placedOn" | "currency" | "note" | "lines">;
  /** Who orders, and from whom. */
  workshop: string;
  supplier: string;
  nameOf: (component: string) => { code: string; name: string; baseUnit: BaseUnit };
}

export interface LetterRow {
  packs: number;
  pack: string;
  code: string;
  name: string;
  quantity: number;
  unit: BaseUnit;
  price: string;
  due: string | null;
}

export const letterRows = ({ order, nameOf }: Letter): LetterRow[] =>
  order.lines.map(({ component, packs, pack, quantity, price, due }) => {
    const { code, name, baseUnit } = nameOf(component);
    return { packs, pack, code, name, quantity, unit: baseUnit, price, due: due ?? null };
  });

/** The sum of an order's lines, decimal text to the currency's smallest coin. */
export const letterTotal = ({ lines, currency }: Pick<Order, "lines" | "currency">): string =>
  sumOfMoney(
    lines.map((l) => l.price),
    currency,
  );

const FIELDS = [
  "order",
  "placed on",
  "supplier",
  "code",
  "component",
  "pack",
  "packs",
  "amount",
  "unit",
  "price",
  "currency",
  "due",
];

/** An order as a table, a line a row. */
export function orderCsv(letter: Letter): string {
  const { order, supplier } = letter;
  const rows = letterRows(letter).map((r) => ({
    order: order.number,
    "placed on": order.placedOn,
    supplier,
    code: r.code,
    component: r.name,
    pack: r.pack,
    packs: String(r.packs),
    amount: plainNumber(r.quantity, 3),
    unit: r.unit,
    price: r.price,
    currency: order.currency,
    due: r.due ?? "",
  }));
  return writeSheet(FIELDS, rows);
}

/** An order as the text of a mail. */
export function orderText(letter: Letter): string {
  const { order, workshop, supplier } = letter;
  const due = order.lines.flatMap((l) => l.due ?? []).sort()[0];
  return [
    `Order ${order.number}, ${order.placedOn}`,
    `To ${supplier}`,
    "",
    ...letterRows(letter).map((r) => `${r.packs} × ${r.pack}  ${r.name} (${r.code})  ${r.price} ${order.currency}`),
    "",
    `In all ${letterTotal(order)} ${order.currency}`,
    ...(due ? [`Please let us know if it can't be here by ${due}.`] : []),
    ...(order.note ? [order.note] : []),
    "",
    workshop,
    "",
  ].join("\n");
}
