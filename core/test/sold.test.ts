import Papa from "papaparse";
import { describe, expect, test } from "vitest";
import { guessMapping, intakeOf, mapped, readTable, tableOf, writeTable } from "../src/intake/index.ts";
import type { Sale } from "../src/contract/index.ts";
import { id } from "./things.ts";

const [APIARY, DYE, OTHER_DYE, HONEY, WAX, GOLD] = [1, 2, 3, 4, 5, 6].map(id) as [
  string,
  string,
  string,
  string,
  string,
  string,
];
const BOXES = [
  {
    id: APIARY,
    month: "2027-04",
    theme: "Apiary",
    variants: [
      { id: HONEY, first: "Honey", second: "" },
      { id: WAX, first: "Wax", second: "silver" },
      { id: GOLD, first: "Wax", second: "gold" },
    ],
  },
  { id: DYE, month: "2027-05", theme: "Dye Garden", variants: [] },
  { id: OTHER_DYE, month: "2028-05", theme: "Dye Garden", variants: [] },
];
const reader = (sales: Sale[] = []) =>
  intakeOf("sales", { components: [], places: [], suppliers: [], sold: { sales, boxes: BOXES } }, ".");
const row = (more: Record<string, string> = {}) => ({ order: "Q1", day: "2027-03-02", box: "Apiary", ...more });
const saleOf = (more: Record<string, string> = {}, sales: Sale[] = []) => {
  const found = reader(sales)(row(more));
  if (found.status === "refused" || found.kind !== "sales") throw new Error(JSON.stringify(found));
  return { ...found.sale, status: found.status, what: found.what };
};

describe("a row of sales", () => {
  test("is of the box by its theme, in its month; and one of it where no number is said", () => {
    expect(saleOf()).toMatchObject({ box: APIARY, month: "2027-04", quantity: 1, kind: "sale", source: "shop" });
    expect(saleOf({ box: "apiary" }).theme).toBe("Apiary");
    expect(saleOf({ month: "2026-04" })).toMatchObject({ box: null, month: "2026-04" });
  });

  test("is of a variant where just one has its choices, and of none where nobody knows", () => {
    expect(saleOf({ colourway: "honey" }).variant).toBe(HONEY);
    expect(saleOf({ colourway: "Wax", second: "Gold" }).variant).toBe(GOLD);
    expect(saleOf({ colourway: "Wax" }).variant).toBeNull();
    expect(saleOf({ colourway: "Smoke" }).variant).toBeNull();
  });

  test("comes back where its number is below 0, or it says so", () => {
    expect(saleOf({ quantity: "-2", paid: "-45.00" })).toMatchObject({ kind: "return", quantity: 2, paid: "45.00" });
    expect(saleOf({ kind: "Return" })).toMatchObject({ kind: "return", quantity: 1 });
  });

  test("needs a month where several boxes have the theme, or none has", () => {
    const of = (box: string) => reader()(row({ box }));
    expect(of("Dye Garden")).toMatchObject({ status: "refused", faults: [expect.stringContaining("2 boxes called")] });
    expect(of("Salt Pan")).toMatchObject({ status: "refused", faults: [expect.stringContaining("no box Salt Pan")] });
    expect(saleOf({ box: "Dye Garden", month: "2028-05" }).box).toBe(OTHER_DYE);
  });

  test("is the same by its shop, order and line, whatever its amounts are written like", () => {
    const known = [saleOf({ line: "1", paid: "22.50", quantity: "2" })].map(
      ({ status: _s, what: _w, ...sale }) => sale,
    );
    expect(saleOf({ line: "1", paid: "22.5", quantity: "2" }, known).status).toBe("same");
    const changed = saleOf({ line: "1", paid: "22.50", quantity: "3" }, known);
    expect([changed.status, changed.what]).toEqual(["changed", "Q1 1: Apiary (quantity 2 → 3)"]);
    expect(saleOf({ line: "2", paid: "22.50", quantity: "2" }, known).status).toBe("new");
    expect(saleOf({ line: "1", shop: "market", paid: "22.50", quantity: "2" }, known).status).toBe("new");
  });

  test("is refused with each place that is wrong; twice in a file at the second", () => {
    const read = reader();
    const wrong = read(row({ day: "soon", paid: "lots", quantity: "1.5" }));
    expect(wrong).toMatchObject({ status: "refused" });
    expect((wrong as { faults: string[] }).faults.map((f) => f.split(":")[0])).toEqual(["paid", "day", "quantity"]);
    expect(read(row({ order: "Q9" })).status).toBe("new");
    expect(read(row({ order: "Q9" }))).toMatchObject({ status: "refused", faults: [expect.stringContaining("twice")] });
    expect(read({ box: "Apiary" })).toMatchObject({
      status: "refused",
      faults: ["order: this is empty.", "day: this is empty."],
    });
  });
});

test("sales go out as a table that comes in as the same, under anybody's headings", () => {
  const sales: Sale[] = [saleOf({ colourway: "Honey", paid: "22.50", quantity: "2", offered: "70" })].map(
    ({ status: _s, what: _w, ...sale }) => sale,
  );
  const known = { components: [], places: [], suppliers: [], jars: [], orders: [], sales };
  const { rows, headings } = readTable(writeTable("sales", tableOf("sales", known)));
  const mapping = guessMapping("sales", headings);
  expect(reader(sales)(mapped(rows[0]!, mapping)).status).toBe("same");

  const theirs = Papa.unparse([
    { "Order ID": "Q1", Date: "2027-03-02", Product: "Apiary", "Option 1": "Honey", Qty: 2 },
  ]);
  const other = readTable(theirs);
  const found = reader()(mapped(other.rows[0]!, guessMapping("sales", other.headings)));
  expect(found).toMatchObject({ status: "new", sale: { order: "Q1", variant: HONEY, quantity: 2 } });
});
