import { randomUUID } from "node:crypto";
import { mkdtempSync, readdirSync, rmSync, symlinkSync } from "node:fs";
import { request } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import {
  type BuyList,
  codeKey,
  type CommitPlan,
  type ComponentDetail,
  type ErrorBody,
  type Order,
  type Packing,
  type RestorePlan,
  type Restoring,
  type Stocktake,
  workshopInputOf,
} from "@jar-count/core/contract";
import { EMPTY_BOX } from "@jar-count/core/box";
import { intakeOf, seenOf } from "@jar-count/core/intake";
import { strToU8, zipSync } from "fflate";
import { afterAll, afterEach, beforeAll, describe, expect, test, vi } from "vitest";
import { writeWhole } from "../src/backup/folder.ts";
import type { Keeper } from "../src/backup/index.ts";
import { addJob, doJobs } from "../src/jobs/jobs.ts";
import { problemOf } from "../src/http/problem.ts";
import { DoFirst, inTransaction } from "../src/store/database.ts";
import { emptyWorkshop, keepOthersFromWriting } from "../src/store/archive.ts";
import { noteCare } from "../src/store/care.ts";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { MIGRATIONS, startServer, type TestServer } from "./harness.ts";
import { openShop, type Shop } from "./shop.ts";
import { later } from "../../core/test/demoDay.ts";

/** What an attack found, a test for each: nobody stops the others, nothing that is allowed breaks books or backups. */
let shop: Shop;
let server: TestServer;
beforeAll(async () => {
  shop = await openShop();
  server = shop.server;
});
afterAll(() => server.stop());

const folders: string[] = [];
afterEach(() => {
  for (const f of folders.splice(0)) rmSync(f, { recursive: true, force: true });
});
const keeperOf = (of: TestServer): Keeper => {
  const folder = mkdtempSync(join(tmpdir(), "jar-count-trust-"));
  folders.push(folder);
  return { owner: of.owner, ownerUrl: of.ownerUrl, folder, migrations: MIGRATIONS };
};
const key = () => ({ requestKey: randomUUID() });
const move = (id: string, entry: object) =>
  server.send<ComponentDetail & ErrorBody>("POST", `/api/components/${id}/stock`, {
    ...key(),
    place: shop.A,
    ...entry,
  });
const post = <T = ErrorBody>(path: string, body: object) =>
  server.send<T & ErrorBody>("POST", path, { ...key(), ...body });
const right = async () => expect(await balancesThatDiffer(server.owner)).toEqual([]);
/** An archive of it comes in elsewhere and is the same there. */
async function comesOutAndIn(of: TestServer = server) {
  const there = await startServer();
  try {
    const out = Buffer.from(await (await fetch(`${of.url}/api/archive`)).arrayBuffer());
    const init = { method: "POST", headers: { "content-type": "application/zip" }, body: out };
    const taken = await fetch(`${there.url}/api/archive`, init);
    expect(taken.status, await taken.text()).toBe(201);
    expect(Buffer.from(await (await fetch(`${there.url}/api/archive`)).arrayBuffer()).equals(out)).toBe(true);
  } finally {
    await there.stop();
  }
}

describe("A: heavy work", () => {
  const DESIGN = {
    format: "jar-count/design",
    version: 1,
    name: "D",
    key: [{ key: "A", name: "a", kind: "bead", alongMm: 6 }],
    parts: Array.from({ length: 6 }, (_, i) => ({
      ...{ id: `p${i}`, name: `P${i}`, makes: 1 },
      steps: Array.from({ length: 900 }, (_, j) => `${j + 1}A (2A 3A) x9`).join("\n"),
    })),
  };

  test("given up while it waits for its turn, it leaves its place: what comes after it is answered", async () => {
    const bead = await shop.component();
    await shop.stock(bead, "received", 100);
    const box = await shop.box(bead, 1, 5);
    // Every thread is busy, and others wait behind; some of those that wait are gone.
    let ended = 0;
    const busy = Array.from({ length: 4 }, () =>
      server.send("POST", "/api/count", { design: DESIGN }).finally(() => (ended += 1)),
    );
    const left = Array.from({ length: 6 }, () => new AbortController());
    const gone = left.map((l) => fetch(`${server.url}/api/boxes/${box}/contents.pdf`, { signal: l.signal }));
    const plans = Array.from({ length: 12 }, () => server.send("GET", `/api/boxes/${box}/commit`));
    for (const l of left) l.abort();
    await Promise.all(gone.map((g) => g.catch(() => {})));
    // Meanwhile nothing holds a connection, and whoever looks at something or packs is answered.
    const { work, reading } = server.databases;
    expect((await server.send("GET", "/api/health")).status).toBe(200);
    expect((await server.send("GET", `/api/components/${bead}`)).status).toBe(200);
    const held = () => [work.totalCount - work.idleCount, work.waitingCount, reading.waitingCount];
    await expect.poll(held, { interval: 1 }).toEqual([0, 0, 0]); // who has not come to the threads yet reads still
    expect(ended).toBeLessThan(busy.length);
    expect((await Promise.all(busy)).map((b) => b.status)).toEqual([200, 200, 200, 200]);
    expect((await Promise.all(plans)).map((p) => p.status)).toEqual(plans.map(() => 200));
    for (const path of ["cost", "contents.pdf"]) {
      expect((await server.send("GET", `/api/boxes/${box}/${path}`)).status).toBe(200);
    }
  });
});

describe("A: what is worked out while others write", () => {
  test("a table comes in while stock moves all the time", async () => {
    const moving = [await shop.component(), await shop.component(), await shop.component()];
    let over = false;
    let moves = 0;
    const writer = async (component: string) => {
      for (; !over; moves++) expect((await move(component, { kind: "received", quantity: 1 })).status).toBe(201);
    };
    const writing = moving.map(writer);
    const rows = Array.from({ length: 3000 }, (_, i) => ({ code: `TBL-${i}`, name: `Bead ${i}`, form: "seed" }));
    const sent = await post("/api/imports/components", { name: "many.csv", rows });
    over = true;
    await Promise.all(writing);
    expect(sent).toMatchObject({ status: 201, body: { new: 3000 } });
    expect(moves).toBeGreaterThan(0);
    await right();
  });

  test("where what it is worked out from changes all the time, one is told to wait", async () => {
    let tries = 0;
    const never = inTransaction(server.owner, async () => {
      throw new DoFirst(() => Promise.resolve(void tries++));
    });
    const error: Error = await never.catch((e: Error) => e);
    expect(tries).toBeGreaterThan(10);
    expect(problemOf(error)).toMatchObject({ status: 503, code: "busy" });
  });
});

describe("B: what others made", () => {
  const archive = (files: Record<string, Uint8Array>) =>
    fetch(`${server.url}/api/archive/plan`, {
      method: "POST",
      headers: { "content-type": "application/zip" },
      body: zipSync(files) as Uint8Array<ArrayBuffer>,
    });

  test.each([
    ["a line of millions of commas", ",".repeat(30_000_000), /columns in a line/],
    ["a cell without an end", `"${"x".repeat(5_000_000)}`, /a cell of more than/],
    ["quotes and nothing else", '"'.repeat(20_000_001), /a cell of more than/],
    ["lines without end", "a,b\n".repeat(1_100_000), /lines/],
  ])("an archive with %s is refused, and says why", async (_, text, why) => {
    const answer = await archive({ "workshop.json": strToU8("{}"), "ledger.csv": strToU8(text) });
    const body = (await answer.json()) as ErrorBody;
    expect([answer.status, body.code]).toEqual([413, "too-heavy"]);
    expect(body.detail).toMatch(why);
  });

  test("JSON that goes deeper than anything of ours is refused, in an archive and in a body", async () => {
    const deep = `${"[".repeat(5000)}${"]".repeat(5000)}`;
    const inside = await archive({ "workshop.json": strToU8("{}"), "designs/a.json": strToU8(deep) });
    expect(((await inside.json()) as ErrorBody).detail).toMatch(/levels deep/);
    const methods = Array.from({ length: 4000 }).reduce((inner) => `{"choices":${String(inner)}}`, "{}") as string;
    const sent = await server.send<ErrorBody>("POST", "/api/count", `{"design":{"methods":${methods}}}`);
    expect([sent.status, sent.body.code]).toEqual([422, "invalid"]);
    expect(sent.body.detail).toMatch(/levels deep/);
  });

  test("a carrier that never ends and a shop that unpacks to hundreds of megabytes are told of", async () => {
    const say = async (more: object) => {
      const { version, made: _made, ...now } = await server.call("readMoney");
      await server.call("saveMoney", { body: { version, money: { ...now, ...more } } });
    };
    await say({ carrier: `${server.standIns}/carrier/endless` });
    expect((await server.call("readPostage")).fault).toMatch(/sends too much|too long/);
    await say({ carrier: "", shop: `${server.standIns}/shop/packed` });
    await vi.waitFor(
      async () => {
        const sold = await server.send<ErrorBody>("GET", "/api/sales/from-shop");
        expect([sold.status, sold.body.code]).toEqual([502, "out-of-reach"]);
        expect(sold.body.detail).toMatch(/sends too much/);
      },
      { timeout: 90_000 },
    );
    await say({ shop: "" });
    expect((await server.send("GET", "/api/health")).status).toBe(200);
  });
});

describe("C: what is allowed can be kept", () => {
  test("a thousand million twice, counted to nothing; a walk whose book is more than anybody may enter", async () => {
    const dear = await shop.component();
    for (const _ of [1, 2]) expect((await move(dear, { kind: "received", quantity: 1e9 })).status).toBe(201);
    const walk = randomUUID();
    await server.call("beginStocktake", { params: { id: walk } });
    const line = { component: dear, place: shop.A, lot: "", how: "counted", counted: 5, u: 0 };
    expect((await server.send("PUT", `/api/stocktakes/${walk}/line`, line)).status).toBe(200);
    expect((await move(dear, { kind: "counted", quantity: 0 })).status).toBe(201);
    await comesOutAndIn();
    // What could not be written down is refused where it stands.
    const gold = await shop.component({ baseUnit: "g" });
    await move(gold, { kind: "received", quantity: 0.001, cost: "999999999.9999" });
    for (let n = 0, status = 201; status === 201 && n < 40; n++) {
      const sent = await move(gold, { kind: "received", quantity: 1e9 });
      status = sent.status;
      if (status !== 201) expect(sent.body.detail).toMatch(/worth more|counted exactly/);
    }
    await right();
    await comesOutAndIn();
  });

  test("two codes that are the same to us are never both there, whatever a database thinks", async () => {
    const make = (code: string) =>
      server.send<ErrorBody>("PUT", `/api/components/${randomUUID()}`, {
        version: 0,
        component: { code, name: "x", kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece" },
      });
    expect((await make("ΑΣ")).status).toBe(201);
    for (const same of ["ας", "ασ", "Ας"]) {
      expect(codeKey(same)).toBe(codeKey("ΑΣ"));
      expect(await make(same)).toMatchObject({ status: 422, body: { errors: [{ pointer: "/component/code" }] } });
    }
    expect((await make("ﬁ")).status).toBe(201);
    expect((await make("FI")).status).toBe(422);
    expect((await server.send("GET", `/api/components/by-code/${encodeURIComponent("ας")}`)).status).toBe(200);
    await comesOutAndIn();
  });

  test("a planned box that was sold stays, and so does its colourway: refused with who", async () => {
    const bead = await shop.component();
    const id = await shop.box(bead, 1, 5, { theme: "Salt Pan", month: later("2030-07") });
    const row = {
      order: "Q77",
      line: "1",
      day: later("2030-06-02"),
      box: "Salt Pan",
      colourway: "Moss",
      quantity: "1",
    };
    const sold = await server.send("POST", "/api/imports/sales", { ...key(), name: "s.csv", rows: [row] });
    expect(sold.status).toBe(201);
    const { version } = (await server.call("readBox", { params: { id } })).box;
    const out = await server.send<ErrorBody>("DELETE", `/api/boxes/${id}?version=${version}`);
    expect([out.status, out.body.code]).toEqual([409, "is-sold"]);
    expect(out.body.detail).toMatch(/Q77/);
    const { id: _id, version: _v, ...now } = (await server.call("readBox", { params: { id } })).box;
    const without = { ...now, colourways: [], variants: [] };
    const saved = await server.send<ErrorBody>("PUT", `/api/boxes/${id}`, { version, box: without });
    expect([saved.status, saved.body.code]).toEqual([409, "is-sold"]);
    expect(saved.body.detail).toMatch(/Moss.*Q77.*0 boxes/);
    // The database holds to it too, whoever asks.
    await expect(server.owner.query(`delete from box_variants where box_id = $1`, [id])).rejects.toThrow(/sales/);
    await comesOutAndIn();
  });

  test("a backup that can't be written leaves nothing half, says so on every page, until one is made", async () => {
    const here = await startServer({ demo: true });
    const keeper = keeperOf(here);
    // A disk without room (full(4)): what was begun is taken away again.
    symlinkSync("/dev/full", join(keeper.folder, ".x.zip.part"));
    await expect(writeWhole(keeper.folder, "x.zip", Buffer.alloc(100_000))).rejects.toMatchObject({ code: "ENOSPC" });
    expect(readdirSync(keeper.folder)).toEqual([]);
    await addJob(here.owner, "back-up");
    await doJobs({ ...keeper, folder: "/dev/full/backups" });
    expect((await here.call("readCare")).fault).toMatch(/backup folder can't be written|ENOTDIR/);
    expect((await here.call("health")).backupOld).toBe(true);
    await addJob(here.owner, "back-up");
    await doJobs(keeper);
    expect(await here.call("readCare")).toMatchObject({ fault: null, old: false });
    expect((await here.call("health")).backupOld).toBe(false);
    await here.stop();
  });
});

describe("D: lengths and grams, exactly", () => {
  test("three cuts of 333.333 from 1,000 mm: all three boxes are packed, and 0.001 is left", async () => {
    // Bars of a third of a metre: no ruler rounds them up.
    const wire = await shop.component({ kind: "stringing", baseUnit: "mm", linkMm: 333.333 });
    await shop.stock(wire, "received", 1, { stretchMm: 1000 });
    const id = await shop.box(wire, 333.333, 3);
    expect((await shop.commit(id)).status).toBe(201);
    const variant = (await server.call("readPacking", { params: { id } })).of.variants[0]!.id;
    for (const no of [1, 2, 3]) {
      expect((await post(`/api/boxes/${id}/packed`, { variant, no, packed: true })).status).toBe(201);
    }
    expect((await shop.jar(wire)).balances).toMatchObject([{ stretchMm: 0.001, quantity: 1 }]);
    await right();
    await comesOutAndIn();
  });

  test("nothing is cut so short that it comes to nothing, and nothing finer than it is kept is dropped", async () => {
    const wire = await shop.component({ kind: "stringing", baseUnit: "mm" });
    await shop.stock(wire, "received", 1, { stretchMm: 1000 });
    expect(await move(wire, { kind: "cut", cutMm: 0.0004, count: 100_000 })).toMatchObject({ status: 422 });
    expect(await move(wire, { kind: "received", quantity: 1, stretchMm: 0.00001 })).toMatchObject({ status: 422 });
    expect((await shop.jar(wire)).component.onHand).toBe(1000);
    const grams = await shop.component({ baseUnit: "g" });
    const dust = await move(grams, { kind: "received", quantity: 0.0004, cost: "5.00" });
    expect([dust.status, dust.body.errors?.[0]?.pointer]).toEqual([422, "/quantity"]);
  });

  test("an order that boxes want goes from 14.4 to 14.3 g; one of three spools leaves nothing to come", async () => {
    const grams = await shop.component({
      baseUnit: "g",
      offers: [{ id: randomUUID(), supplier: shop.SUPPLIER, pack: "tube", amount: 14.4, unit: "g", price: "3.00" }],
    });
    await shop.box(grams, 14.4, 1);
    const list = await server.call("readBuyList");
    const line = list.lines.find((l) => l.component === grams)!;
    const order = {
      ...{ id: randomUUID(), supplier: shop.SUPPLIER, number: "G-1" },
      lines: line.chosen.map(({ offer, packs, amount, price }) => ({
        ...{ id: randomUUID(), component: grams, offer, packs, amount, price },
      })),
    };
    const lacks = [{ component: grams, boxes: line.boxes.map(({ box, quantity }) => ({ box, quantity })) }];
    const { body } = await post<{ orders: Order[] }>("/api/orders", {
      placedOn: later("2030-01-01"),
      orders: [order],
      lacks,
    });
    const { id, version, received: _r, spoken: _s, ...written } = body.orders[0]!;
    const less = { ...written, lines: written.lines.map((l) => ({ ...l, quantity: 14.3 })) };
    const saved = await server.send("PUT", `/api/orders/${id}`, { version, order: less });
    expect(saved.status, JSON.stringify(saved.body)).toBe(200);
    await right();

    const wire = await shop.component({ kind: "stringing", baseUnit: "mm" });
    const spools = await shop.order(wire, 1000, null, { packs: 3 });
    expect((await shop.receive(spools, 666.667)).status).toBe(201);
    const rest = await shop.receive(spools, 333.333);
    expect(rest.body.received[spools.lines[0]!.id]).toBe(1000);
    const { balances, component } = await shop.jar(wire);
    expect(component).toMatchObject({ onHand: 1000, onTheWay: 0 });
    expect(balances.reduce((n, b) => n + b.quantity, 0)).toBe(3);
    await right();

    const many = await shop.component({ kind: "stringing", baseUnit: "mm" });
    const coils = await shop.order(many, 1_000_000, null, { packs: 1500 });
    expect((await shop.receive(coils, 1_000_000)).status).toBe(201);
    const each = (await shop.jar(many)).balances.map(({ stretchMm, quantity }) => ({ stretchMm, quantity }));
    expect(each.sort((a, b) => a.stretchMm! - b.stretchMm!)).toEqual([
      { stretchMm: 666.6666, quantity: 500 },
      { stretchMm: 666.6667, quantity: 1000 },
    ]);
    await right();
  });
});

describe("E: fields that belong together", () => {
  test("a length on what is counted, none on what is kept by length: refused at every door", async () => {
    const bead = await shop.component();
    const wire = await shop.component({ kind: "stringing", baseUnit: "mm" });
    await shop.stock(bead, "received", 665);
    await shop.stock(wire, "received", 1, { stretchMm: 5000 });
    const id = await shop.box(bead, 1, 5);
    await shop.commit(id);
    const told = await post(`/api/boxes/${id}/told`, {
      ...{ kind: "counted", component: bead, place: shop.A, stretchMm: 1000 },
      quantity: 3,
    });
    expect(told.status).toBe(422);
    const walk = randomUUID();
    await server.call("beginStocktake", { params: { id: walk } });
    const at = { place: shop.A, lot: "", how: "counted", u: 0 };
    const lines = [
      { ...at, component: bead, stretchMm: 1000, counted: 3 },
      { ...at, component: wire, counted: 5000 },
    ];
    for (const line of lines) {
      expect((await server.send("PUT", `/api/stocktakes/${walk}/line`, line)).status).toBe(422);
    }
    expect((await move(wire, { kind: "counted", quantity: 5000 })).status).toBe(422);
    expect([(await shop.jar(bead)).component.onHand, (await shop.jar(wire)).component.onHand]).toEqual([665, 5000]);
    const spot = [bead, shop.A];
    await expect(server.owner.query(`insert into balances values ($1, $2, '', 1000, 3, 0)`, spot)).rejects.toThrow(
      /does not fit its unit/,
    );
    await right();
  });

  test("a unit stands once anything is written in it; the currency from the first order on", async () => {
    const bead = await shop.component();
    await shop.order(bead, 10, null);
    const { version, code, name, kind, colour, finish } = (await shop.jar(bead)).component;
    const component = { code, name, kind, colour, finish, baseUnit: "mm" };
    const saved = await server.send<ErrorBody>("PUT", `/api/components/${bead}`, { version, component });
    expect(saved).toMatchObject({ status: 422, body: { errors: [{ pointer: "/component/baseUnit" }] } });
    expect(saved.body.errors![0]!.detail).toMatch(/it is on an order/);
    await expect(server.owner.query(`update components set base_unit = 'mm' where id = $1`, [bead])).rejects.toThrow(
      /written in piece/,
    );
    const found = await server.call("readWorkshop");
    const yen = { version: found.version, workshop: { ...workshopInputOf(found), currency: "JPY" } };
    expect(await server.send("PUT", "/api/workshop", yen)).toMatchObject({ status: 422 });
    await expect(server.owner.query(`update workshop set currency = 'JPY'`)).rejects.toThrow(/written in GBP/);
  });
});

describe("F: seen one thing, written that or nothing", () => {
  const offer = (id: string, price: string, amount = 10) => ({
    ...{ id, supplier: shop.SUPPLIER, pack: "pack", amount, unit: "piece", price, minimum: 1, leadDays: 5 },
  });

  test.each([
    ["price", { price: "45.00" }],
    ["pack", { amount: 1 }],
  ])("an order whose %s changed since it was shown is not written; the new list comes back", async (_, change) => {
    const id = randomUUID();
    const bead = await shop.component({ offers: [offer(id, "4.00")] });
    await shop.box(bead, 1, 100);
    const line = (await server.call("readBuyList")).lines.find((l) => l.component === bead)!;
    const { version, code, name, kind, colour, finish, baseUnit } = (await shop.jar(bead)).component;
    const now = { code, name, kind, colour, finish, baseUnit, offers: [{ ...offer(id, "4.00"), ...change }] };
    expect((await server.send("PUT", `/api/components/${bead}`, { version, component: now })).status).toBe(200);
    const packs = line.chosen[0]!;
    const order = randomUUID();
    const written = await post<ErrorBody & { current: BuyList }>("/api/orders", {
      placedOn: later("2030-01-01"),
      orders: [
        {
          ...{ id: order, supplier: shop.SUPPLIER, number: "F-1" },
          lines: [
            {
              ...{ id: randomUUID(), component: bead, offer: packs.offer, packs: packs.packs },
              amount: packs.amount,
              price: packs.price,
            },
          ],
        },
      ],
      lacks: [{ component: bead, boxes: line.boxes.map(({ box, quantity }) => ({ box, quantity })) }],
    });
    expect([written.status, written.body.code]).toEqual([409, "stale"]);
    expect((written.body.current as BuyList).lines.map((l) => l.component)).toContain(bead);
    expect((await server.send("GET", `/api/orders/${order}`)).status).toBe(404);
  });

  test("a commitment that would do something else than was shown is not made", async () => {
    const bead = await shop.component();
    await shop.stock(bead, "received", 100);
    const id = await shop.box(bead, 1, 5);
    const plan = await shop.plan(id);
    // From stock, as it was shown; by then it would be from an order.
    await shop.order(bead, 100, later("2030-01-05"));
    await shop.stock(bead, "broken", 100);
    const { version, lacking, seen } = plan;
    const asked = { ...key(), version, lacking, seen };
    const sent = await server.send<ErrorBody>("POST", `/api/boxes/${id}/commit`, asked);
    expect([sent.status, sent.body.code]).toEqual([409, "stale"]);
    const now = sent.body.current as CommitPlan;
    expect(now.fromOrders).toHaveLength(1);
    const again = await server.send("POST", `/api/boxes/${id}/commit`, { ...key(), version, lacking, seen: now.seen });
    expect(again.status).toBe(201);
  });

  test("a table, a delivery, a walk and an archive likewise", async () => {
    const bead = await shop.component();
    const { components } = await server.call("listComponents");
    const { places, suppliers } = await server.call("readRooms");
    const { code } = components.find((c) => c.id === bead)!;
    const row = { code, notes: "by table" };
    const seen = seenOf([intakeOf("components", { components, places, suppliers }, ".")(row)]);
    const { version, name, kind, colour, finish, baseUnit } = (await shop.jar(bead)).component;
    const renamed = { code, kind, colour, finish, baseUnit, name: `${name}, renamed` };
    await server.send("PUT", `/api/components/${bead}`, { version, component: renamed });
    const table = { name: "t.csv", decimal: ".", rows: [row] };
    expect(await post("/api/imports/components", { ...table, seen })).toMatchObject({ status: 409 });
    expect((await shop.jar(bead)).component).toMatchObject({ notes: "", name: `${name}, renamed` });

    const order = await shop.order(bead, 10, null);
    const { id, version: of, received: _r, spoken: _s, ...written } = order;
    const dearer = { ...written, lines: written.lines.map((l) => ({ ...l, price: "500" })) };
    expect((await server.send("PUT", `/api/orders/${id}`, { version: of, order: dearer })).status).toBe(200);
    const lines = [{ line: order.lines[0]!.id, quantity: 10 }];
    expect(await post(`/api/orders/${id}/receive`, { version: of, lines })).toMatchObject({ status: 409 });
    expect((await post(`/api/orders/${id}/receive`, { version: of + 1, lines })).status).toBe(201);

    const walk = randomUUID();
    await server.call("beginStocktake", { params: { id: walk } });
    const jar = { component: bead, place: shop.A, lot: "" };
    const count = (counted: number) =>
      server.send<Stocktake>("PUT", `/api/stocktakes/${walk}/line`, { ...jar, how: "counted", counted, u: 0 });
    await count(9);
    await count(7); // somebody counts it again
    expect(await post(`/api/stocktakes/${walk}/post`, { lines: [{ ...jar, counted: 9 }] })).toMatchObject({
      status: 409,
    });
    expect((await post(`/api/stocktakes/${walk}/post`, { lines: [{ ...jar, counted: 7 }] })).status).toBe(201);

    const zip = Buffer.from(await (await fetch(`${server.url}/api/archive`)).arrayBuffer());
    const send = async <T>(method: string, path: string) => {
      const headers = { "content-type": "application/zip" };
      const answer = await fetch(`${server.url}${path}`, { method, headers, body: zip });
      return { status: answer.status, body: (await answer.json()) as T };
    };
    const plan = await send<RestorePlan>("POST", "/api/archive/plan");
    await noteCare(server.owner, "jobs", {});
    await shop.stock(bead, "received", 1);
    const laid = await send<ErrorBody>("PUT", `/api/restores/${randomUUID()}?seen=${plan.body.seen}`);
    expect([laid.status, laid.body.code]).toEqual([409, "stale"]);
  });
});

describe("G: packing", () => {
  test("a swap is part of the run: it lasts over another commitment, and has its own way back", async () => {
    const [x, y] = [await shop.component(), await shop.component()];
    await shop.stock(x, "received", 100);
    await shop.stock(y, "received", 100);
    const id = await shop.box(x, 10, 2);
    await shop.commit(id);
    const packing = () => server.call("readPacking", { params: { id } }) as Promise<Packing>;
    const variant = (await packing()).of.variants[0]!.id!;
    const swap = { kind: "swapped", variant, component: x, with: y, quantity: 5 };
    expect((await post(`/api/boxes/${id}/told`, swap)).status).toBe(201);
    // More of the same box is committed: the five stay with it.
    await shop.change(id, (b) => ({ ...b, bagging: "project" }));
    expect((await shop.commit(id)).status).toBe(201);
    expect((await packing()).needs).toMatchObject([{ quantity: 20, swapped: 5 }]);
    // Nothing is forgotten: taken back as a whole, or to less than stands in, it is refused with why.
    expect(await shop.takeBack(id)).toMatchObject({ status: 409, body: { code: "is-packed" } });
    for (const no of [1, 2]) await post(`/api/boxes/${id}/packed`, { variant, no, packed: true });
    expect([(await shop.jar(x)).component.onHand, (await shop.jar(y)).component.onHand]).toEqual([85, 95]);
    // Taken back though its box is packed: what it stood in for is taken from the jar now.
    const told = (await packing()).told.find((t) => t.kind === "swapped")!;
    expect((await post(`/api/boxes/${id}/told/${told.entry}/take-back`, {})).status).toBe(201);
    expect([(await shop.jar(x)).component.onHand, (await shop.jar(y)).component.onHand]).toEqual([80, 100]);
    await right();
    await comesOutAndIn();
  });

  test("after Stop nothing is put in any more", async () => {
    const [x, y] = [await shop.component(), await shop.component()];
    await shop.stock(x, "received", 100);
    await shop.stock(y, "received", 100);
    const id = await shop.box(x, 10, 2);
    await shop.commit(id);
    const variant = (await server.call("readPacking", { params: { id } })).of.variants[0]!.id;
    await post(`/api/boxes/${id}/packed`, { variant, no: 1, packed: true });
    await post(`/api/boxes/${id}/stop`, {});
    const swap = { kind: "swapped", variant, component: x, with: y, quantity: 1 };
    expect(await post(`/api/boxes/${id}/told`, swap)).toMatchObject({ status: 409, body: { code: "is-packed" } });
    await right();
  });
});

describe("I: an archive beside writers", () => {
  test("while it is put in, who writes is told to wait; it ends, and nothing is locked crosswise", async () => {
    const here = await startServer({ demo: true });
    const other = await openShop();
    const keeper = keeperOf(here);
    await noteCare(here.owner, "jobs", { folder: keeper.folder });
    const zip = Buffer.from(await (await fetch(`${other.server.url}/api/archive`)).arrayBuffer());
    const { components } = await here.call("listComponents");
    const id = randomUUID();
    const laid = await fetch(`${here.url}/api/restores/${id}`, {
      method: "PUT",
      headers: { "content-type": "application/zip" },
      body: zip,
    });
    expect(laid.status).toBe(202);
    let over = false;
    const codes = new Map<string, number>();
    const writer = async (component: string) => {
      while (!over) {
        const entry = { ...key(), kind: "received", quantity: 1 };
        const sent = await here.send<ErrorBody>("POST", `/api/components/${component}/stock`, entry);
        const code = sent.status === 201 ? "done" : sent.body.code;
        codes.set(code, (codes.get(code) ?? 0) + 1);
      }
    };
    const pieces = components.filter((c) => c.baseUnit === "piece").slice(0, 3);
    const writing = pieces.map((c) => writer(c.id));
    await doJobs(keeper);
    over = true;
    await Promise.all(writing);
    const done = (await here.send<Restoring>("GET", `/api/restores/${id}`)).body;
    expect(done).toMatchObject({ state: "done", fault: null });
    // Either it was written before, or told to wait, or the component is gone with what was here.
    expect([...codes.keys()].filter((c) => !["done", "restoring", "not-found", "busy"].includes(c))).toEqual([]);
    expect(Buffer.from(await (await fetch(`${here.url}/api/archive`)).arrayBuffer()).equals(zip)).toBe(true);
    await other.server.stop();
    await here.stop();
  });

  test("who reads several tables is let go on while they are emptied", async () => {
    const here = await startServer({ demo: true });
    const [reader, owner] = [await here.owner.connect(), await here.owner.connect()];
    await owner.query("begin");
    await keepOthersFromWriting(owner);
    await reader.query("begin");
    await reader.query("select from component_totals"); // emptied late, and held now
    const emptying = emptyWorkshop(owner);
    await expect
      .poll(async () => (await here.owner.query("select from pg_locks where not granted")).rowCount, {
        timeout: 10_000,
      })
      .toBeGreaterThan(0);
    await reader.query("select from sales, boxes"); // emptied before it
    await reader.query("commit");
    await emptying;
    expect((await owner.query("select from components")).rowCount).toBe(0);
    await owner.query("rollback");
    expect((await here.owner.query("select from components")).rowCount).toBeGreaterThan(0);
    for (const session of [reader, owner]) session.release();
    await here.stop();
  });

  test("every table that an archive fills looks at the one switch", async () => {
    const { rows } = await server.owner.query<{ name: string }>(
      `select tablename as name from pg_tables t where schemaname = 'public'
         and tablename not in ('migrations', 'heartbeat', 'care', 'backups', 'restores')
         and not exists (select from pg_trigger g join pg_proc p on p.oid = g.tgfoid
           where g.tgrelid = t.tablename::regclass and p.proname = 'not_while_restoring')`,
    );
    expect(rows).toEqual([]);
  });
});

describe("J: smaller", () => {
  test("a sent box stays as it went out; its prices may still change", async () => {
    const bead = await shop.component();
    await shop.stock(bead, "received", 10);
    const id = await shop.box(bead, 1, 1);
    await shop.commit(id);
    const variant = (await server.call("readPacking", { params: { id } })).of.variants[0]!.id;
    await post(`/api/boxes/${id}/packed`, { variant, no: 1, packed: true });
    expect((await post(`/api/boxes/${id}/close`, {})).status).toBe(201);
    const { version } = (await server.call("readBox", { params: { id } })).box;
    for (const changes of [{ month: "1999-01" }, { contents: { drop: [] as string[] }, theme: "Another" }]) {
      const sent = await server.send<ErrorBody>("PATCH", `/api/boxes/${id}`, { version, changes });
      expect([sent.status, sent.body.code]).toEqual([409, "is-committed"]);
    }
  });

  test("two places swap their codes; a person twice, or two places of one code, are refused", async () => {
    const { version, ...rooms } = await server.call("readRooms");
    const [a, b, ...rest] = rooms.places;
    const swapped = { ...rooms, places: [{ ...a!, code: b!.code }, { ...b!, code: a!.code }, ...rest] };
    expect((await server.send("PUT", "/api/rooms", { version, rooms: swapped })).status).toBe(200);
    const twice = { ...rooms, people: [rooms.people[0]!, rooms.people[0]!] };
    const sent = await server.send<ErrorBody>("PUT", "/api/rooms", { version: version + 1, rooms: twice });
    expect(sent).toMatchObject({ status: 422, body: { errors: [{ pointer: "/rooms/people/1/id" }] } });
    const alike = { ...rooms, places: rooms.places.map((p) => ({ ...p, code: "A" })) };
    const same = await server.send<ErrorBody>("PUT", "/api/rooms", { version: version + 1, rooms: alike });
    expect(same).toMatchObject({ status: 422, body: { errors: [{ pointer: "/rooms/places/1/code" }] } });
    expect((await server.send("PUT", "/api/rooms", { version: version + 1, rooms })).status).toBe(200);
  });

  test("a tax below nothing is refused; so is a table whose numbers can be read in two ways", async () => {
    const asked = { cost: "4.00", feeRate: 0.1, feeFixed: "0.20", margin: 0.5, currency: "GBP" };
    const tax = await server.send<ErrorBody>("POST", "/api/price", { ...asked, taxRate: -1 });
    expect(tax).toMatchObject({ status: 422, body: { errors: [{ pointer: "/taxRate" }] } });
    const bead = await shop.component({ baseUnit: "g" });
    const { code } = (await shop.jar(bead)).component;
    const rows = [{ code, quantity: "1,250" }];
    const table = await post("/api/imports/deliveries", { name: "t.csv", rows });
    expect(table).toMatchObject({ status: 422, body: { errors: [{ pointer: "/decimal" }] } });
    expect((await post("/api/imports/deliveries", { name: "t.csv", rows, decimal: "," })).status).toBe(201);
    expect((await shop.jar(bead)).component.onHand).toBe(1.25);
    const eighth = [{ code, quantity: "0,125" }];
    expect((await post("/api/imports/deliveries", { name: "t.csv", rows: eighth })).status).toBe(201);
    expect((await shop.jar(bead)).component.onHand).toBe(1.375);
  });

  test("two Host headers are one too many (RFC 9112, 3.2)", async () => {
    const { port } = new URL(server.url);
    const status = await new Promise<number>((done, fail) => {
      const req = request({ port, path: "/api/health", headers: ["Host", "localhost", "Host", "elsewhere.example"] });
      req.once("response", (res) => (res.resume(), done(res.statusCode!))).once("error", fail);
      req.end();
    });
    expect(status).toBe(400);
  });

  test("a box that is too large to be committed is refused when it is saved, with how large it may be", async () => {
    const ways = Array.from({ length: 50 }, (_, i) => ({ id: randomUUID(), name: `C${i}` }));
    const box = {
      ...EMPTY_BOX,
      ...{ month: later("2030-05"), theme: "Large", colourways: ways },
      variants: ways.map((w) => ({ first: w.id, second: null, boxes: 1 })),
      roles: Array.from({ length: 600 }, (_, i) => ({
        id: randomUUID(),
        name: `r${i}`,
        kind: "bead",
        follows: "first",
      })),
    };
    const sent = await server.send<ErrorBody>("PUT", `/api/boxes/${randomUUID()}`, { version: 0, box });
    expect(sent).toMatchObject({ status: 422, body: { errors: [{ pointer: "/box/variants" }] } });
    expect(sent.body.errors![0]!.detail).toMatch(/30,000.*at most 20,000.*two boxes/);
  });
});
