import Big from "big.js";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { randomUUID } from "node:crypto";
import { COST_STEPS, workshopInputOf } from "@jar-count/core/contract";
import { afterAll, beforeAll, expect, test } from "vitest";
import { postageWith, startServer, type TestServer } from "./harness.ts";
import { openShop } from "./shop.ts";

let server: TestServer;
beforeAll(async () => void (server = await startServer({ demo: true })));
afterAll(() => server.stop());

const boxOf = async (theme: string) => (await server.call("listBoxes")).find((b) => b.theme === theme)!;
const save = async (change: object) => {
  const { version, made: _made, ...money } = await server.call("readMoney");
  return server.send<{ version: number }>("PUT", "/api/money", { version, money: { ...money, ...change } });
};

test("each variant's steps add up to what a box costs, and a box without boxes has no cost", async () => {
  const { id } = await boxOf("Apiary");
  const { variants } = await server.call("readCost", { params: { id } });
  expect(variants).toHaveLength(4);
  for (const { steps, cost } of variants) {
    expect(steps.map((s) => s.step)).toEqual([...COST_STEPS]);
    const sum = steps.reduce((all, s) => all.plus(s.cost!), new Big(0)).toFixed(2);
    expect(sum).toBe(cost);
    expect(Number(steps.find((s) => s.step === "fees")!.cost)).toBeGreaterThan(0);
  }
  const { box } = await server.call("readBox", { params: { id } });
  const none = box.variants.map((v) => ({ ...v, boxes: 0 }));
  await server.send("PATCH", `/api/boxes/${id}`, { version: box.version, changes: { variants: { put: none } } });
  const now = await server.call("readCost", { params: { id } });
  expect(now.variants.every((v) => v.cost === null && v.steps.every((s) => s.cost === null))).toBe(true);
});
test("a price for a margin, by the identity; what nothing reaches is refused at its place", async () => {
  const asked = { cost: "9.08", feeRate: 0.03, feeFixed: "0.20", taxRate: 0.2, margin: 0.5, currency: "GBP" };
  expect(await server.call("priceFor", { body: asked })).toEqual({
    price: "24.00",
    net: "19.08",
    fee: "0.92",
    tax: "4.00",
    margin: 0.5,
    markup: 10 / 9.08,
  });
  const send = (body: object) => server.send<{ errors?: { pointer: string }[] }>("POST", "/api/price", body);
  expect(await send({ ...asked, margin: 0.99 })).toMatchObject({
    status: 422,
    body: { errors: [{ pointer: "/margin" }] },
  });
  expect((await send({ ...asked, markup: 0.5 })).status).toBe(422);
  expect((await send({ ...asked, margin: null })).status).toBe(422);
});

test("how many, by past months; costs must be more than nothing", async () => {
  const asked = { sales: [10, 20, 30, 40], over: "1", under: "3", presold: null };
  expect(await server.call("howMany", { body: asked })).toMatchObject({
    make: 30,
    expectedLeft: 7.5,
    expectedShort: 2.5,
  });
  expect(await server.call("howMany", { body: { ...asked, presold: 35 } })).toMatchObject({ make: 35 });
  const send = (body: object) => server.send("POST", "/api/how-many", body);
  expect((await send({ ...asked, sales: [] })).status).toBe(422);
  expect((await send({ ...asked, over: "0.00" })).status).toBe(422);
});

test("what costs go by is one record: a stale write changes nothing, the same write twice is one", async () => {
  const { version, made: _made, ...money } = await server.call("readMoney");
  const body = { requestKey: randomUUID(), version, money: { ...money, wage: "15.00" } };
  const first = await server.send<{ version: number; wage: string }>("PUT", "/api/money", body);
  expect(first.body).toMatchObject({ version: version + 1, wage: "15.00" });
  expect((await server.send("PUT", "/api/money", body)).body).toMatchObject({ version: version + 1 });
  const other = await server.send("PUT", "/api/money", { version, money: { ...money, wage: "99" } });
  expect(other).toMatchObject({ status: 409, body: { current: { wage: "15.00" } } });
});

test("a channel that is taken out takes its prices with it", async () => {
  const { channels } = await server.call("readMoney");
  const { id } = await boxOf("Glaze Shelf");
  expect((await server.call("readBox", { params: { id } })).box.prices).toHaveLength(2);
  expect((await save({ channels: channels.slice(0, 1) })).status).toBe(200);
  expect((await server.call("readBox", { params: { id } })).box.prices).toHaveLength(1);
});

test("a price in a channel that is not there is refused, and the box stays as it was", async () => {
  const { id } = await boxOf("Glaze Shelf");
  const { box } = await server.call("readBox", { params: { id } });
  const put = [{ channel: randomUUID(), single: "24.00" }];
  const body = { version: box.version, changes: { prices: { put } } };
  const refused = await server.send<{ detail: string }>("PATCH", `/api/boxes/${id}`, body);
  expect(refused.status).toBe(422);
  expect(refused.body.detail.length).toBeGreaterThan(10);
  expect((await server.call("readBox", { params: { id } })).box).toEqual(box);
});

test("the currency can change until something is ordered, received, sold or committed in it", async () => {
  const found = await server.call("readWorkshop");
  expect(found.currencyFixed).toBe(true);
  const changed = await server.send<{ errors: { pointer: string }[] }>("PUT", "/api/workshop", {
    version: found.version,
    workshop: { ...workshopInputOf(found), currency: "JPY" },
  });
  expect(changed).toMatchObject({ status: 422, body: { errors: [{ pointer: "/workshop/currency" }] } });

  // A price and a pack that were only typed stay as they are, in the other currency.
  const shop = await openShop();
  const bead = await shop.component({ offers: [{ pack: "strand", amount: 30, unit: "piece", price: "2.40" }] });
  const known = await shop.server.call("readWorkshop");
  expect(known.currencyFixed).toBe(false);
  const body = { version: known.version, workshop: { ...workshopInputOf(known), currency: "EUR" } };
  expect(await shop.server.call("saveWorkshop", { body })).toMatchObject({ currency: "EUR", currencyFixed: false });
  expect((await shop.jar(bead)).component.offers).toMatchObject([{ price: "2.40" }]);
  await shop.order(bead, 10, null);
  expect((await shop.server.call("readWorkshop")).currencyFixed).toBe(true);
  await shop.server.stop();
});

test("the carrier is asked; while it is down, what it said last holds, with its time", async () => {
  const open = await postageWith(server, null);
  expect(open.bands.length).toBeGreaterThan(5);
  await save({ carrier: `${server.standIns}/carrier/down` });
  const down = await postageWith(server, /closed/);
  expect(down).toEqual({ bands: open.bands, asOf: down.asOf, fault: "The carrier is closed just now (503)." });
  expect(down.asOf).not.toBeNull();
  // Another one's table, in another currency, is not taken.
  const other = createServer((_, r) => r.end(JSON.stringify({ currency: "EUR", rates: open.bands }))).listen(0);
  await save({ carrier: `http://127.0.0.1:${(other.address() as AddressInfo).port}` });
  await postageWith(server, /in EUR/);
  other.close();
  await save({ carrier: "" });
  await postageWith(server, null);
});

test("a committed box freezes what it was planned to cost, whatever the rates become", async () => {
  const { id } = await boxOf("Type Drawer");
  const plan = await server.call("planCommit", { params: { id } });
  const body = { requestKey: randomUUID(), version: plan.version, lacking: plan.lacking };
  await server.call("commitBox", { params: { id }, body });
  const bill = await server.call("readFrozenBill", { params: { id } });
  expect(bill.costs).toMatchObject({ currency: "GBP", wage: "15.00" });
  const frozen = bill.costs!.variants[0]!;
  expect(frozen.steps.map((s) => s.step)).toEqual([...COST_STEPS]);
  await save({ wage: "30" });
  expect((await server.call("readFrozenBill", { params: { id } })).costs).toEqual(bill.costs);
});

test("the bench's own times become rates, and what was packed is held against its plan", async () => {
  const measured = await server.call("readMeasured");
  expect(measured.boxes).toBeGreaterThan(200);
  expect(measured.rates.map((r) => r.step)).toEqual(["count", "weigh", "bag", "label"]);
  // The factor is what was taken ÷ what was planned.
  const { rates } = await server.call("readMoney");
  const count = rates.find((r) => r.step === "count")!.seconds;
  expect(measured.rates[0]!.seconds).toBeCloseTo((count * measured.seconds) / measured.planned, 1);

  const found = await server.call("readLookBack");
  const march = found.find((l) => l.theme === "Glaze Shelf")!;
  expect(march).toMatchObject({ boxes: 120, packed: 120 });
  for (const v of march.variants) {
    expect(Number(v.real)).toBeGreaterThan(0);
    expect(v.realMinutes!).toBeGreaterThan(v.plannedMinutes);
    expect(v.sold).toBeGreaterThan(0);
  }
  // All that left the jars for it, and nothing else, by the ledger itself.
  const { rows } = await server.db.query<{ value: string }>(
    `select (-sum(m.value))::text as value from movements m join entries e on e.id = m.entry_id
     join runs u on u.id = e.run_id where u.box_id = $1 and e.kind not in ('cut', 'counted')`,
    [march.box],
  );
  const real = march.variants.reduce((sum, v) => sum.plus(v.real), new Big(0));
  expect(Math.abs(Number(real.minus(rows[0]!.value)))).toBeLessThan(0.02);
});
