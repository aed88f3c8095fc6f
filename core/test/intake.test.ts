import { type Intake, INTAKES } from "../src/contract/index.ts";
import { parse } from "csv-parse/sync";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Component } from "../src/contract/index.ts";
import {
  guessMapping,
  INTAKE_COLUMNS,
  intakeOf,
  markOfTable,
  type IntakeRow,
  mapped,
  type PlannedRow,
  readTable,
  tableOf,
  writeTable,
} from "../src/intake/index.ts";
import { plainCell } from "../src/table/index.ts";
import { component as thing } from "./things.ts";

const component = (c: Partial<Component> & { code: string }): Component =>
  thing([...c.code].reduce((sum, letter) => sum * 31 + letter.codePointAt(0)!, 7) % 1e9, {
    name: "6 mm round",
    form: "round",
    colour: "#aa5533",
    moved: false,
    ...c,
  });
const PLACE = { id: "6f1c2f2e-0000-4000-8000-0000000000aa", code: "A", name: "Drawers", held: false };
const SUPPLIER = { id: "6f1c2f2e-0000-4000-8000-0000000000bb", name: "Lowfold Glass Merchants" };
const known = {
  components: [
    component({ code: "R6" }),
    component({ code: "WIRE", name: "Wire", kind: "stringing", form: "beading wire", baseUnit: "mm" }),
    component({ code: "S11", form: "seed", baseUnit: "g", moved: true, perGram: 115 }),
  ],
  places: [PLACE],
  suppliers: [SUPPLIER],
};
const judge = (kind: Intake, row: IntakeRow): PlannedRow => intakeOf(kind, known, ".")(row);
const faults = (kind: Intake, row: IntakeRow) => {
  const found = judge(kind, row);
  return found.status === "refused" ? found.faults.join(" ") : found.status;
};

describe("reading a table", () => {
  // The cases of RFC 4180, section 2, and what spreadsheets make of it: semicolons, tabs, a byte order mark, empty
  // lines at the end.
  test.each([
    ["code,name\r\nA,b\r\n", [{ code: "A", name: "b" }]],
    ["code,name\nA,b", [{ code: "A", name: "b" }]],
    ['code,name\r\n"A","b, c"\r\n', [{ code: "A", name: "b, c" }]],
    ['code,name\r\nA,"say ""six"""\r\n', [{ code: "A", name: 'say "six"' }]],
    ['code,name\r\nA,"two\r\nlines"\r\n', [{ code: "A", name: "two\r\nlines" }]],
    [
      "code;name\nA;b\nC;d\n",
      [
        { code: "A", name: "b" },
        { code: "C", name: "d" },
      ],
    ],
    ["code\tname\nA\tb\n", [{ code: "A", name: "b" }]],
    ["\uFEFFcode,name\nA,b\n\n  \n", [{ code: "A", name: "b" }]],
  ])("%j", (text, rows) => expect(readTable(text).rows).toEqual(rows));
  test("a quote that is never closed is told with its line, and nothing throws", () => {
    expect(readTable('code,name\nA,"b\n').faults.length).toBeGreaterThan(0);
    const texts = fc.array(fc.constantFrom(",", ";", "\t", '"', "\n", "\r\n", " ", "a", "b", "1"), { maxLength: 40 });
    fc.assert(
      fc.property(texts, (bits) => {
        const text = bits.join("");
        const { headings, rows, faults } = readTable(text);
        const lines = text.split(/\r\n|\r|\n/).length;
        for (const { line } of faults) expect(line >= 1 && line <= lines + 1).toBe(true);
        // A row with more fields than there are headings is a fault; no field of another row is without its heading.
        const strange = rows.flatMap((row) => Object.keys(row).filter((name) => !headings.includes(name)));
        expect(new Set(strange).size <= (faults.length > 0 ? 1 : 0)).toBe(true);
      }),
    );
  });
  test("what is written is read back the same by another library, and no cell of it is run as a formula", () => {
    // What a spreadsheet takes for a formula: CSV injection, as OWASP lists the signs that begin one.
    // The wide forms, and what nobody sees before a sign, are run by some of them too.
    const sign = fc.constantFrom(
      "",
      "=",
      "+",
      "-",
      "@",
      "'",
      "'=",
      "''@",
      "＝",
      "＠",
      "\u200B=",
      "\uFEFF=",
      "\u00A0＋",
    );
    const cell = fc
      .tuple(sign, fc.string({ maxLength: 30 }))
      .map(([before, s]) => (before + s).replace(/\r(?!\n)/g, "").trim());
    fc.assert(
      fc.property(
        fc.array(fc.record({ code: cell, quantity: cell, note: cell }), { minLength: 1, maxLength: 8 }),
        (rows) => {
          const again: Record<string, string>[] = parse(writeTable("counts", rows), {
            columns: true,
            record_delimiter: "\r\n",
          });
          const cells = again.flatMap(({ code, quantity, note }) => [code!, quantity!, note!]);
          expect(cells.filter((c) => /^[\p{C}\p{Z}]*[=+\-@\t\r＝＋－＠]/u.test(c))).toEqual([]);
          expect(cells.map(plainCell)).toEqual(rows.flatMap(({ code, quantity, note }) => [code, quantity, note]));
          const [first] = rows;
          expect(mapped(again[0]!, { code: "code" }).code ?? "").toBe(first!.code);
        },
      ),
    );
  });
});

describe("which mark stands before the decimals", () => {
  const mark = (...quantities: string[]) =>
    markOfTable(
      "deliveries",
      quantities.map((quantity) => ({ quantity })),
    );
  test("is told from all numbers of the table together; where it can't be known, nobody guesses", () => {
    expect([mark("3", "12.5"), mark("1,250", "12.5"), mark("1,250,000")]).toEqual([".", ".", "."]);
    expect([mark("3", "12,5"), mark("1.250", "12,5"), mark("0,125"), mark("1.250,5")]).toEqual([",", ",", ",", ","]);
    expect(mark("3", "4")).toBe(".");
    expect([mark("1,250"), mark("1.250", "3"), mark("12.5", "12,5")]).toEqual([null, null, null]);
  });
  test("holds for every number of it: by a comma 0,125 is an eighth, by a point it is no number", () => {
    const row = { code: "S11", quantity: "0,125" };
    expect(intakeOf("deliveries", known, ",")(row)).toMatchObject({ quantity: 0.125 });
    expect(intakeOf("deliveries", known, ".")(row)).toMatchObject({ status: "refused" });
    const strung = { code: "WIRE", quantity: "2", "piece length": "1.250,5 mm" };
    expect(intakeOf("deliveries", known, ",")(strung)).toMatchObject({ stretchMm: 1250.5 });
    // A number written with both marks is the same by its own mark, whatever it is (law).
    const amount = fc.tuple(fc.integer({ min: 0, max: 999_999 }), fc.integer({ min: 1, max: 999 }));
    fc.assert(
      fc.property(amount, ([whole, part]) => {
        const by = (thousands: string, decimal: string) =>
          `${String(whole).replace(/\B(?=(\d{3})+$)/g, thousands)}${decimal}${String(part).padStart(3, "0")}`;
        const read = (text: string, of: "." | ",") => {
          const found = intakeOf("counts", known, of)({ code: "S11", quantity: text });
          return found.status !== "refused" && found.kind === "counts" ? found.quantity : null;
        };
        expect(read(by(",", "."), ".")).toBe(Number(`${whole}.${String(part).padStart(3, "0")}`));
        expect(read(by(".", ","), ",")).toBe(read(by(",", "."), "."));
      }),
    );
  });
});

describe("columns in any order, under any of their names", () => {
  test("headings are guessed by name first, then by what else they are called; each once", () => {
    expect(guessMapping("deliveries", ["Qty", "SKU", "Line cost", "Shelf", "Whatever"])).toEqual({
      quantity: "Qty",
      code: "SKU",
      cost: "Line cost",
      place: "Shelf",
    });
    expect(guessMapping("components", ["Item", "Description", "along_mm", "HOLE  MM"])).toEqual({
      code: "Item",
      name: "Description",
      "along mm": "along_mm",
      "hole mm": "HOLE  MM",
    });
    expect(guessMapping("offers", ["code", "quantity", "amount"])).toEqual({ code: "code", "pack holds": "amount" });
    expect(mapped({ Qty: " 5 ", SKU: "R6", x: "y" }, { quantity: "Qty", code: "SKU" })).toEqual({
      quantity: "5",
      code: "R6",
    });
  });
  test("every column's own name and other names are its alone", () => {
    for (const kind of INTAKES)
      for (const column of INTAKE_COLUMNS[kind])
        expect(guessMapping(kind, [column.name.toUpperCase()]), column.name).toEqual({
          [column.name]: column.name.toUpperCase(),
        });
  });
});

describe("judging lines", () => {
  test.each<[Intake, IntakeRow, string | RegExp]>([
    ["components", { code: "N1", name: "New" }, "new"],
    ["components", { code: "r6", name: "6 mm round" }, /^changed$/],
    ["components", { code: "R6" }, "same"],
    ["components", { name: "No code" }, /code: this is empty/],
    ["components", { code: "N2" }, /name: this is empty/],
    ["components", { code: "N2", name: "x", kind: "gadget" }, /kind: “gadget” is none of bead/],
    ["components", { code: "N2", name: "x", "hole mm": "wide" }, /hole mm: this is no number/],
    ["components", { code: "N2", name: "x", colour: "reddish" }, /colour: A colour is written #rrggbb/],
    ["components", { code: "two words", name: "x" }, /code: A code is letters/],
    ["components", { code: "S11", name: "x", unit: "piece" }, /unit: stock has moved in g/],
    ["components", { code: "N2", name: "x", cautions: "nickel; needle" }, "new"],
    ["components", { code: "N2", name: "x", cautions: "nickel; dragons" }, /cautions: “dragons”/],
    [
      "offers",
      { code: "R6", pack: "strand", "pack holds": "50", price: "£2.80", supplier: "lowfold glass merchants" },
      "new",
    ],
    ["offers", { code: "R6", pack: "strand", "pack holds": "50.5", price: "2.80" }, /whole number/],
    ["offers", { code: "R6", pack: "strand", "pack holds": "50", price: "cheap" }, /price/],
    [
      "offers",
      { code: "R6", pack: "strand", "pack holds": "50", price: "1", supplier: "Nobody" },
      /no supplier “Nobody”/,
    ],
    ["offers", { code: "GONE", pack: "strand", "pack holds": "50", price: "1" }, /no component GONE/],
    ["deliveries", { code: "R6", quantity: "1,250", cost: "12.50", place: "drawers" }, "new"],
    ["deliveries", { code: "R6", quantity: "1,250", cost: "12,50" }, /cost: “12,50” is no amount/],
    ["deliveries", { code: "R6", quantity: "4", cost: "2 for 5" }, /cost: “2 for 5” is no amount/],
    ["deliveries", { code: "R6", quantity: "0" }, /more than 0/],
    ["deliveries", { code: "R6", quantity: "2.5" }, /whole number/],
    ["deliveries", { code: "WIRE", quantity: "2" }, /piece length: this is kept by length/],
    ["deliveries", { code: "WIRE", quantity: "2", "piece length": "30ft" }, "new"],
    ["deliveries", { code: "R6", quantity: "2", "piece length": "30ft" }, /not kept by length/],
    ["deliveries", { code: "R6", quantity: "2", place: "Attic" }, /no place “Attic”/],
    ["deliveries", { code: "R6", quantity: "2", cost: "free" }, /cost: “free” is no amount/],
    ["counts", { code: "S11", quantity: "12.5", "plus minus": "0.2" }, "new"],
    ["counts", { code: "R6", quantity: "0" }, "new"],
    ["counts", { code: "R6", quantity: "-3" }, /0 or more/],
    ["counts", { code: "R6", quantity: "12", "plus minus": "some" }, /plus minus: this is no number/],
  ])("%s %j", (kind, row, says) => expect(faults(kind, row)).toMatch(says));

  test("a size fills in the rest of a new component, and a known one keeps what the table doesn't say", () => {
    expect(
      judge("components", { code: "N3", name: "11/0, moss", form: "seed", size: "11/0", "hole mm": "0.9" }),
    ).toMatchObject({
      status: "new",
      component: { kind: "bead", baseUnit: "g", alongMm: 1.41, holeMm: 0.9, perGram: 115, cautions: ["small parts"] },
    });
    expect(judge("components", { code: "R6", name: "Round, renamed" })).toMatchObject({
      status: "changed",
      component: { form: "round", finish: "matt", name: "Round, renamed" },
    });
  });
  test("a code twice is refused at the second, a spool's length is read in feet, a ± is twice its doubt", () => {
    const read = intakeOf("components", known, ".");
    expect([read({ code: "N4", name: "a" }), read({ code: "n4", name: "b" })].map((r) => r.status)).toEqual([
      "new",
      "refused",
    ]);
    expect(judge("deliveries", { code: "WIRE", quantity: "2", "piece length": "30ft" })).toMatchObject({
      quantity: 2,
      stretchMm: 9144,
    });
    expect(
      judge("offers", { code: "WIRE", pack: "spool", "pack holds": "10", "pack unit": "m", price: "4" }),
    ).toMatchObject({ offer: { amount: 10_000, unit: "mm" } });
    expect(judge("counts", { code: "R6", quantity: "100", "plus minus": "19.6" })).toMatchObject({
      u: expect.closeTo(10, 9),
    });
  });
  test("no line of any kind throws", () => {
    const cells = fc.dictionary(
      fc.constantFrom(...INTAKES.flatMap((k) => INTAKE_COLUMNS[k].map((c) => c.name))),
      fc.oneof(
        fc.string({ maxLength: 20 }),
        fc.constantFrom("R6", "WIRE", "1e9", "NaN", "-1", "∞", "6mm", "#aabbcc", "0"),
      ),
    );
    fc.assert(
      fc.property(fc.constantFrom(...INTAKES), cells, (kind, row) => {
        const found = judge(kind, row);
        if (found.status === "refused") expect(found.faults.length).toBeGreaterThan(0);
      }),
    );
  });
});

test("a pack that says what is known already is the same, whatever its steps and however its price is written", () => {
  const offer = { pack: "strand", amount: 50, unit: "piece", price: "2.80", minimum: 1, supplier: SUPPLIER.id };
  const priced = { ...known.components[0]!, offers: [{ ...offer, steps: [{ from: 10, price: "2.50" }] }] } as Component;
  const judged = (change: object) =>
    intakeOf(
      "offers",
      { ...known, components: [priced] },
      ".",
    )({
      code: priced.code,
      supplier: SUPPLIER.name,
      pack: "strand",
      "pack holds": "50",
      price: "2.8",
      ...change,
    }).status;
  expect(judged({})).toBe("same");
  expect(judged({ price: "2.80" })).toBe("same");
  const changes = [
    { price: "2.81" },
    { "pack holds": "51" },
    { minimum: "2" },
    { "lead days": "4" },
    { pack: "Strand" },
  ];
  expect(changes.map(judged)).toEqual(changes.map(() => "changed"));
  expect(judged({ pack: "hank" })).toBe("new");
});

test("a table with suppliers fills in the pack that names nobody yet, and once", () => {
  const bare = { pack: "strand", amount: 50, unit: "piece", price: "2.80", minimum: 1, steps: [] };
  const component = { ...known.components[0]!, offers: [bare] } as Component;
  const other = { id: "6f1c2f2e-0000-4000-8000-0000000000f1", name: "Second Source" };
  const judge = intakeOf("offers", { ...known, components: [component], suppliers: [SUPPLIER, other] }, ".");
  const row = { code: component.code, pack: "strand", "pack holds": "50", price: "2.80" };
  expect(judge({ ...row, supplier: SUPPLIER.name })).toMatchObject({
    status: "changed",
    offer: { supplier: SUPPLIER.id, price: "2.80" },
  });
  expect(judge({ ...row, supplier: SUPPLIER.name }).status).toBe("same");
  expect(judge({ ...row, supplier: other.name }).status).toBe("new");
  expect(judge({ ...row, supplier: "Nobody Known" })).toMatchObject({ status: "refused", supplier: "Nobody Known" });
});

test("what is still on order goes out as the delivery that would bring it in", () => {
  const [round, wire] = known.components as [Component, Component, Component];
  const order = {
    id: PLACE.id,
    version: 1,
    supplier: SUPPLIER.id,
    number: "LG-1",
    placedOn: "2027-02-01",
    currency: "GBP",
    rate: "1",
    note: "",
    received: { l1: 50, l3: 100 } as Record<string, number>,
    spoken: [],
    lines: [
      { id: "l1", component: round.id, pack: "strand", packs: 4, quantity: 200, price: "10", due: null },
      { id: "l2", component: wire.id, pack: "spool", packs: 2, quantity: 18_288, price: "9", due: null },
      { id: "l3", component: round.id, pack: "strand", packs: 2, quantity: 100, price: "5", due: null },
    ],
  };
  const rows = tableOf("deliveries", { ...known, jars: [], sales: [], orders: [order] });
  expect(rows).toEqual([
    { code: "R6", quantity: "150", "piece length": "", note: "Order LG-1" },
    { code: "WIRE", quantity: "2", "piece length": "9144mm", note: "Order LG-1" },
  ]);
  for (const row of rows) expect(judge("deliveries", row).status).toBe("new");
});
