import { randomUUID } from "node:crypto";
import Papa from "papaparse";
import { afterAll, beforeAll, expect, test } from "vitest";
import { startServer, type TestServer } from "./harness.ts";
import { inDemo } from "../../core/test/demoDay.ts";

let server: TestServer;
beforeAll(async () => void (server = await startServer({ demo: true })));
afterAll(() => server.stop());

type Row = Record<string, string>;
const bring = (rows: Row[], requestKey: string = randomUUID()) =>
  server.send<{ new?: number; changed?: number; same?: number; errors?: { pointer: string; detail: string }[] }>(
    "POST",
    "/api/imports/sales",
    { requestKey, name: "sales.csv", rows },
  );
const monthOf = async (theme: string) => (await server.call("readSoldMonths")).months.find((m) => m.theme === theme)!;
const row = (more: Row = {}): Row => ({
  order: "T-1",
  line: "1",
  day: inDemo("2027-03-01"),
  box: "Type Drawer",
  colourway: "Upper case",
  quantity: "2",
  paid: "49.00",
  ...more,
});

test("the demo has eight months and more, one of them sold out", async () => {
  const { months } = await server.call("readSoldMonths");
  expect(months.filter((m) => m.month <= inDemo("2027-03"))).toHaveLength(8);
  expect(months.filter((m) => m.soldOut).map((m) => m.theme)).toEqual(["Seed Drawer"]);
  for (const m of months) expect(m.colourways.reduce((n, c) => n + c.sold, 0)).toBe(m.sold);
  const april = months.find((m) => m.theme === "Apiary")!;
  expect(april.presold).toBe(april.sold);
});

test("the same order twice is one; what changed is changed; what comes back is taken off", async () => {
  expect((await bring([row()])).body).toEqual({ new: 1, changed: 0, same: 0 });
  expect((await bring([row()])).body).toEqual({ new: 0, changed: 0, same: 1 });
  expect(await monthOf("Type Drawer")).toMatchObject({ sold: 2, returned: 0, paid: "49.00", month: inDemo("2027-07") });
  expect((await bring([row({ quantity: "3" })])).body).toEqual({ new: 0, changed: 1, same: 0 });
  expect((await bring([row({ line: "1 back", quantity: "-1", paid: "24.50" })])).body).toMatchObject({ new: 1 });
  expect(await monthOf("Type Drawer")).toMatchObject({ sold: 2, returned: 1, paid: "24.50" });
  const key = randomUUID();
  expect((await bring([row({ order: "T-2" })], key)).body).toEqual((await bring([row({ order: "T-2" })], key)).body);
  expect(await monthOf("Type Drawer")).toMatchObject({ sold: 4 });
});

test("two who bring the same at once bring it once", async () => {
  const rows = Array.from({ length: 40 }, (_, i) => row({ order: `C-${i}` }));
  const done = await Promise.all([bring(rows), bring(rows), bring(rows)]);
  expect(done.map((d) => d.body.new).sort()).toEqual([0, 0, 40]);
  expect(done.map((d) => d.body.same).sort()).toEqual([0, 40, 40]);
  const { sales } = await server.call("knownSales");
  expect(sales.filter((s) => s.order.startsWith("C-"))).toHaveLength(40);
});

test("all of a table or nothing, each line with what to mend", async () => {
  const before = await monthOf("Type Drawer");
  const wrong = await bring([
    row({ order: "T-3" }),
    row({ order: "T-4", day: "1 March" }),
    row({ order: "T-5", box: "Nowhere" }),
    row({ order: "T-3" }),
    row({ order: "T-6", paid: "much", quantity: "x" }),
  ]);
  expect(wrong.status).toBe(422);
  expect(wrong.body.errors!.map((e) => e.pointer)).toEqual(["/rows/1", "/rows/2", "/rows/3", "/rows/4", "/rows/4"]);
  expect(wrong.body.errors!.map((e) => e.detail).join(" ")).toMatch(/day: Write a date.*month: there is no box.*twice/);
  expect(await monthOf("Type Drawer")).toEqual(before);
});

test("a choice that nobody knows is no variant's, and a month may have been before there were boxes here", async () => {
  await bring([
    row({ order: "T-7", colourway: "Nobody's", month: inDemo("2027-07") }),
    row({ order: "T-8", box: "Old", month: "2025-01" }),
  ]);
  const { sales } = await server.call("knownSales");
  expect(sales.find((s) => s.order === "T-7")).toMatchObject({ variant: null });
  expect(sales.find((s) => s.order === "T-7")!.box).not.toBeNull();
  expect(sales.find((s) => s.order === "T-8")).toMatchObject({ box: null, month: "2025-01" });
});

test("the shop sends a table that says what is known already, and what is new", async () => {
  const csv = (await server.send<string>("GET", "/api/sales/from-shop")).body;
  const { data } = Papa.parse<Row>(csv, { header: true, skipEmptyLines: true });
  expect(data.length).toBeGreaterThan(100);
  const rows = data.map((d) => ({
    order: d.Order!,
    line: d.Item!,
    kind: d.Type!,
    day: d.Date!,
    month: d.Month!,
    box: d.Box!,
    colourway: d.Option!,
    second: d.Finish!,
    quantity: d.Qty!,
    paid: d.Total!,
    offered: d.Stock!,
  }));
  const april = await monthOf("Apiary");
  const done = await bring(rows);
  // What the demo holds of these boxes is what the shop says: nothing of it is new, or changed.
  expect(done.body).toMatchObject({ changed: 0 });
  expect(done.body.same).toBeGreaterThan(100);
  expect(await monthOf("Apiary")).toMatchObject({ month: april.month, made: 280 });
  const { version, made: _made, ...money } = await server.call("readMoney");
  await server.send("PUT", "/api/money", { version, money: { ...money, shop: `${server.standIns}/shop/down` } });
  const down = await server.send<{ detail: string }>("GET", "/api/sales/from-shop");
  expect(down.status).toBe(502);
  expect(down.body.detail).toMatch(/closed just now.*still here/);
});
