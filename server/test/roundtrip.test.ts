import { randomUUID } from "node:crypto";
import type {
  ComponentDetail,
  ComponentList,
  DesignSummary,
  Order,
  RoomsInput,
  Stocktake,
} from "@jar-count/core/contract";
import { strFromU8, unzipSync } from "fflate";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { startServer, type TestServer } from "./harness.ts";

let [one, two]: TestServer[] = [];
const [A, B, HELD, SUPPLIER, PERSON] = Array.from({ length: 5 }, () => randomUUID()) as [
  string,
  string,
  string,
  string,
  string,
];
const components: Record<string, string> = {};

const send = async <T>(method: string, path: string, body?: unknown, expected = [200, 201]) => {
  const answer = await one!.send<T>(method, path, body);
  expect(expected, `${method} ${path}: ${JSON.stringify(answer.body).slice(0, 300)}`).toContain(answer.status);
  return answer.body;
};
const stock = (code: string, entry: object) =>
  send<ComponentDetail>("POST", `/api/components/${components[code]}/stock`, {
    requestKey: randomUUID(),
    person: PERSON,
    ...entry,
  });
const reverse = (entry: string) =>
  send("POST", `/api/entries/${entry}/reverse`, { requestKey: randomUUID(), note: "a mistake" });
const newest = async (code: string) =>
  (await send<ComponentDetail>("GET", `/api/components/${components[code]}`)).movements[0]!.entry;

/** A workshop in which everything has happened once. */
beforeAll(async () => {
  [one, two] = await Promise.all([startServer(), startServer()]);
  const rooms: RoomsInput = {
    people: [{ id: PERSON, name: "Wren, “the counter”" }],
    suppliers: [{ id: SUPPLIER, name: "Lowfold Glass Merchants", leadDays: 12 }],
    places: [
      { id: B, code: "B", name: "Bench", held: false },
      { id: A, code: "A", name: "Drawers", held: false },
      { id: HELD, code: "REVEAL", name: "Held back", held: true },
    ],
  };
  await send("PUT", "/api/rooms", { version: 1, rooms });
  await send("PUT", "/api/workshop", {
    version: 1,
    workshop: {
      name: "Quarry Lane, tested",
      currency: "EUR",
      publicAddress: "http://192.168.1.20:4321",
      locale: "de-AT",
    },
  });
  const kinds: [string, object][] = [
    [
      "R6",
      {
        name: '6 mm round, "honey"',
        kind: "bead",
        form: "round",
        baseUnit: "piece",
        alongMm: 6,
        acrossMm: 6,
        holeMm: 1.1,
        transparency: "transparent",
        material: "glass",
        reorderAt: 50,
        cautions: ["small parts", "lead"],
        notes: "two\nlines, and a comma",
        offers: [
          {
            supplier: SUPPLIER,
            pack: "strand of 50",
            amount: 50,
            unit: "piece",
            price: "2.80",
            steps: [
              { from: 10, price: "2.50" },
              { from: 50, price: "2.225" },
            ],
            minimum: 2,
            leadDays: 12,
          },
          { pack: "mass", amount: 1200, unit: "piece", price: "48.00" },
        ],
      },
    ],
    [
      "S11",
      {
        name: "11/0 seed",
        kind: "bead",
        form: "seed",
        size: "11/0",
        baseUnit: "g",
        perGram: 115,
        perGramU: 3,
        offers: [{ pack: "tube", amount: 8.5, unit: "g", price: "1.60" }],
      },
    ],
    [
      "WIRE",
      {
        name: "Beading wire",
        kind: "stringing",
        form: "beading wire",
        baseUnit: "mm",
        diameterMm: 0.483,
        breakKg: 9,
        offers: [{ pack: "spool of 30 ft", amount: 9144, unit: "mm", price: "7.15" }],
      },
    ],
    [
      "PIN",
      {
        name: "Head pin",
        kind: "finding",
        form: "head pin",
        baseUnit: "piece",
        lengthMm: 40,
        metal: "gold",
        massG: 0.21,
        offers: [],
      },
    ],
    ["DANGLE", { name: "Dangle, made here", kind: "focal", form: "charm", baseUnit: "piece", offers: [] }],
  ];
  for (const [code, c] of kinds) {
    components[code] = randomUUID();
    await send("PUT", `/api/components/${components[code]}`, {
      version: 0,
      component: { code, colour: "#d9982f", finish: "clear", ...c },
    });
  }
  await stock("R6", { kind: "received", quantity: 300, cost: "15.75", lot: "7", place: A });
  await stock("R6", { kind: "received", quantity: 120, place: B, lot: "9" });
  await stock("R6", {
    kind: "counted",
    quantity: 296,
    u: 4.2,
    entered: "weighed 61.20 g less 24.10 g",
    lot: "7",
    place: A,
    tareG: 24.1,
    unitMass: { g: 0.1253, u: 0.0014, sd: 0.006, pieces: 20 },
  });
  await stock("R6", { kind: "used", quantity: 500, lot: "9", place: B, countFirst: true });
  await reverse(await newest("R6"));
  await stock("R6", { kind: "held back", quantity: 40, lot: "7", place: A, to: HELD });
  await stock("R6", { kind: "moved", quantity: 30, lot: "7", place: A, to: B });
  for (const kind of ["tried", "broken", "given", "swapped out", "sent back"])
    await stock("R6", { kind, quantity: 3, lot: "7", place: A });
  for (const kind of ["returned", "put back", "swapped in"])
    await stock("R6", { kind, quantity: 2, lot: "7", place: A });
  await stock("S11", { kind: "received", quantity: 25.5, u: 0.3, cost: "4.80", place: A });
  await stock("S11", { kind: "used", quantity: 3.333, place: A });
  await stock("WIRE", { kind: "received", quantity: 2, stretchMm: 9144, cost: "14.30", place: B });
  await stock("WIRE", { kind: "cut", cutMm: 508, count: 5, place: B });
  await reverse(await newest("WIRE"));
  await stock("WIRE", { kind: "cut", cutMm: 250.5, count: 3, place: B });
  await stock("PIN", { kind: "received", quantity: 60, cost: "1.38", place: A });
  await stock("DANGLE", {
    kind: "made",
    quantity: 12,
    minutes: 18.5,
    place: A,
    from: [
      { component: components.PIN, quantity: 12 },
      { component: components.R6, quantity: 24 },
      { component: components.WIRE, quantity: 100 },
    ],
  });
  await send("POST", `/api/components/${components.R6}/aside`, {
    requestKey: randomUUID(),
    purpose: "Replacements, May",
    quantity: 25,
  });
  await send("POST", `/api/components/${components.WIRE}/aside`, {
    requestKey: randomUUID(),
    purpose: "Collars",
    quantity: 4,
    cutMm: 500,
  });
  const order = await send<Order>("PUT", `/api/orders/${randomUUID()}`, {
    version: 0,
    order: {
      supplier: SUPPLIER,
      number: "LG-7",
      placedOn: "2027-02-01",
      currency: "GBP",
      rate: "1.1712",
      note: "by post",
      lines: [
        {
          id: randomUUID(),
          component: components.R6,
          pack: "strand of 50",
          packs: 4,
          quantity: 200,
          price: "11.20",
          due: "2027-03-01",
        },
        {
          id: randomUUID(),
          component: components.WIRE,
          pack: "spool of 30 ft",
          packs: 2,
          quantity: 18_288,
          price: "14.30",
          due: null,
        },
      ],
    },
  });
  await send("POST", `/api/orders/${order.id}/receive`, {
    requestKey: randomUUID(),
    place: B,
    lines: [
      { line: order.lines[0]!.id, quantity: 150, lot: "11" },
      { line: order.lines[1]!.id, quantity: 9144 },
    ],
    freight: "4.00",
    duty: "1.37",
  });
  const walk = randomUUID();
  await send("PUT", `/api/stocktakes/${walk}`);
  await send<Stocktake>("PUT", `/api/stocktakes/${walk}/line`, {
    component: components.PIN,
    place: A,
    lot: "",
    how: "counted",
    counted: 47,
    u: 0,
    entered: "by hand",
  });
  await send("POST", `/api/stocktakes/${walk}/post`, {
    requestKey: randomUUID(),
    person: PERSON,
    lines: [{ component: components.PIN, place: A, lot: "" }],
  });
  const design = {
    format: "jar-count/design",
    version: 1,
    name: "Dangle Row",
    about: { kind: "earrings", technique: "wired", level: "easy" },
    minutes: 20,
    key: [{ key: "A", id: "r1", name: "round", kind: "bead", alongMm: 6, handed: true }],
    parts: [{ id: "p", name: "Drop", makes: 2, steps: "Row 1: 3A  # as it was\n\n(A) x2" }],
  };
  const id = randomUUID();
  await send<DesignSummary>("PUT", `/api/designs/${id}`, { revision: 0, reason: "first", design });
  await send("PUT", `/api/designs/${id}`, { revision: 1, reason: "second", design: { ...design, minutes: 25 } });
  await send("PUT", `/api/designs/${id}/trials/${randomUUID()}`, {
    version: 0,
    revision: 2,
    size: null,
    option: null,
    madeOn: "2027-02-10",
    person: PERSON,
    minutes: 31,
    finished: { part: "p", mm: 31.5 },
    used: { r1: 11 },
    note: "one too many",
    verdict: "mend it",
  });
  await send("PUT", `/api/designs/${id}/archived`, { archived: true });
  await sellSomething();
}, 60_000);

/** Money, a priced box with something tried on it, the carrier's rates, and sales of it. */
async function sellSomething() {
  const [channel, box, first] = [randomUUID(), randomUUID(), randomUUID()];
  const money = {
    wage: "17.25",
    overhead: "0.3500",
    basis: "last",
    rates: [{ step: "count", seconds: 1.25, spread: 0.2, n: 40, from: "measured" }],
    channels: [
      {
        id: channel,
        name: "Market, “on the hill”",
        feeRate: 0.095,
        feeFixed: "0.25",
        taxRate: 0.2,
        discounts: [{ from: "40", rate: 0.05 }],
        gift: { from: "60", name: "mini box", cost: "1.60", massG: 35 },
      },
    ],
    ending: ".90",
    retailFactor: 2.2,
    zone: "home",
    service: "large letter",
    carrier: "",
    shop: "http://127.0.0.1:9/shop",
    claims: 0.02,
    takenApart: 0.4,
    sellsAt: 0.3,
  };
  const { version } = await one!.call("readMoney");
  await send("PUT", "/api/money", { version, money });
  await one!.call("readPostage");
  await send("PUT", `/api/boxes/${box}`, {
    version: 0,
    box: {
      month: "2027-06",
      theme: "Letterpress",
      lines: [],
      contents: [{ id: randomUUID(), component: components.R6, first: null, quantity: 5 }],
      colourways: [{ id: first, name: "Ink, black" }],
      seconds: [],
      variants: [{ first, second: null, boxes: 12 }],
      roles: [],
      bindings: [],
      picks: [],
      prices: [{ channel, single: "24.50", subscription: "22" }],
      whatIfs: [
        {
          id: randomUUID(),
          name: "dearer",
          changes: [
            { what: "price", channel, single: "29" },
            { what: "boxes", boxes: 20 },
            { what: "component", component: components.R6, with: components.R6 },
            { what: "rate", step: "bag", seconds: 12.5 },
            { what: "wage", wage: "20" },
            { what: "spare", rule: "one", add: 2 },
          ],
        },
      ],
    },
  });
  const sold = { day: "2027-05-02", month: "2027-06", box: "Letterpress", colourway: "ink, black", paid: "24.5" };
  await send("POST", "/api/imports/sales", {
    requestKey: randomUUID(),
    name: "sales.csv",
    rows: [
      { order: "1", line: "", ...sold },
      { order: "1", line: "back", kind: "return", ...sold },
      { order: "2", line: "1", ...sold, colourway: "no such", quantity: "3" },
      { order: "3", line: "1", ...sold, box: 'Old "one"', month: "2020-01", offered: "40" },
    ],
  });
}
afterAll(() => Promise.all([one!.stop(), two!.stop()]));

const download = async (server: TestServer) =>
  new Uint8Array(await (await fetch(`${server.url}/api/archive`)).arrayBuffer());

describe("a workshop in which everything has happened once", () => {
  test("its books agree with its ledger", async () => {
    expect(await balancesThatDiffer(one!.db)).toEqual([]);
    const kinds = new Set(
      (await one!.db.query<{ kind: string }>("select distinct kind from entries")).rows.map((r) => r.kind),
    );
    expect(kinds.size).toBe(16); // every reason there is
  });

  test("goes out as files, comes into an empty one, and goes out again the same to the byte", async () => {
    const first = await download(one!);
    const answer = await fetch(`${two!.url}/api/archive`, {
      method: "POST",
      headers: { "content-type": "application/zip" },
      body: Buffer.from(first),
    });
    expect(answer.status, await answer.clone().text()).toBe(201);
    const second = await download(two!);
    const [mine, theirs] = [first, second].map((zip) =>
      Object.fromEntries(Object.entries(unzipSync(zip)).map(([name, data]) => [name, strFromU8(data)])),
    );
    expect(theirs).toEqual(mine);
    expect(Buffer.from(second).equals(Buffer.from(first))).toBe(true);
    expect(await balancesThatDiffer(two!.db)).toEqual([]);
  });

  test("and stands there as it stood here: amounts, doubts, averages, what is set aside and on the way", async () => {
    const lists = await Promise.all(
      [one!, two!].map(async (s) => (await s.send<ComponentList>("GET", "/api/components")).body.components),
    );
    expect(lists[1]).toEqual(lists[0]);
    const r6 = lists[1]!.find((c) => c.code === "R6")!;
    expect(r6).toMatchObject({ spokenFor: 65, onTheWay: 50, reorderAt: 50, notes: "two\nlines, and a comma" });
    for (const id of Object.values(components)) {
      const [here, there] = await Promise.all(
        [one!, two!].map(async (s) => (await s.send<ComponentDetail>("GET", `/api/components/${id}`)).body),
      );
      expect(there!.balances).toEqual(here!.balances);
      expect(there!.setAside).toEqual(here!.setAside);
      expect(there!.due).toEqual(here!.due);
      expect(there!.movements.map(({ id: _i, entry: _e, ...m }) => m)).toEqual(
        here!.movements.map(({ id: _i, entry: _e, ...m }) => m),
      );
    }
  });

  test("its money, prices, what was tried and what was sold stand there too, and cost the same", async () => {
    const seen = async (s: TestServer) => {
      const boxes = await s.call("listBoxes");
      const of = { params: { id: boxes[0]!.id } };
      return {
        money: await s.call("readMoney"),
        box: (await s.call("readBox", of)).box,
        cost: await s.call("readCost", of),
        sales: (await s.call("knownSales")).sales,
        months: (await s.call("readSoldMonths")).months,
      };
    };
    const [here, there] = [await seen(one!), await seen(two!)];
    expect(there).toEqual(here);
    expect(there.money).toMatchObject({ wage: "17.25", basis: "last", ending: ".90", retailFactor: 2.2, claims: 0.02 });
    expect(there.money.rates).toEqual([{ step: "count", seconds: 1.25, spread: 0.2, n: 40, from: "measured" }]);
    // What was made in the shop took its minutes, by the ledger that came along.
    expect(Object.values(there.money.made).every((seconds) => seconds > 0)).toBe(true);
    expect(Object.keys(there.money.made).length).toBeGreaterThan(0);
    expect(there.box.whatIfs[0]!.changes).toHaveLength(6);
    expect(there.box.prices).toEqual([{ channel: expect.any(String), single: "24.50", subscription: "22.00" }]);
    expect(there.months.map((m) => [m.theme, m.sold, m.returned, m.made])).toEqual([
      ['Old "one"', 1, 0, 40],
      ["Letterpress", 3, 1, null],
    ]);
    expect(there.sales.filter((s) => s.variant !== null)).toHaveLength(2);
  });

  test("and goes on there: what was reversed stays so, no request happens again, the ledger takes more", async () => {
    const { rows } = await two!.db.query<{ id: string }>(
      "select reverses::text as id from entries where reverses is not null limit 1",
    );
    expect((await two!.send("POST", `/api/entries/${rows[0]!.id}/reverse`, { requestKey: randomUUID() })).status).toBe(
      409,
    );
    const { rows: keys } = await two!.db.query<{ key: string }>("select request_key as key from entries limit 1");
    expect(
      (
        await two!.send("POST", `/api/components/${components.R6}/stock`, {
          requestKey: keys[0]!.key,
          kind: "received",
          quantity: 1,
        })
      ).status,
    ).toBeGreaterThanOrEqual(400);
    expect(
      (
        await two!.send("POST", `/api/components/${components.R6}/stock`, {
          requestKey: randomUUID(),
          kind: "received",
          quantity: 1,
          place: A,
        })
      ).status,
    ).toBe(201);
    expect(await balancesThatDiffer(two!.db)).toEqual([]);
  });
});
