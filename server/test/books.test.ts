import { randomUUID } from "node:crypto";
import { EMPTY_BOX } from "@jar-count/core/box";
import type { ComponentDetail, ErrorBody, Order, Rooms, Stocktake, Workshop } from "@jar-count/core/contract";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { inTransaction, NotKnown } from "../src/store/database.ts";
import { putRooms, startServer, type TestServer } from "./harness.ts";

/** What no program may do to the books, and what several at once can't do to them either. */
let server: TestServer;
const [A, B, SUPPLIER] = [randomUUID(), randomUUID(), randomUUID()];
beforeAll(async () => {
  server = await startServer();
  const place = (id: string, code: string) => ({ id, code, name: `Place ${code}`, held: false });
  const rooms = {
    people: [],
    suppliers: [{ id: SUPPLIER, name: "Lowfold Glass Merchants", leadDays: 12 }],
    places: [place(A, "A"), place(B, "B")],
  };
  expect((await putRooms(server, rooms)).status).toBe(200);
});
afterAll(() => server.stop());

const input = (over: object = {}) => ({
  code: `C-${randomUUID().slice(0, 8)}`,
  name: "6 mm round",
  kind: "bead",
  colour: "#d9982f",
  finish: "clear",
  baseUnit: "piece",
  ...over,
});
async function component(over: object = {}): Promise<string> {
  const id = randomUUID();
  const { status } = await server.send("PUT", `/api/components/${id}`, { version: 0, component: input(over) });
  expect(status).toBe(201);
  return id;
}
const move = (id: string, entry: object) =>
  server.send<ComponentDetail & ErrorBody>("POST", `/api/components/${id}/stock`, {
    requestKey: randomUUID(),
    kind: "received",
    place: A,
    ...entry,
  });
const jar = async (id: string) => (await server.send<ComponentDetail>("GET", `/api/components/${id}`)).body;
const right = async () => expect(await balancesThatDiffer(server.owner)).toEqual([]);
const statuses = (answers: { status: number }[]) => answers.map((a) => a.status).sort();

describe("balances follow from movements", () => {
  test("the server's role can't set a balance, a total, what came, nor switch off what keeps them", async () => {
    await move(await component(), { quantity: 10 });
    for (const sql of [
      "update balances set quantity = 99",
      "insert into balances select gen_random_uuid(), gen_random_uuid(), '', 0, 5, 0",
      "update component_totals set on_hand = 99",
      "update order_lines set received = 1",
      "update movements set quantity = 1",
      "delete from entries",
      "truncate movements",
      "alter table movements disable trigger all",
      "set session_replication_role = replica",
      "drop trigger movements_books on movements",
      "create table mine (n int)",
    ])
      await expect(server.db.query(sql), sql).rejects.toThrow(/permission denied|must be owner/);
    const { rows } = await server.db.query<{ owned: number; super: boolean }>(
      `select (select count(*)::int from pg_class where pg_has_role(current_user, relowner, 'usage')) as owned,
         (select rolsuper from pg_roles where rolname = current_user) as super`,
    );
    expect(rows).toEqual([{ owned: 0, super: false }]);
    await right();
  });

  test("a movement that says another balance than there is after it is refused, whoever writes it", async () => {
    const id = await component();
    await move(id, { quantity: 10 });
    const write = (balance: number) =>
      inTransaction(server.owner, async (session) => {
        const { rows } = await session.query<{ id: string }>(
          `insert into entries (kind, request_key) values ('received', gen_random_uuid()) returning id`,
        );
        await session.query(
          `insert into movements (entry_id, component_id, place_id, quantity, balance) values ($1, $2, $3, 5, $4)`,
          [rows[0]!.id, id, A, balance],
        );
      });
    await expect(write(5)).rejects.toThrow(/another balance/);
    await write(15);
    expect((await jar(id)).component.onHand).toBe(15);
    await right();
  });

  test("an id in capitals is the same place, the same component, the same request", async () => {
    const id = await component();
    await move(id, { quantity: 100 });
    const entry = { quantity: 5, place: A.toUpperCase(), requestKey: randomUUID() };
    expect((await move(id.toUpperCase(), entry)).status).toBe(201);
    expect((await move(id, { ...entry, requestKey: entry.requestKey.toUpperCase() })).status).toBe(201);
    const { balances, component: c } = await jar(id);
    expect(balances).toMatchObject([{ place: A, quantity: 105 }]);
    expect(c.onHand).toBe(105);
    const box = randomUUID();
    const boxed = { month: "2027-04", theme: "Apiary", lines: [], seconds: [], variants: [], bindings: [], picks: [] };
    const [role, way] = [randomUUID().toUpperCase(), randomUUID().toUpperCase()];
    await server.send("PUT", `/api/boxes/${box}`, {
      version: 0,
      box: {
        ...boxed,
        roles: [{ id: role, name: "round", kind: "bead", follows: "first" }],
        colourways: [{ id: way, name: "Honey" }],
        picks: [{ boxRole: role, first: way, second: null, component: id.toUpperCase() }],
      },
    });
    const drop = [`${role} ${way} `];
    expect((await server.send("PATCH", `/api/boxes/${box}`, { version: 1, changes: { picks: { drop } } })).status).toBe(
      200,
    );
    expect((await server.send<{ box: { picks: [] } }>("GET", `/api/boxes/${box}`)).body.box.picks).toEqual([]);
    await right();
  });

  test("what takes the last of something takes all of its worth, and sums of money have no end", async () => {
    const id = await component();
    await move(id, { quantity: 3, cost: "10" });
    const received = (await jar(id)).movements[0]!.entry;
    await move(id, { quantity: 1, cost: "999999999.9999" });
    await move(id, { kind: "used", quantity: 1 });
    await server.send("POST", `/api/entries/${received}/reverse`, { requestKey: randomUUID() });
    expect((await jar(id)).component.onHand).toBe(0);
    const { rows } = await server.owner.query(`select value::float8 from component_totals where component_id = $1`, [
      id,
    ]);
    expect(rows).toEqual([{ value: 0 }]);
    // What a thousandth cost once is what a thousand million are worth: 18 digits before the point.
    const dear = await component({ baseUnit: "g" });
    await move(dear, { quantity: 0.001, cost: "999999999" });
    expect((await move(dear, { quantity: 1e9 })).status).toBe(201);
    await right();
  });

  test("a price that makes one of something cost more than a million is refused where it stands", async () => {
    const offers = [{ pack: "a slip", amount: 1e-9, unit: "piece", price: "999999999" }];
    const answer = await server.send<ErrorBody>("PUT", `/api/components/${randomUUID()}`, {
      version: 0,
      component: input({ baseUnit: "g", offers }),
    });
    expect(answer.status).toBe(422);
    expect(answer.body.errors!.map((e) => e.pointer)).toContain("/component/offers/0/amount");
  });

  test("lengths beyond what is counted exactly are refused in their place, and nothing is written", async () => {
    const spool = await component({ kind: "stringing", baseUnit: "mm" });
    const answer = await move(spool, { quantity: 1e9, stretchMm: 1e8 });
    expect(answer.body.errors).toEqual([{ pointer: "/quantity", detail: expect.stringMatching(/counted exactly/) }]);
    expect((await jar(spool)).component.onHand).toBe(0);
  });
});

describe("several at once", () => {
  test("the same stocktake posted four times takes its difference once", async () => {
    for (let round = 0; round < 5; round++) {
      const id = await component();
      await move(id, { quantity: 100 });
      const walk = randomUUID();
      await server.send("PUT", `/api/stocktakes/${walk}`);
      const line = { component: id, place: A, lot: "", how: "counted", counted: 90, u: 0 };
      await server.send<Stocktake>("PUT", `/api/stocktakes/${walk}/line`, line);
      const answers = await Promise.all(
        Array.from({ length: 4 }, () =>
          server.send("POST", `/api/stocktakes/${walk}/post`, {
            requestKey: randomUUID(),
            lines: [{ component: id, place: A, lot: "" }],
          }),
        ),
      );
      expect(statuses(answers)).toEqual([201, 422, 422, 422]);
      expect((await jar(id)).component.onHand).toBe(90);
    }
    await right();
  });

  test("a component edited while its stock moves gets an answer each time, and none is a fault", async () => {
    const id = await component();
    const edit = async () => {
      const { version, ...c } = (await jar(id)).component;
      return server.send("PUT", `/api/components/${id}`, { version, component: input({ code: c.code, notes: "x" }) });
    };
    const answers = await Promise.all(
      Array.from({ length: 60 }, (_, i) => (i % 3 === 0 ? edit() : move(id, { quantity: 1 }))),
    );
    expect(answers.filter((a) => a.status >= 500)).toEqual([]);
    expect((await jar(id)).component.onHand).toBe(40);
    await right();
  });

  test("the unit never changes beside the first receipt: one of the two is refused", async () => {
    for (let round = 0; round < 20; round++) {
      const id = await component();
      const { code } = (await jar(id)).component;
      const [unit, receipt] = await Promise.all([
        server.send("PUT", `/api/components/${id}`, { version: 1, component: input({ code, baseUnit: "g" }) }),
        move(id, { quantity: 5 }),
      ]);
      const after = (await jar(id)).component;
      if (unit.status === 200) expect(after.baseUnit).toBe("g");
      else expect([unit.status, receipt.status, after.baseUnit]).toEqual([422, 201, "piece"]);
      // A unit that changed first is the one that the receipt is in: whole numbers hold in either.
      expect(after.onHand).toBe(receipt.status === 201 ? 5 : 0);
    }
    const moved = await component();
    await move(moved, { quantity: 1 });
    await expect(server.db.query(`update components set base_unit = 'g' where id = $1`, [moved])).rejects.toThrow(
      /written in piece/,
    );
  });

  test("two who make the same new record: one made it, the other is told who was first", async () => {
    const id = randomUUID();
    const order = (number: string) => ({
      version: 0,
      order: {
        supplier: SUPPLIER,
        number,
        placedOn: "2027-02-01",
        currency: "GBP",
        rate: "1",
        lines: [{ id: randomUUID(), component: bead, pack: "strand", packs: 1, quantity: 50, price: "1", due: null }],
      },
    });
    const bead = await component();
    const box = { ...EMPTY_BOX, month: "2027-05" };
    const design = { format: "jar-count/design", version: 1, name: "D", key: [], parts: [] };
    const bodies: [string, () => object][] = [
      [`/api/components/${id}`, () => ({ version: 0, component: input() })],
      [`/api/orders/${id}`, () => order(randomUUID())],
      [`/api/boxes/${id}`, () => ({ version: 0, box: { ...box, theme: randomUUID() } })],
      [`/api/designs/${id}`, () => ({ revision: 0, design: { ...design, name: randomUUID() } })],
    ];
    for (const [path, body] of bodies) {
      const answers = await Promise.all([1, 2, 3].map(() => server.send("PUT", path, body())));
      expect(statuses(answers), path).toEqual([201, 409, 409]);
    }
  });

  test("what two transactions lock in opposite orders is done again instead of failing", async () => {
    const [one, two] = [await component(), await component()];
    let met = 0;
    const both = new Promise<void>((go) => {
      const check = () => (met === 2 ? go() : setImmediate(check));
      check();
    });
    let runs = 0;
    const lock = (first: string, second: string) => {
      let here = false;
      return inTransaction(server.db, async (session) => {
        runs++;
        await session.query(`select from components where id = $1 for update`, [first]);
        if (!here) {
          here = true;
          met++;
        }
        await both;
        await session.query(`select from components where id = $1 for update`, [second]);
        return "done";
      });
    };
    expect(await Promise.all([lock(one, two), lock(two, one)])).toEqual(["done", "done"]);
    expect(runs).toBeGreaterThan(2);
  });
});

describe("orders", () => {
  const order = async (component: string): Promise<Order> =>
    (
      await server.send<Order>("PUT", `/api/orders/${randomUUID()}`, {
        version: 0,
        order: {
          supplier: SUPPLIER,
          number: `LG-${randomUUID().slice(0, 4)}`,
          placedOn: "2027-02-01",
          currency: "GBP",
          rate: "1",
          lines: [{ id: randomUUID(), component, pack: "strand", packs: 2, quantity: 100, price: "5.60", due: null }],
        },
      })
    ).body;
  const receive = (of: Order, lines: object[]) =>
    server.send<Order>("POST", `/api/orders/${of.id}/receive`, { requestKey: randomUUID(), place: A, lines });

  test("a line that came in two lots is received twice over; a delivery taken back opens the order again", async () => {
    const id = await component();
    const made = await order(id);
    const line = made.lines[0]!.id;
    const came = await receive(made, [
      { line, quantity: 60, lot: "7" },
      { line, quantity: 40, lot: "8" },
    ]);
    expect(came.body.received).toEqual({ [line]: 100 });
    expect((await jar(id)).component).toMatchObject({ onHand: 100, onTheWay: 0 });
    const entry = (await jar(id)).movements[0]!.entry;
    expect((await server.send("POST", `/api/entries/${entry}/reverse`, { requestKey: randomUUID() })).status).toBe(201);
    const after = (await server.send<Order>("GET", `/api/orders/${made.id}`)).body;
    expect(after.received).toEqual({ [line]: 0 });
    expect(after.version).toBe(3);
    expect(await jar(id)).toMatchObject({ component: { onHand: 0, onTheWay: 100 }, due: [{ quantity: 100 }] });
    // Its history ties the line to its component, though nothing of it is here now.
    const { id: _id, version, received: _received, spoken: _spoken, ...body } = after;
    const other = { ...body, lines: [{ ...body.lines[0]!, component: await component() }] };
    const refused = await server.send<ErrorBody>("PUT", `/api/orders/${made.id}`, { version, order: other });
    expect(refused.body.errors).toMatchObject([{ pointer: "/order/lines" }]);
    await right();
  });

  test("wire comes in pieces and is counted on the order in millimetres", async () => {
    const id = await component({ kind: "stringing", baseUnit: "mm" });
    const made = await order(id);
    const came = await receive(made, [{ line: made.lines[0]!.id, quantity: 100 }]);
    expect(came.body.received).toEqual({ [made.lines[0]!.id]: 100 });
    await right();
  });

  test("deliveries, their reversal and edits of the order at once leave what the ledger gives", async () => {
    const id = await component();
    const made = await order(id);
    const line = made.lines[0]!.id;
    const answers = await Promise.all(
      Array.from({ length: 12 }, async (_, i) => {
        if (i % 3 === 0) {
          const {
            id: _id,
            version,
            received: _received,
            spoken: _spoken,
            ...body
          } = (await server.send<Order>("GET", `/api/orders/${made.id}`)).body;
          return server.send("PUT", `/api/orders/${made.id}`, { version, order: { ...body, note: `${i}` } });
        }
        const came = await receive(made, [{ line, quantity: 2 }]);
        if (i % 3 === 1) return came;
        const entry = (await jar(id)).movements.find((m) => m.reversible)?.entry;
        return entry ? server.send("POST", `/api/entries/${entry}/reverse`, { requestKey: randomUUID() }) : came;
      }),
    );
    expect(answers.filter((a) => a.status >= 500)).toEqual([]);
    const { rows } = await server.owner.query(
      `select sum(quantity)::float8 as sum from movements where order_line_id = $1`,
      [line],
    );
    const now = (await server.send<Order>("GET", `/api/orders/${made.id}`)).body;
    expect(now.received[line]).toBe((rows[0] as { sum: number }).sum);
    await right();
  });
});

describe("records that two people edit", () => {
  test("people, suppliers and places, and the workshop itself: who saved second is told what is there", async () => {
    const { version, ...rooms } = (await server.send<Rooms>("GET", "/api/rooms")).body;
    const add = (name: string) => ({ ...rooms, people: [...rooms.people, { id: randomUUID(), name }] });
    expect((await server.send("PUT", "/api/rooms", { version, rooms: add("Wren") })).status).toBe(200);
    const second = await server.send<ErrorBody>("PUT", "/api/rooms", { version, rooms: add("Ines") });
    expect(second.status).toBe(409);
    expect(second.body.current).toMatchObject({ version: version + 1, people: [{ name: "Wren" }] });

    const shop = (await server.send<Workshop>("GET", "/api/workshop")).body;
    const name = (to: string) => ({
      version: shop.version,
      workshop: { name: to, currency: shop.currency, publicAddress: "" },
    });
    expect((await server.send("PUT", "/api/workshop", name("One"))).status).toBe(200);
    const late = await server.send<ErrorBody>("PUT", "/api/workshop", name("Two"));
    expect(late.body).toMatchObject({ code: "stale", current: { name: "One", version: shop.version + 1 } });
  });

  test("a trial written down by two at once, and one whose answer was lost", async () => {
    const [design, trial] = [randomUUID(), randomUUID()];
    await server.send("PUT", `/api/designs/${design}`, {
      revision: 0,
      design: { format: "jar-count/design", version: 1, name: "D", key: [], parts: [] },
    });
    const body = { revision: 1, size: null, option: null, madeOn: "2027-02-10", used: {}, verdict: "good" };
    const put = (over: object) => server.send("PUT", `/api/designs/${design}/trials/${trial}`, { ...body, ...over });
    expect(statuses(await Promise.all([put({ version: 0, note: "a" }), put({ version: 0, note: "b" })]))).toEqual([
      200, 409,
    ]);
    const key = { version: 1, requestKey: randomUUID(), note: "again" };
    expect(statuses([await put(key), await put(key)])).toEqual([200, 200]);
    expect((await put({ version: 1, note: "late" })).status).toBe(409);
  });

  test("a box taken out and made again under its id is the new one, from held bytes too", async () => {
    const id = randomUUID();
    const box = { ...EMPTY_BOX, month: "2027-06" };
    const themes = async () => [
      (await server.send<{ box: { theme: string } }>("GET", `/api/boxes/${id}`)).body.box.theme,
      (await server.send<{ id: string; theme: string }[]>("GET", "/api/boxes")).body.find((b) => b.id === id)!.theme,
    ];
    await server.send("PUT", `/api/boxes/${id}`, { version: 0, box: { ...box, theme: "First" } });
    expect(await themes()).toEqual(["First", "First"]);
    await server.send("DELETE", `/api/boxes/${id}?version=1`);
    await server.send("PUT", `/api/boxes/${id}`, { version: 0, box: { ...box, theme: "Second" } });
    expect(await themes()).toEqual(["Second", "Second"]);
  });
});

test("a transaction in which something failed is never reported as saved, though nobody looked", async () => {
  const key = randomUUID();
  const write = inTransaction(server.owner, async (session) => {
    await session.query(`insert into requests (key, body_hash, answer) values ($1, '', '{}')`, [key]);
    await session.query("select 1 / 0").catch(() => {});
    return "saved";
  });
  await expect(write).rejects.toThrow();
  expect((await server.owner.query(`select from requests where key = $1`, [key])).rowCount).toBe(0);
});

describe("a connection that breaks while a write is committed", () => {
  /** Runs `cut` instead of the answer to a commit, before or after the database has it. */
  const cutting = (before: boolean, reachable: boolean) => {
    const end = () => Promise.reject(new Error("Connection terminated unexpectedly"));
    const real = server.owner;
    return {
      connect: async () => {
        const session = await real.connect();
        const query = session.query.bind(session) as (...args: unknown[]) => Promise<unknown>;
        return new Proxy(session, {
          get(target, name) {
            if (name !== "query") return Reflect.get(target, name) as unknown;
            return async (...args: unknown[]) => {
              if (args[0] !== "commit") return query(...args);
              await query(before ? "rollback" : "commit");
              return end();
            };
          },
        });
      },
      query: (...args: unknown[]) =>
        reachable ? (real.query as unknown as (...a: unknown[]) => unknown)(...args) : end(),
    } as unknown as TestServer["owner"];
  };
  const write = (db: TestServer["owner"], key: string) =>
    inTransaction(db, async (session) => {
      await session.query(`insert into requests (key, body_hash, answer) values ($1, '', '{}')`, [key]);
      return "saved";
    });
  const isThere = async (key: string) =>
    (await server.owner.query(`select from requests where key = $1`, [key])).rowCount === 1;

  test("is found out: saved is answered as saved, not saved as not saved", async () => {
    const [saved, lost] = [randomUUID(), randomUUID()];
    expect(await write(cutting(false, true), saved)).toBe("saved");
    expect(await isThere(saved)).toBe(true);
    await expect(write(cutting(true, true), lost)).rejects.toThrow(/terminated/);
    expect(await isThere(lost)).toBe(false);
  });
  test("and where nobody can find out, that is what is said", async () => {
    await expect(write(cutting(false, false), randomUUID())).rejects.toThrow(NotKnown);
  });
});
