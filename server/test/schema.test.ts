import { cpSync, mkdtempSync, readdirSync } from "node:fs";
import { randomUUID } from "node:crypto";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import type { Component, ComponentDetail, ComponentList, Order, Rooms } from "@jar-count/core/contract";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { migrate } from "../src/store/migrate.ts";
import { bringUpToDate, makeDatabase, putRooms, startServer, type TestServer } from "./harness.ts";

const migrations = fileURLToPath(new URL("../migrations/", import.meta.url));

test("a workshop of the first schema comes along: sums stay, lengths become pieces, the books agree", async () => {
  const { url, ownerUrl } = await makeDatabase();
  const first = mkdtempSync(join(tmpdir(), "jar-count-"));
  const [oldest] = readdirSync(migrations).sort();
  cpSync(join(migrations, oldest!), join(first, oldest!));
  await migrate(ownerUrl, first);

  const db = new pg.Client(ownerUrl);
  await db.connect();
  const [bead, wire] = [randomUUID(), randomUUID()];
  await db.query(
    `insert into components (id, code, name, kind, shape, colour, finish, base_unit)
      values ($1, 'R6', '6 mm round', 'bead', 'round', '#aa5533', 'matt', 'piece'), ($2, 'W', 'wire', 'stringing',
      null, '#888888', 'metal', 'mm')`,
    [bead, wire],
  );
  await db.query(`insert into offers (component_id, pack, quantity, price) values ($1, 'strand of 50', 50, 2.80)`, [
    bead,
  ]);
  const move = async (component: string, kind: string, quantity: number, counted: number | null, balance: number) => {
    const { rows } = await db.query<{ id: string }>(
      `insert into entries (kind, request_key) values ($1, gen_random_uuid()) returning id`,
      [kind],
    );
    await db.query(
      `insert into movements (entry_id, component_id, place_id, quantity, counted, balance)
        select $1, $2, id, $3, $4, $5 from places`,
      [rows[0]!.id, component, quantity, counted, balance],
    );
  };
  await move(bead, "received", 100, null, 100);
  await move(bead, "counted", -7, 93, 93);
  await move(wire, "received", 9144, null, 9144);
  await move(wire, "counted", -144, 9000, 9000);
  await db.query(
    `insert into balances (component_id, place_id, quantity) select $1::uuid, id, 93 from places union all
      select $2::uuid, id, 9000 from places`,
    [bead, wire],
  );
  await db.end();

  expect(await migrate(ownerUrl, migrations)).toBe(readdirSync(migrations).length - 1);
  await bringUpToDate(url, ownerUrl);
  const server = await startServer({ beside: { databaseUrl: url, ownerUrl } as TestServer });
  const { components } = (await server.send<ComponentList>("GET", "/api/components")).body;
  const of = (code: string) => components.find((c) => c.code === code) as Component;
  expect(of("R6")).toMatchObject({
    onHand: 93,
    form: "round",
    offers: [{ pack: "strand of 50", amount: 50, unit: "piece", price: "2.80" }],
    moved: true,
  });
  expect(of("W").onHand).toBe(9000);
  expect(await balancesThatDiffer(server.db)).toEqual([]);
  const { body } = await server.send<ComponentDetail>("GET", `/api/components/${of("W").id}`);
  expect(body.balances.filter((b) => b.quantity > 0)).toMatchObject([{ stretchMm: 9000, quantity: 1 }]);
  // And it goes on from there.
  const cut = await server.send<ComponentDetail>("POST", `/api/components/${of("W").id}/stock`, {
    requestKey: randomUUID(),
    kind: "cut",
    cutMm: 400,
    count: 2,
    note: "",
  });
  expect(cut.body.component.onHand).toBe(8200);
  await server.stop();
});

describe("people, suppliers and places", () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await startServer();
  });
  afterAll(() => server.stop());
  const rooms = async () => (await server.send<Rooms>("GET", "/api/rooms")).body;
  const place = (code: string, held = false) => ({ id: randomUUID(), code, name: `Place ${code}`, held });

  test("a new workshop has one place; what stock names can't be taken out, and the walk's order is kept", async () => {
    const [shelf] = (await rooms()).places;
    expect(shelf).toMatchObject({ code: "SHELF", held: false });
    const id = randomUUID();
    await server.send("PUT", `/api/components/${id}`, {
      version: 0,
      component: { code: "A", name: "a", kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece" },
    });
    await server.send("POST", `/api/components/${id}/stock`, {
      requestKey: randomUUID(),
      kind: "received",
      quantity: 5,
    });
    const [b, c] = [place("B"), place("C")];
    expect((await putRooms(server, { people: [], suppliers: [], places: [c, b] })).status).toBe(422);
    expect((await rooms()).places).toEqual([shelf]);
    expect(
      (
        await putRooms(server, {
          people: [{ id: randomUUID(), name: "Ines" }],
          suppliers: [],
          places: [c, shelf, b],
        })
      ).status,
    ).toBe(200);
    expect((await rooms()).places.map((p) => p.code)).toEqual(["C", "SHELF", "B"]);
    expect((await putRooms(server, { people: [], suppliers: [], places: [{ ...shelf!, held: true }] })).status).toBe(
      422,
    );
    expect(
      (
        await putRooms(server, {
          people: [],
          suppliers: [],
          places: [shelf, { ...c, code: "no spaces here" }],
        })
      ).status,
    ).toBe(422);
  });
  test("a place that becomes one for what is held back takes its stock out of what is free", async () => {
    const { places, version: _version, ...rest } = await rooms();
    const [component] = (await server.send<ComponentList>("GET", "/api/components")).body.components;
    const stands = places.find((p) => p.code === "SHELF")!;
    await putRooms(server, {
      ...rest,
      places: places.map((p) => (p.id === stands.id ? { ...p, held: true } : p)),
    });
    const detail = (await server.send<ComponentDetail>("GET", `/api/components/${component!.id}`)).body;
    expect(detail.component).toMatchObject({ onHand: 5, spokenFor: 5 });
  });
  test("spools come as pieces, and freight can be shared by mass", async () => {
    const supplier = { id: randomUUID(), name: "Cordwain and Reel", leadDays: 9 };
    const { places, people } = await rooms();
    await putRooms(server, { people, suppliers: [supplier], places });
    const add = async (component: object) => {
      const id = randomUUID();
      expect(
        (
          await server.send("PUT", `/api/components/${id}`, {
            version: 0,
            component: { code: id.slice(0, 8), colour: "#112233", finish: "matt", ...component },
          })
        ).status,
      ).toBe(201);
      return id;
    };
    const [wire, light, heavy] = [
      await add({ name: "wire", kind: "stringing", baseUnit: "mm" }),
      await add({ name: "light", kind: "bead", baseUnit: "piece", massG: 0.1 }),
      await add({ name: "heavy", kind: "bead", baseUnit: "piece", massG: 0.9 }),
    ];
    const order = async (lines: object[]) => {
      const id = randomUUID();
      const sent = await server.send<Order>("PUT", `/api/orders/${id}`, {
        version: 0,
        order: {
          supplier: supplier.id,
          number: id.slice(0, 6),
          placedOn: "2027-02-01",
          currency: "GBP",
          rate: "1",
          note: "",
          lines: lines.map((l) => ({ id: randomUUID(), pack: "pack", ...l })),
        },
      });
      expect(sent.status).toBe(201);
      return sent.body;
    };
    const spools = await order([{ component: wire, packs: 3, quantity: 27_432, price: "12.00" }]);
    await server.send("POST", `/api/orders/${spools.id}/receive`, {
      requestKey: randomUUID(),
      lines: [{ line: spools.lines[0]!.id, quantity: 18_288 }],
    });
    const stood = (await server.send<ComponentDetail>("GET", `/api/components/${wire}`)).body;
    expect(stood.balances).toMatchObject([{ stretchMm: 9144, quantity: 2 }]);
    expect(stood.component.onTheWay).toBe(9144);
    const beads = await order([
      { component: light, packs: 1, quantity: 100, price: "1.00" },
      { component: heavy, packs: 1, quantity: 100, price: "1.00" },
    ]);
    await server.send("POST", `/api/orders/${beads.id}/receive`, {
      requestKey: randomUUID(),
      lines: beads.lines.map((l) => ({ line: l.id, quantity: 100 })),
      freight: "5.00",
      shareBy: "mass",
    });
    const cost = async (id: string) =>
      (await server.send<ComponentDetail>("GET", `/api/components/${id}`)).body.component.averageCost;
    // 5.00 shared 1 : 9.
    expect([await cost(light), await cost(heavy)]).toEqual(["0.01500000", "0.05500000"]);
    expect((await server.send("DELETE", `/api/components/${light}/aside/${randomUUID()}`)).status).toBe(404);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });
  test("older movements are read on page by page, each once", async () => {
    const id = randomUUID();
    await server.send("PUT", `/api/components/${id}`, {
      version: 0,
      component: { code: "MANY", name: "many", kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece" },
    });
    for (let i = 0; i < 120; i++)
      await server.send("POST", `/api/components/${id}/stock`, {
        requestKey: randomUUID(),
        kind: "received",
        quantity: 1,
      });
    const first = (await server.send<ComponentDetail>("GET", `/api/components/${id}`)).body;
    const seen = [...first.movements];
    for (let older = first.older; older;) {
      const { body } = await server.send<{ movements: typeof seen; older: boolean }>(
        "GET",
        `/api/components/${id}/movements?before=${seen.at(-1)!.id}`,
      );
      seen.push(...body.movements);
      older = body.older;
    }
    expect(seen.map((m) => m.balance)).toEqual(Array.from({ length: 120 }, (_, i) => 120 - i));
    expect((await server.send("GET", `/api/components/${id}/movements?before=soon`)).status).toBe(422);
  });
});
