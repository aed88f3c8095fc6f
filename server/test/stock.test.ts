import { readCode } from "./codes.ts";
import { randomUUID } from "node:crypto";
import type {
  ComponentDetail,
  ComponentInput,
  ComponentList,
  Order,
  Rooms,
  RoomsInput,
  ShelfJar,
  Stocktake,
} from "@jar-count/core/contract";
import { tableOf, writeTable } from "@jar-count/core/intake";
import { parse } from "csv-parse/sync";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { z } from "zod";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { jarAddress, labelSheet, qrModules } from "../src/labels/sheet.ts";
import { putRooms, startServer, type TestServer } from "./harness.ts";

let server: TestServer;
const [A, B, HELD, SUPPLIER, PERSON] = Array.from({ length: 5 }, () => randomUUID()) as [
  string,
  string,
  string,
  string,
  string,
];
beforeAll(async () => {
  server = await startServer();
  const rooms: RoomsInput = {
    people: [{ id: PERSON, name: "Wren" }],
    suppliers: [{ id: SUPPLIER, name: "Lowfold Glass Merchants", leadDays: 12 }],
    places: [
      { id: A, code: "A", name: "Drawers", held: false },
      { id: B, code: "B", name: "Bench", held: false },
      { id: HELD, code: "REVEAL", name: "Held back", held: true },
    ],
  };
  expect((await putRooms(server, rooms)).status).toBe(200);
});
afterAll(() => server.stop());

const bead: z.input<typeof ComponentInput> = {
  code: "",
  name: "6 mm round",
  kind: "bead",
  form: "round",
  colour: "#aa5533",
  finish: "matt",
  baseUnit: "piece",
  alongMm: 6,
  acrossMm: 6,
  offers: [{ pack: "strand of 50", amount: 50, unit: "piece", price: "2.50" }],
};
const add = async (c: Partial<z.input<typeof ComponentInput>> = {}) => {
  const id = randomUUID();
  expect(
    (
      await server.send("PUT", `/api/components/${id}`, {
        version: 0,
        component: { ...bead, code: id.slice(0, 8), ...c },
      })
    ).status,
  ).toBe(201);
  return id;
};
interface Refused {
  detail: string;
  errors?: { pointer: string; detail: string }[];
  current?: { holds: number };
}
const write = async (id: string, entry: object) =>
  server.send<ComponentDetail & Refused>("POST", `/api/components/${id}/stock`, {
    requestKey: randomUUID(),
    person: PERSON,
    ...entry,
  });
const done = async (id: string, entry: object) => {
  const { status, body } = await write(id, entry);
  expect(status, JSON.stringify(body)).toBe(201);
  return body;
};
const of = async (id: string) => (await server.send<ComponentDetail>("GET", `/api/components/${id}`)).body;

describe("the ledger", () => {
  test("every reason moves what it says, by whom, and the books agree", async () => {
    const id = await add();
    await done(id, { kind: "received", quantity: 100, cost: "5.00", lot: "7" });
    for (const kind of ["used", "tried", "broken", "given", "swapped out", "sent back"])
      await done(id, { kind, quantity: 2, lot: "7" });
    for (const kind of ["returned", "put back", "swapped in"]) await done(id, { kind, quantity: 1, lot: "7" });
    await done(id, { kind: "moved", quantity: 20, lot: "7", to: B });
    const after = await done(id, { kind: "held back", quantity: 10, lot: "7", to: HELD });
    expect(after.component).toMatchObject({
      onHand: 91,
      spokenFor: 10,
      averageCost: "0.05000000",
      lastCost: "0.05000000",
    });
    expect(after.balances.map((b) => [b.placeCode, b.quantity])).toEqual([
      ["A", 61],
      ["B", 20],
      ["REVEAL", 10],
    ]);
    expect(after.movements.every((m) => m.person === "Wren")).toBe(true);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });

  test("more than is there is refused with what is there, or counted up and used in one entry", async () => {
    const id = await add();
    await done(id, { kind: "received", quantity: 3 });
    const refused = await write(id, { kind: "used", quantity: 5 });
    expect(refused).toMatchObject({
      status: 422,
      body: { errors: [{ pointer: "/quantity" }], holds: 3, code: "not-in-jar" },
    });
    const both = await done(id, { kind: "used", quantity: 5, countFirst: true });
    expect(both.component.onHand).toBe(0);
    expect(new Set(both.movements.slice(0, 2).map((m) => m.entry)).size).toBe(1);
  });

  test("one reversal takes a mistake back with value and doubt; twice, or of a reversal, is refused", async () => {
    const id = await add();
    await done(id, { kind: "counted", quantity: 40, u: 3, entered: "weighed" });
    await done(id, { kind: "counted", quantity: 55, u: 9 });
    const wrong = (await of(id)).movements[0]!;
    const reverse = () =>
      server.send<Refused>("POST", `/api/entries/${wrong.entry}/reverse`, {
        requestKey: randomUUID(),
        person: PERSON,
        note: "misread",
      });
    expect((await reverse()).status).toBe(201);
    const back = await of(id);
    expect(back.component).toMatchObject({ onHand: 40, u: 3 });
    expect(back.movements[0]).toMatchObject({ kind: "reversed", quantity: -15, reversible: false });
    expect((await reverse()).status).toBe(409);
    expect(
      (await server.send("POST", `/api/entries/${back.movements[0]!.entry}/reverse`, { requestKey: randomUUID() }))
        .status,
    ).toBe(422);
    await done(id, { kind: "used", quantity: 40 });
    expect(
      (
        await server.send<Refused>("POST", `/api/entries/${(await of(id)).movements.at(-1)!.entry}/reverse`, {
          requestKey: randomUUID(),
        })
      ).body.detail,
    ).toContain("holds only 0");
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });

  test("a reversal gives back what the entry was worth, whatever the average has become meanwhile", async () => {
    const id = await add();
    await done(id, { kind: "received", quantity: 100, cost: "5.00" });
    await done(id, { kind: "received", quantity: 50, cost: "6.00" });
    // 11.00 for 150: thirty of them are worth 2.20.
    const used = (await done(id, { kind: "used", quantity: 30 })).movements[0]!;
    expect(Number(used.value)).toBeCloseTo(-2.2, 8);
    await done(id, { kind: "received", quantity: 20, cost: "40.00" });
    const reversal = { requestKey: randomUUID(), person: PERSON };
    expect((await server.send("POST", `/api/entries/${used.entry}/reverse`, reversal)).status).toBe(201);
    const { component, movements } = await of(id);
    expect(movements[0]).toMatchObject({ kind: "reversed", quantity: 30 });
    expect(Number(movements[0]!.value)).toBeCloseTo(2.2, 8);
    // 5.00, 6.00 and 40.00 were paid for 170.
    expect(component.onHand).toBe(170);
    expect(Number(component.averageCost)).toBeCloseTo(51 / 170, 8);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });

  test("wire is pieces: a cut leaves an offcut, and pieces are set aside by length, not by sum", async () => {
    const wire = await add({
      name: "Beading wire",
      kind: "stringing",
      form: "beading wire",
      baseUnit: "mm",
      offers: [],
    });
    await done(wire, { kind: "received", quantity: 2, stretchMm: 1000, cost: "4.00" });
    const cut = await done(wire, { kind: "cut", cutMm: 300, count: 2, stretchMm: 1000 });
    expect(cut.balances.map((b) => [b.stretchMm, b.quantity])).toEqual([
      [1000, 1],
      [400, 1],
    ]);
    expect(cut.component).toMatchObject({ onHand: 1400, averageCost: "0.00200000" });
    const aside = (quantity: number, cutMm: number) =>
      server.send<ComponentDetail & Refused>("POST", `/api/components/${wire}/aside`, {
        requestKey: randomUUID(),
        purpose: "Apiary",
        quantity,
        cutMm,
      });
    expect((await aside(3, 450)).body.errors![0]!.detail).toContain("not long enough");
    const held = await aside(2, 450);
    expect(held).toMatchObject({ status: 201, body: { component: { spokenFor: 900 } } });
    expect((await aside(2, 100)).status).toBe(201);
    expect((await aside(1, 400)).status).toBe(422);
    const released = await server.send<ComponentDetail>(
      "DELETE",
      `/api/components/${wire}/aside/${held.body.setAside[0]!.id}`,
    );
    expect(released.body.component.spokenFor).toBe(200);
    expect((await write(wire, { kind: "counted", quantity: 5 })).body.errors![0]!.pointer).toBe("/stretchMm");
  });

  test("set aside is not free; what breaks then leaves it short", async () => {
    const id = await add();
    await done(id, { kind: "received", quantity: 10 });
    const aside = (quantity: number) =>
      server.send<ComponentDetail & Refused>("POST", `/api/components/${id}/aside`, {
        requestKey: randomUUID(),
        purpose: "Reveal",
        quantity,
      });
    expect((await aside(8)).status).toBe(201);
    expect((await aside(3)).body.errors![0]!.detail).toBe("Only 2 is free.");
    const broken = await done(id, { kind: "broken", quantity: 5 });
    expect(broken.component).toMatchObject({ onHand: 5, spokenFor: 8 });
  });

  test("made from other stock: recipe in, made part out, its cost what went into it", async () => {
    const [pin, charm, wire] = [
      await add({ offers: [] }),
      await add({ offers: [] }),
      await add({ baseUnit: "mm", kind: "stringing", offers: [] }),
    ];
    await done(pin, { kind: "received", quantity: 20, cost: "2.00" });
    await done(wire, { kind: "received", quantity: 1, stretchMm: 1000, cost: "5.00" });
    const made = await done(charm, {
      kind: "made",
      quantity: 4,
      minutes: 12,
      from: [
        { component: pin, quantity: 4 },
        { component: wire, quantity: 200 },
      ],
    });
    expect(made.component).toMatchObject({ onHand: 4, averageCost: "0.35000000" });
    expect((await of(wire)).balances).toMatchObject([{ stretchMm: 800, quantity: 1 }]);
    expect(
      (await write(charm, { kind: "made", quantity: 1, from: [{ component: pin, quantity: 99 }] })).body.errors![0]!
        .pointer,
    ).toBe("/from/0/quantity");
  });

  test("a list since an earlier one holds what changed, and an unchanged list is not sent again", async () => {
    const id = await add();
    const { body } = await server.send<ComponentList>("GET", "/api/components");
    await done(id, { kind: "received", quantity: 1 });
    const since = (await server.send<ComponentList>("GET", `/api/components?since=${body.asOf}`)).body;
    expect(since.components.map((c) => c.id)).toContain(id);
    expect(since.components.length).toBeLessThan(body.components.length);
    const first = await fetch(`${server.url}/api/components`);
    const again = await fetch(`${server.url}/api/components`, {
      headers: { "if-none-match": first.headers.get("etag")! },
    });
    expect(again.status).toBe(304);
    await done(id, { kind: "used", quantity: 1 });
    expect(
      (await fetch(`${server.url}/api/components`, { headers: { "if-none-match": first.headers.get("etag")! } }))
        .status,
    ).toBe(200);
  });
});

describe("orders", () => {
  test("received in parts, freight and duty shared by value, on the way until then", async () => {
    const [one, two] = [await add(), await add()];
    const [id, l1, l2] = [randomUUID(), randomUUID(), randomUUID()];
    const order = {
      supplier: SUPPLIER,
      number: "LG-1",
      placedOn: "2027-02-01",
      currency: "EUR",
      rate: "0.85",
      note: "",
      lines: [
        { id: l1, component: one, pack: "strand of 50", packs: 4, quantity: 200, price: "10.00", due: "2027-03-01" },
        { id: l2, component: two, pack: "strand of 50", packs: 2, quantity: 100, price: "30.00", due: null },
      ],
    };
    expect((await server.send("PUT", `/api/orders/${id}`, { version: 0, order })).status).toBe(201);
    expect((await of(one)).component.onTheWay).toBe(200);
    expect((await of(one)).due).toMatchObject([{ number: "LG-1", due: "2027-03-01", quantity: 200 }]);
    const received = await server.send<Order>("POST", `/api/orders/${id}/receive`, {
      requestKey: randomUUID(),
      lines: [
        { line: l1, quantity: 100 },
        { line: l2, quantity: 100 },
      ],
      freight: "5.00",
      duty: "2.00",
    });
    expect(received).toMatchObject({ status: 201, body: { received: { [l1]: 100, [l2]: 100 } } });
    // Goods 4.25 and 25.50, charges 5.95 shared 1 : 6 as 0.85 and 5.10.
    expect((await of(one)).component).toMatchObject({ onHand: 100, onTheWay: 100, averageCost: "0.05100000" });
    expect((await of(two)).component).toMatchObject({ onHand: 100, onTheWay: 0, averageCost: "0.30600000" });
    const late = await server.send("PUT", `/api/orders/${id}`, { version: 1, order });
    expect(late.status).toBe(409);
    expect(
      (
        await server.send<Refused>("PUT", `/api/orders/${id}`, {
          version: 2,
          order: { ...order, lines: [order.lines[1]] },
        })
      ).body.errors![0]!.detail,
    ).toContain("can't be taken out");
  });
});

describe("a stocktake", () => {
  test("carries along what moved since the jar was counted, and posts all or some", async () => {
    const [one, two] = [await add(), await add()];
    await done(one, { kind: "received", quantity: 100 });
    await done(two, { kind: "received", quantity: 50 });
    const id = randomUUID();
    await server.send("PUT", `/api/stocktakes/${id}`);
    const jars = (await server.send<ShelfJar[]>("GET", "/api/stocktakes/shelf")).body.filter((j) =>
      ([one, two] as string[]).includes(j.component),
    );
    expect(jars).toHaveLength(2);
    const line = (component: string, how: string, counted: number, u = 0) =>
      server.send<Stocktake>("PUT", `/api/stocktakes/${id}/line`, {
        component,
        place: A,
        lot: "",
        how,
        counted,
        u,
        entered: "",
      });
    await line(one, "weighed", 96, 1.5);
    await line(two, "skipped", 0);
    await done(one, { kind: "used", quantity: 10 });
    const post = (components: string[]) =>
      server.send<Stocktake & Refused>("POST", `/api/stocktakes/${id}/post`, {
        requestKey: randomUUID(),
        lines: components.map((component) => ({ component, place: A, lot: "" })),
      });
    expect((await post([two])).status).toBe(422);
    expect((await post([one])).body.lines.find((l) => l.component === one)).toMatchObject({
      book: 100,
      counted: 96,
      posted: true,
    });
    expect((await of(one)).component).toMatchObject({ onHand: 86, u: 1.5 });
    expect((await post([one])).status).toBe(422);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });
});

describe("tables in", () => {
  const send = (kind: string, rows: object[]) =>
    server.send<{ new: number; changed: number; same: number } & Refused>("POST", `/api/imports/${kind}`, {
      requestKey: randomUUID(),
      name: "table.csv",
      rows,
    });
  test("all or nothing: two bad rows refuse the table, each with its place", async () => {
    const rows = [
      { code: "T-1", name: "Seed", form: "seed", size: "11/0" },
      { code: "T-2", name: "Odd", kind: "gadget" },
      { code: "T-1", name: "Again" },
    ];
    const refused = await send("components", rows);
    expect(refused.status).toBe(422);
    expect(refused.body.errors!.map((e) => e.pointer)).toEqual(["/rows/1", "/rows/2"]);
    expect((await server.send("GET", "/api/components/by-code/T-1")).status).toBe(404);
    expect((await send("components", [rows[0]!])).body).toEqual({ new: 1, changed: 0, same: 0 });
    const seed = (await server.send<ComponentDetail>("GET", "/api/components/by-code/t-1")).body.component;
    expect(seed).toMatchObject({ kind: "bead", baseUnit: "g", perGram: 115, alongMm: 1.41 });
    expect((await send("components", [rows[0]!, { code: "T-2", name: "Tube", "hole mm": "0,9" }])).body).toEqual({
      new: 1,
      changed: 0,
      same: 1,
    });
    expect(
      (
        await send("offers", [
          {
            code: "T-2",
            pack: "spool",
            "pack holds": "30",
            "pack unit": "ft",
            price: "£4.20",
            supplier: "lowfold glass merchants",
          },
        ])
      ).body.new,
    ).toBe(1);
    expect(
      (
        await send("deliveries", [
          { code: "T-2", quantity: "1,200", cost: "3.00", place: "B" },
          { code: "T-1", quantity: "8.5" },
        ])
      ).body.new,
    ).toBe(2);
    expect((await send("counts", [{ code: "T-2", quantity: "1190", "plus minus": "22", place: "B" }])).body.new).toBe(
      1,
    );
    const tube = (await server.send<ComponentDetail>("GET", "/api/components/by-code/T-2")).body;
    expect(tube.component).toMatchObject({ onHand: 1190, offers: [{ amount: 9144, unit: "mm", price: "4.20" }] });
    expect(tube.balances[0]!.u).toBeCloseTo(22 / 1.96, 6);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });
  test("what goes out comes in again as the same, read by another library on the way", async () => {
    const { components } = (await server.send<ComponentList>("GET", "/api/components")).body;
    const rooms = (await server.send<Rooms>("GET", "/api/rooms")).body;
    for (const kind of ["components", "offers"] as const) {
      const csv = writeTable(kind, tableOf(kind, { components, ...rooms, jars: [], orders: [], sales: [] }));
      const rows: Record<string, string>[] = parse(csv, { columns: true, record_delimiter: "\r\n" });
      const answer = await send(kind, rows);
      expect(answer.body).toEqual({ new: 0, changed: 0, same: rows.length });
    }
  });
});

describe("labels", () => {
  test("the QR code, read by another library, holds the public address and the jar's code", async () => {
    const address = jarAddress("http://192.168.1.20:4321/", "S11/CELA Ü");
    expect(address).toBe("http://192.168.1.20:4321/j/S11%2FCELA%20%C3%9C");
    const modules = qrModules(address);
    expect(await readCode(modules)).toBe(address);
    expect(modules.length % 4).toBe(1);
    expect(modules[0]!.slice(0, 7).every(Boolean) && modules[6]!.slice(0, 7).every(Boolean)).toBe(true);
  });
  test("a sheet read back: every name and code, and a new page when the sheet is full", async () => {
    const { getDocument } = await import("pdfjs-dist/legacy/build/pdf.mjs");
    const ids = await Promise.all(
      Array.from({ length: 25 }, (_, i) => add({ name: `Jar number ${i}`, code: `LBL-${i}` })),
    );
    const { components } = (await server.send<ComponentList>("GET", "/api/components")).body;
    const list = ids.map((id) => components.find((c) => c.id === id)!);
    const pdf = await labelSheet(list, "http://jars.example", "a4", 0);
    const doc = await getDocument({ data: new Uint8Array(pdf), useSystemFonts: false, verbosity: 0 }).promise;
    expect(doc.numPages).toBe(2);
    const text = (
      await Promise.all(
        [1, 2].map(async (n) =>
          (await (await doc.getPage(n)).getTextContent()).items.map((i) => ("str" in i ? i.str : "")).join("|"),
        ),
      )
    ).join("|");
    for (const c of list) expect(text).toContain(c.code);
    expect(text).toContain("Jar number 24");
    const answer = await fetch(`${server.url}/api/labels`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ components: ids.slice(0, 2), paper: "letter" }),
    });
    expect(answer.headers.get("content-type")).toBe("application/pdf");
  });
});

test("ten clients, two servers, keys sent twice, connections cut: books agree, every request counts once", async () => {
  const second = await startServer({ beside: server });
  const things = await Promise.all([0, 1, 2].map(() => add()));
  const acknowledged = new Set<string>();
  let [turn, cut] = [0, 0];
  const client = async (c: number) => {
    for (let i = 0; i < 25; i++) {
      const n = turn++;
      const entry = [
        { kind: "received", quantity: 1 + (n % 40) },
        { kind: "used", quantity: 1 + (n % 17) },
        { kind: "counted", quantity: n % 60 },
        { kind: "broken", quantity: 2, countFirst: true },
      ][n % 4]!;
      const body = { requestKey: randomUUID(), ...entry };
      for (let again = 0; again < 2 || !acknowledged.has(body.requestKey); again++) {
        const to = (c + again) % 2 === 0 ? server : second;
        const { status } = await to
          .send("POST", `/api/components/${things[n % 3]}/stock`, body)
          .catch(() => ({ status: 0 }));
        if (status === 201) acknowledged.add(body.requestKey);
        else if (status === 422) break;
      }
      // As a killed server looks to the database: its sessions end where they are.
      if (n % 12 === 5) {
        await server.db
          .query(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid " +
              "<> pg_backend_pid() and state <> 'idle' limit 2",
          )
          .catch(() => {});
        cut++;
      }
    }
  };
  await Promise.all(Array.from({ length: 10 }, (_, c) => client(c)));
  await second.stop();
  expect(cut).toBeGreaterThan(10);
  expect(acknowledged.size).toBeGreaterThan(100);
  expect(await balancesThatDiffer(server.db)).toEqual([]);
  const { rows } = await server.db.query<{ key: string }>(
    `select e.request_key as key from entries e where exists (select from movements m
      where m.entry_id = e.id and m.component_id = any($1))`,
    [things],
  );
  expect(rows.map((r) => r.key).sort()).toEqual([...acknowledged].sort());
  expect((await server.db.query("select from balances where quantity < 0")).rowCount).toBe(0);
}, 60_000);

test("a list of many changes comes in parts that together hold each once", async () => {
  const { asOf } = (await server.send<ComponentList>("GET", "/api/components")).body;
  const rows = Array.from({ length: 1203 }, (_, i) => ({ code: `MANY-${i}`, name: `Many ${i}` }));
  expect(
    (await server.send("POST", "/api/imports/components", { requestKey: randomUUID(), name: "many.csv", rows })).status,
  ).toBe(201);
  const found: string[] = [];
  let next: string | null | undefined = "";
  while (next !== null) {
    const { body }: { body: ComponentList } = await server.send<ComponentList>(
      "GET",
      `/api/components?since=${asOf}${next ? `&after=${next}` : ""}`,
    );
    found.push(...body.components.map((c) => c.code));
    next = body.next ?? null;
  }
  expect(new Set(found).size).toBe(found.length);
  expect(found.filter((c) => c.startsWith("MANY-"))).toHaveLength(1203);
});
