import { randomUUID } from "node:crypto";
import type { BuyLine, BuyList, ErrorBody, Order } from "@jar-count/core/contract";
import { parse } from "csv-parse/sync";
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";
import { afterAll, describe, expect, test } from "vitest";
import { openShop } from "./shop.ts";
import { later } from "../../core/test/demoDay.ts";

const shop = await openShop();
const { server, SUPPLIER, A, component, stock, jar, box, commit, change, order, receive, right } = shop;
afterAll(() => shop.stop());

const offer = (pack: string, amount: number, price: string, more: object = {}) => ({
  supplier: SUPPLIER,
  pack,
  amount,
  unit: "piece",
  price,
  ...more,
});
const buyList = (query = ""): Promise<BuyList> =>
  server.send<BuyList>("GET", `/api/buy${query}`).then(({ status, body }) => {
    expect(status).toBe(200);
    return body;
  });
const lineOf = async (id: string, query = ""): Promise<BuyLine | undefined> =>
  (await buyList(query)).lines.find((l) => l.component === id);
/** Writes one order for what a line says. */
const write = (lines: readonly BuyLine[], more: object = {}) =>
  server.send<{ orders: Order[] } & ErrorBody>("POST", "/api/orders", {
    requestKey: randomUUID(),
    placedOn: later("2030-01-01"),
    orders: [
      {
        id: randomUUID(),
        supplier: SUPPLIER,
        number: `W-${randomUUID().slice(0, 4)}`,
        lines: lines.flatMap((l) =>
          l.chosen.map(({ offer, packs, amount, price }) => ({
            ...{ id: randomUUID(), component: l.component, offer, packs },
            amount,
            price,
          })),
        ),
      },
    ],
    lacks: lines.map((l) => ({
      component: l.component,
      boxes: l.boxes.map(({ box, quantity }) => ({ box, quantity })),
    })),
    ...more,
  });

describe("which packs", () => {
  test("over HTTP: the least money, with a step up where that is cheaper, in coins of the currency", async () => {
    const ask = (body: object) => server.send<object & ErrorBody>("POST", "/api/packs", body);
    const steps = [{ from: 10, price: "1.80" }];
    const stepped = await ask({ need: 90, currency: "GBP", offers: [{ amount: 10, price: "2.00", steps }] });
    // Nine at 2.00 and ten at 1.80 are both 18.00: the same money with less over.
    expect(stepped.body).toEqual({
      chosen: [{ offer: 0, packs: 9, price: "18.00" }],
      total: "18.00",
      amount: 90,
      over: 0,
    });
    const cheaper = [{ from: 10, price: "1.79" }];
    const up = await ask({ need: 90, currency: "GBP", offers: [{ amount: 10, price: "2", steps: cheaper }] });
    expect(up.body).toMatchObject({ chosen: [{ packs: 10, price: "17.90" }], over: 10 });
    const yen = await ask({ need: 3, currency: "JPY", offers: [{ amount: 1, price: "33.5" }] });
    expect(yen.body).toMatchObject({ total: "101", chosen: [{ packs: 3, price: "101" }] });
    const dinar = await ask({ need: 3, currency: "KWD", offers: [{ amount: 1, price: "0.3335" }] });
    expect(dinar.body).toMatchObject({ total: "1.001" });
    expect((await ask({ need: 0, currency: "GBP", offers: [] })).body).toEqual({
      chosen: [],
      total: "0.00",
      amount: 0,
      over: 0,
    });
    expect((await ask({ need: 1, currency: "GBP", offers: [] })).body).toMatchObject({
      code: "invalid",
      errors: [{ pointer: "/offers" }],
    });
    const twice = [
      { from: 10, price: "1" },
      { from: 10, price: "2" },
    ];
    expect((await ask({ need: 1, currency: "GBP", offers: [{ amount: 1, price: "3", steps: twice }] })).status).toBe(
      422,
    );
  });
});

describe("the buy list", () => {
  test("what boxes lack, by the day they are packed; orders bound to them; received in parts", async () => {
    const bead = await component({
      offers: [
        offer("pack of 50", 50, "4.00", { steps: [{ from: 4, price: "2.90" }] }),
        offer("loose", 1, "0.20", { leadDays: 1 }),
      ],
    });
    await stock(bead, "received", 20);
    const [may, june] = [
      await box(bead, 10, 10, { packBy: later("2030-04-20") }),
      await box(bead, 5, 8, { packBy: later("2030-05-20") }),
    ];
    await commit(may, await shop.plan(may));
    const line = (await lineOf(bead))!;
    expect(line).toMatchObject({
      need: 120,
      by: later("2030-04-20"),
      boxes: [
        { box: may, quantity: 80 },
        { box: june, quantity: 40 },
      ],
      // Three packs are 12.00, four 11.60.
      chosen: [
        { pack: "pack of 50", packs: 4, amount: 200, price: "11.60", late: false, orderBy: later("2030-04-10") },
      ],
      total: "11.60",
      unstepped: "12.00",
      over: 80,
      overWorth: "4.64",
    });
    expect(await lineOf(bead, `?until=${later("2030-04-20")}`)).toMatchObject({ need: 80 });
    expect(await lineOf(bead, `?boxes=${june}`)).toMatchObject({ need: 40, by: later("2030-05-20") });
    expect((await server.send("GET", "/api/buy?boxes=nobody")).status).toBe(422);

    const done = await write([line]);
    expect(done.status).toBe(201);
    const [written] = done.body.orders;
    expect(written).toMatchObject({
      supplier: SUPPLIER,
      currency: "GBP",
      lines: [{ component: bead, packs: 4, quantity: 200, price: "11.60", due: later("2030-01-11") }],
    });
    expect(new Map(written!.spoken.map((s) => [s.box, s.quantity]))).toEqual(
      new Map([
        [may, 80],
        [june, 40],
      ]),
    );
    await right();
    // Nothing is lacking any more, so it can't be ordered twice.
    expect(await lineOf(bead)).toBeUndefined();
    expect(await write([line])).toMatchObject({ status: 409, body: { code: "stale" } });
    expect((await server.call("readRun", { params: { id: june } })).ahead).toBe(1);

    // In two parts: who is packed first gets of the first one.
    await receive(written!, 100);
    const first = await jar(bead);
    expect(first.spokenBy).toMatchObject([
      { box: may, order: null, quantity: 100 },
      { box: june, order: null, quantity: 20 },
      { box: june, order: written!.id, quantity: 20 },
    ]);
    // The planned box holds its part: another one that comes before it gets none of that.
    const april = await box(bead, 30, 1, { packBy: later("2030-03-20") });
    expect((await shop.plan(april)).lacking).toEqual([]);
    expect((await server.call("readBill", { params: { id: june } })).variants[0]!.lines[0]).toMatchObject({ short: 0 });
    await receive(written!, 100);
    expect((await jar(bead)).component).toMatchObject({ onHand: 220, spokenFor: 140 });
    // Committing the planned box takes over what was ordered for it.
    expect((await commit(june)).body.lacking).toEqual([]);
    expect((await jar(bead)).component.spokenFor).toBe(140);
    await right();
  });

  test("late: marked, first, and taken over by an order that comes in time", async () => {
    const bead = await component({ offers: [offer("pack", 10, "1.00"), offer("quick", 10, "3.00", { leadDays: 0 })] });
    const { today } = await server.call("readWorkshop");
    const id = await box(bead, 1, 10, { packBy: today });
    expect(await lineOf(bead)).toMatchObject({ chosen: [{ pack: "pack", late: true }] });
    expect((await buyList()).lines[0]!.component).toBe(bead);
    await change(id, (b) => ({ ...b, packBy: later("2030-02-20") }));
    const cheap = (await lineOf(bead))!;
    expect(cheap.chosen).toMatchObject([{ late: false }]);
    await commit(id, await shop.plan(id));
    const [first] = (await write([cheap])).body.orders;
    // It is put off until after the day of the box: the box is short again, and another order takes its place.
    const { id: _id, version, received: _r, spoken: _s, ...input } = first!;
    const late = { ...input, lines: input.lines.map((l) => ({ ...l, due: later("2030-03-01") })) };
    expect((await server.send("PUT", `/api/orders/${first!.id}`, { version, order: late })).status).toBe(200);
    expect((await server.call("readRun", { params: { id } })).lacking).toMatchObject([
      { quantity: 10, late: { order: first!.id } },
    ]);
    const again = (await lineOf(bead))!;
    const other = (await jar(bead)).component.offers.find((o) => o.pack === "quick")!;
    const quick = {
      ...again,
      chosen: [{ ...again.chosen[0]!, offer: other.id!, packs: 1, amount: other.amount, price: other.price }],
    };
    const [second] = (await write([quick])).body.orders;
    expect(second!.spoken).toMatchObject([{ box: id, quantity: 10 }]);
    expect((await server.call("readOrder", { params: { id: first!.id } })).spoken).toEqual([]);
    expect((await server.call("readRun", { params: { id } })).lacking).toEqual([]);
    await right();
  });

  test("what broke is bought again for its box; a planned box's part gives way when its order shrinks", async () => {
    const bead = await component({ offers: [offer("pack", 10, "1.00")] });
    await stock(bead, "received", 10);
    const firm = await box(bead, 1, 10);
    await commit(firm);
    await stock(bead, "broken", 4);
    const line = (await lineOf(bead))!;
    expect(line).toMatchObject({ need: 4, boxes: [{ box: firm, quantity: 4 }] });
    const [written] = (await write([line])).body.orders;
    expect(written!.spoken).toMatchObject([{ box: firm, quantity: 4 }]);
    expect((await server.call("readRun", { params: { id: firm } })).lacking).toEqual([]);
    await right();

    const other = await component({ offers: [offer("pack", 10, "1.00")] });
    const planned = await box(other, 1, 20);
    const [order] = (await write([(await lineOf(other))!])).body.orders;
    const { id, version, received: _r, spoken, ...input } = order!;
    expect(spoken).toMatchObject([{ box: planned, quantity: 20 }]);
    const less = { ...input, lines: input.lines.map((l) => ({ ...l, packs: 1, quantity: 10 })) };
    const saved = await server.send<Order>("PUT", `/api/orders/${id}`, { version, order: less });
    expect(saved).toMatchObject({ status: 200, body: { spoken: [{ box: planned, quantity: 10 }] } });
    // It lets go of what it was to get, and that is free for whoever comes.
    const free = await server.send("POST", `/api/boxes/${planned}/take-back`, { requestKey: randomUUID() });
    expect(free).toMatchObject({ status: 201, body: { state: "planned", ahead: 0 } });
    expect((await server.call("readOrder", { params: { id } })).spoken).toEqual([]);
    await right();
  });

  test("wire comes in spools that the cuts fit on, not in a sum", async () => {
    const wire = await component({
      kind: "stringing",
      form: "beading wire",
      baseUnit: "mm",
      offers: [
        { ...offer("1 m", 1000, "1.00"), unit: "mm" },
        { ...offer("short", 500, "0.10"), unit: "mm" },
      ],
    });
    const id = await box(wire, 600, 4);
    // 2,400 mm would be three metres by the sum; a metre holds one cut of 600.
    const line = (await lineOf(wire))!;
    expect(line).toMatchObject({ need: 2400, cuts: [{ mm: 600, count: 4 }], chosen: [{ pack: "1 m", packs: 4 }] });
    const [written] = (await write([line])).body.orders;
    expect(written).toMatchObject({
      lines: [{ quantity: 4000, pieceMm: 1000 }],
      spoken: [{ box: id, quantity: 2400 }],
    });
    await receive(written!, 4000);
    expect((await jar(wire)).spokenBy).toMatchObject([{ box: id, order: null, quantity: 2400 }]);
    await right();
  });

  test("refused with its place: another supplier's offer, too few packs, an order that is there", async () => {
    const bead = await component({ offers: [offer("pack", 10, "1.00", { minimum: 3 })] });
    await box(bead, 1, 5);
    const line = (await lineOf(bead))!;
    expect(line.chosen).toMatchObject([{ packs: 3, amount: 30 }]);
    const few = await write([{ ...line, chosen: [{ ...line.chosen[0]!, packs: 1 }] }]);
    expect(few.body.errors).toMatchObject([{ pointer: "/orders/0/lines/0/packs" }]);
    const unknown = await write([{ ...line, chosen: [{ ...line.chosen[0]!, offer: randomUUID() }] }]);
    expect(unknown.body.errors).toMatchObject([{ pointer: "/orders/0/lines/0/offer" }]);
    const there = await order(bead, 1, null);
    const body = {
      orders: [
        {
          id: there.id,
          supplier: SUPPLIER,
          number: "again",
          lines: [
            { id: randomUUID(), component: bead, offer: line.chosen[0]!.offer, packs: 3, amount: 30, price: "9" },
          ],
        },
      ],
    };
    expect((await write([line], body)).body.errors).toMatchObject([{ pointer: "/orders/0/id" }]);
    expect((await server.call("listOrders")).filter((o) => o.number === "again")).toEqual([]);
  });

  test("nobody offers it: it stands there all the same", async () => {
    const bead = await component();
    await box(bead, 1, 5);
    expect(await lineOf(bead)).toMatchObject({ need: 5, chosen: [], total: "0.00" });
  });
});

describe("an order as a letter", () => {
  test("CSV and PDF, read back by other libraries, say the same", async () => {
    const bead = await component({ name: "=bead, honey", offers: [offer("pack of 50", 50, "4.00")] });
    const id = await box(bead, 1, 60);
    const [written] = (await write([(await lineOf(bead, `?boxes=${id}`))!])).body.orders;
    const csv = await (await fetch(`${server.url}/api/orders/${written!.id}/order.csv`)).text();
    expect(parse(csv, { columns: true })).toMatchObject([
      {
        order: written!.number,
        supplier: "Lowfold",
        component: "'=bead, honey",
        packs: "2",
        amount: "100",
        price: "8.00",
      },
    ]);
    for (const paper of ["a4", "letter"]) {
      const pdf = await fetch(`${server.url}/api/orders/${written!.id}/order.pdf?paper=${paper}`);
      const doc = await getDocument({ data: new Uint8Array(await pdf.arrayBuffer()), verbosity: 0 }).promise;
      const { items } = await (await doc.getPage(1)).getTextContent();
      const text = items.map((i) => ("str" in i ? i.str : "")).join(" ");
      expect(text).toContain(`Order ${written!.number}`);
      expect(text).toMatch(/2 × pack of 50 .*8\.00 GBP/);
      expect(text).toMatch(/In all .*8\.00 GBP/);
    }
    await stock(bead, "received", 1, { place: A });
  });
});
