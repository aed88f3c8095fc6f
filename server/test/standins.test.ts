import { CarrierRates } from "@jar-count/core/contract";
import { guessMapping, intakeOf, mapped, readTable } from "@jar-count/core/intake";
import { afterAll, beforeAll, expect, test } from "vitest";
import { shopSales } from "../src/standins/shop.ts";
import { priceList } from "../src/standins/supplier.ts";
import { startServer, type TestServer } from "./harness.ts";

let demo: TestServer;
beforeAll(async () => {
  demo = await startServer({ demo: true });
});
afterAll(() => demo.stop());

const offer = (price: string) => ({
  supplier: null,
  pack: 'strand, "16 in"',
  amount: 50,
  unit: "piece" as const,
  price,
  steps: [],
  minimum: 2,
  leadDays: 5,
});

test("a price list is the same for a month, differs in another, and never by more than a fortieth", () => {
  const sold = Array.from({ length: 200 }, (_, i) => ({ code: `R${i}`, offer: offer("20.00") }));
  const [april, may] = ["2027-04", "2027-05"].map((month) => priceList("Lowfold", sold, month)) as [string, string];
  expect(priceList("Lowfold", sold, "2027-04")).toBe(april);
  expect(may).not.toBe(april);
  const prices = readTable(april).rows.map((row) => Number(row["Pack price"]));
  expect(prices).toHaveLength(200);
  expect(Math.min(...prices)).toBeGreaterThanOrEqual(19.5);
  expect(Math.max(...prices)).toBeLessThanOrEqual(20.51);
  expect(new Set(prices).size).toBeGreaterThan(50);
  // Taken over and asked for again, they are the same.
  const taken = prices.map((price, i) => ({ code: `R${i}`, offer: offer(price.toFixed(2)) }));
  expect(priceList("Lowfold", taken, "2027-04")).toBe(april);
  expect(readTable(april).rows[0]).toMatchObject({ "Pack name": 'strand, "16 in"', MOQ: "2", "Lead time": "5" });
});

test("a supplier's list comes as a table that the intake takes as it is: known packs at new prices", async () => {
  const { suppliers, places } = await demo.call("readRooms");
  const { components } = await demo.call("listComponents");
  const selling = suppliers.find((s) => components.some((c) => c.offers.some((o) => o.supplier === s.id)))!;
  const answer = await fetch(`${demo.url}/api/suppliers/${selling.id}/price-list`);
  expect(answer.headers.get("content-type")).toContain("text/csv");
  const { headings, rows } = readTable(await answer.text());
  const sold = components.flatMap((c) => c.offers.filter((o) => o.supplier === selling.id));
  expect(rows).toHaveLength(sold.length);
  const mapping = guessMapping("offers", headings);
  const judge = intakeOf("offers", { components, places, suppliers }, ".");
  const found = rows.map((row) => judge(mapped(row, mapping)).status);
  expect(found.filter((status) => status === "refused" || status === "new")).toEqual([]);
  expect(found).toContain("changed");
});

test("a supplier that is not here, and one that sells nothing here, are refused in words", async () => {
  const nobody = "6f1c2f2e-0000-4000-8000-0000000000ff";
  expect(await demo.send("GET", `/api/suppliers/${nobody}/price-list`)).toMatchObject({
    status: 404,
    body: { detail: "This supplier is not in the workshop." },
  });
  const rooms = await demo.call("readRooms");
  rooms.suppliers.push({ id: nobody, name: "Empty Shelf", leadDays: null });
  const { version, ...input } = rooms;
  await demo.call("saveRooms", { body: { version, rooms: input } });
  expect(await demo.send("GET", `/api/suppliers/${nobody}/price-list`)).toMatchObject({
    status: 404,
    body: { detail: expect.stringContaining("Nothing here is sold by Empty Shelf yet") },
  });
});

test("the carrier's quotes are the rates of its table, in whatever currency it is asked for", async () => {
  const ask = async (path: string) => {
    const answer = await fetch(`${demo.standIns}/carrier/${path}`);
    return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
  };
  const { body } = await ask("rates?currency=KWD");
  const found = CarrierRates.parse(body);
  expect(found.currency).toBe("KWD");
  expect(found.rates.every((r) => /^\d+\.\d{3}$/.test(r.price))).toBe(true);
  expect(found.rates[0]!.zone).toBe("home");
  expect((await ask("quote?g=100&thick=25&zone=home")).body).toMatchObject({ service: "large letter", price: "1.55" });
  expect((await ask("quote?g=101&thick=25&zone=home")).body).toMatchObject({ price: "2.10" });
  expect((await ask("quote?g=50000&zone=home")).status).toBe(404);
  expect((await ask("down/rates")).status).toBe(503);
  expect((await fetch(`${demo.standIns}/nobody`)).status).toBe(404);
});

test("the shop sells the same to the same question, never more than there is, and takes a little back", () => {
  const box = (boxes: number) => ({
    month: "2027-04",
    theme: "Apiary",
    packBy: "2027-03-20",
    price: "22.50",
    colourways: ["Honey", "Wax"].map((name) => ({ name, second: "", boxes })),
  });
  const lines = shopSales([box(70)], "2027-12-31");
  expect(shopSales([box(70)], "2027-12-31")).toEqual(lines);
  const count = (of: typeof lines, type: string) => of.filter((l) => l.Type === type).reduce((n, l) => n + l.Qty, 0);
  expect(count(lines, "sale")).toBeGreaterThan(50);
  expect(count(lines, "return")).toBeLessThan(10);
  for (const name of ["Honey", "Wax"]) {
    expect(
      count(
        lines.filter((l) => l.Option === name),
        "sale",
      ),
    ).toBeLessThanOrEqual(70);
  }
  // What is told later begins with what was told before.
  const early = shopSales([box(70)], "2027-03-01");
  expect(early.length).toBeLessThan(lines.length);
  expect(early.every((l) => lines.some((x) => x.Order === l.Order && x.Item === l.Item))).toBe(true);
  // Over many boxes some sell out, and then no more of them is sold.
  const many = Array.from({ length: 30 }, (_, i) => shopSales([{ ...box(20), theme: `Box ${i}` }], "2027-12-31"));
  const sold = many.map((of) => count(of, "sale"));
  expect(Math.max(...sold)).toBe(40);
  expect(Math.min(...sold)).toBeLessThan(38);
});
