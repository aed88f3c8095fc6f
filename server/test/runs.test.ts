import { randomUUID } from "node:crypto";
import type { ErrorBody } from "@jar-count/core/contract";
import { contentsOf, contentsText, sayHowMuch } from "@jar-count/core/run";
import { afterAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { startServer } from "./harness.ts";
import { openShop } from "./shop.ts";
import { later } from "../../core/test/demoDay.ts";

const shop = await openShop();
const { server, SUPPLIER, A, component, stock, jar, box, plan, commit, takeBack, bill, change, order, receive, right } =
  shop;
afterAll(() => shop.stop());

describe("committing", () => {
  test("freezes the bill and speaks for what it needs; taken back, every number is as it was", async () => {
    const id = await component();
    await stock(id, "received", 500);
    const before = (await jar(id)).component;
    const may = await box(id, 13, 20);
    expect(await plan(may)).toMatchObject({
      state: "planned",
      covered: { stock: 1, orders: 0 },
      lacking: [],
      open: [],
    });
    const done = await commit(may);
    expect(done).toMatchObject({ status: 201, body: { state: "committed", bill: { no: 1 }, lacking: [] } });
    expect(await jar(id)).toMatchObject({
      component: { onHand: 500, spokenFor: 260 },
      setAside: [],
      spokenBy: [{ box: may, order: null, quantity: 260 }],
    });
    await right();
    // Stock that it speaks for can't be set aside by hand, and it is not taken out by the way.
    const aside = await server.send<ErrorBody>("POST", `/api/components/${id}/aside`, {
      requestKey: randomUUID(),
      purpose: "a gift",
      quantity: 241,
    });
    expect(aside.body.code).toBe("not-free");
    const { version } = (await server.call("readBox", { params: { id: may } })).box;
    const gone = await server.send<ErrorBody>("DELETE", `/api/boxes/${may}?version=${version}`);
    expect(gone).toMatchObject({ status: 409, body: { code: "is-committed" } });

    expect(await takeBack(may)).toMatchObject({ status: 201, body: { state: "planned", bill: null } });
    expect((await jar(id)).component).toEqual(before);
    expect((await takeBack(may)).body.code).toBe("not-committed");
    await right();
  });

  test("June needs 300, but May takes 260 of the 500; moved before May, it has them", async () => {
    const id = await component();
    await stock(id, "received", 500);
    const may = await box(id, 13, 20);
    const june = await box(id, 15, 20, { month: later("2030-06") });
    expect(await bill(may)).toMatchObject({ perBox: 13, spare: 0, rule: null, run: 260, left: 500, short: 0 });
    expect(await bill(june)).toEqual({
      component: id,
      perBox: 15,
      spare: 0,
      rule: null,
      run: 300,
      pieces: [],
      left: 240,
      short: 60,
      shortBecause: [{ box: may, quantity: 260 }],
    });
    const ahead = (await server.call("readAhead")).components.find((c) => c.component === id);
    expect(ahead).toEqual({
      component: id,
      onHand: 500,
      steps: [
        { on: later("2030-04-20"), kind: "box", id: may, quantity: -260, left: 240 },
        { on: later("2030-05-20"), kind: "box", id: june, quantity: -300, left: -60 },
      ],
      runsOutOn: later("2030-05-20"),
      short: 60,
    });
    await change(june, (b) => ({ ...b, packBy: later("2030-04-19") }));
    expect(await bill(june)).toMatchObject({ left: 500, short: 0, shortBecause: [] });
    expect(await bill(may)).toMatchObject({ left: 200, short: 60, shortBecause: [{ box: june, quantity: 300 }] });
  });

  test("from an order that comes in time; from none that comes late, or nobody knows when", async () => {
    const id = await component();
    const early = await order(id, 100, later("2030-04-20"));
    await order(id, 100, later("2030-04-21"));
    await order(id, 100, null);
    const may = await box(id, 15, 10);
    expect(await plan(may)).toMatchObject({
      fromOrders: [{ order: early.id, quantity: 100, due: later("2030-04-20"), late: false }],
      lacking: [{ component: id, quantity: 50 }],
    });
    const unknowing = await server.send<ErrorBody>("POST", `/api/boxes/${may}/commit`, {
      requestKey: randomUUID(),
      version: 1,
      lacking: [],
    });
    expect(unknowing).toMatchObject({ status: 409, body: { code: "stale", current: { lacking: [{ quantity: 50 }] } } });
    expect((await server.call("readRun", { params: { id: may } })).state).toBe("planned");
    expect(await commit(may)).toMatchObject({ status: 201, body: { lacking: [{ component: id, quantity: 50 }] } });
    // What is spoken for on an order takes nothing from the jar.
    expect((await jar(id)).component).toMatchObject({ onHand: 0, spokenFor: 0, onTheWay: 300 });
    await right();
  });

  test("something open in the box keeps it from being committed, and says what", async () => {
    const id = await component();
    const empty = await box(id, 1, 0);
    expect((await plan(empty)).open).toEqual([expect.stringContaining("no boxes yet")]);
    const refused = await commit(empty);
    expect(refused).toMatchObject({ status: 422, body: { code: "invalid" } });
    expect(refused.body.errors).toEqual([{ pointer: "/version", detail: expect.stringContaining("no boxes yet") }]);
  });

  test("two boxes that want the last strand at once: one gets it, the other is told what changed", async () => {
    for (let round = 0; round < 5; round++) {
      const id = await component();
      await stock(id, "received", 50);
      const [one, other] = [await box(id, 50, 1), await box(id, 50, 1)];
      const [p, q] = [await plan(one), await plan(other)];
      expect([p.lacking, q.lacking]).toEqual([[], []]);
      const answers = await Promise.all([commit(one, p), commit(other, q)]);
      expect(answers.map((a) => a.status).sort()).toEqual([201, 409]);
      const late = answers.find((a) => a.status === 409)!;
      expect(late.body).toMatchObject({ code: "stale", current: { lacking: [{ component: id, quantity: 50 }] } });
      expect((await jar(id)).component.spokenFor).toBe(50);
    }
    await right();
  });

  test("the same write sent twice happens once", async () => {
    const id = await component();
    await stock(id, "received", 50);
    const may = await box(id, 5, 2);
    const body = { requestKey: randomUUID(), version: 1, lacking: [] };
    const answers = await Promise.all([1, 2, 3].map(() => server.send("POST", `/api/boxes/${may}/commit`, body)));
    expect(answers.map((a) => a.status)).toEqual([201, 201, 201]);
    expect((await jar(id)).component.spokenFor).toBe(10);
    const { rows } = await server.db.query(
      `select count(*)::int as n from run_bills f join runs u on u.id = f.run_id where u.box_id = $1`,
      [may],
    );
    expect(rows).toEqual([{ n: 1 }]);
  });

  test("a change afterwards stays a plan until it is taken over; a frozen bill is never changed", async () => {
    const [id, other] = [await component(), await component()];
    await stock(id, "received", 500);
    await stock(other, "received", 5);
    const may = await box(id, 10, 10);
    await commit(may);
    await change(may, (b) => ({
      ...b,
      contents: [
        { ...b.contents[0]!, quantity: 12 },
        { id: randomUUID(), component: other, first: null, quantity: 1, pack: null },
      ],
    }));
    expect((await jar(id)).component.spokenFor).toBe(100);
    expect(await bill(may)).toMatchObject({ perBox: 10, run: 100 });
    const asked = await plan(may);
    expect(asked).toMatchObject({
      state: "committed",
      changes: [
        { component: id, before: 100, after: 120 },
        { component: other, before: 0, after: 10 },
      ],
      lacking: [{ component: other, quantity: 5 }],
    });
    expect(await commit(may)).toMatchObject({ status: 201, body: { bill: { no: 2 } } });
    expect((await jar(id)).component.spokenFor).toBe(120);
    expect((await jar(other)).component.spokenFor).toBe(5);
    // Nothing changed: the bill is the same, and what was short is covered as soon as it is there.
    await stock(other, "received", 10);
    expect(await commit(may)).toMatchObject({ status: 201, body: { bill: { no: 2 }, lacking: [] } });
    expect((await jar(other)).component.spokenFor).toBe(10);
    await expect(server.owner.query(`update run_bills set body = '{}'`)).rejects.toThrow(/never changed/);
    await expect(server.db.query(`update run_bills set no = 9`)).rejects.toThrow(/permission denied/);
    await right();
  });

  test("breakage that eats into what is spoken for makes the box packed last short, and says so", async () => {
    const id = await component();
    await stock(id, "received", 200);
    const april = await box(id, 10, 10, { month: later("2030-04") });
    const may = await box(id, 10, 10);
    await commit(may);
    await commit(april);
    await stock(id, "broken", 30);
    const lacking = async (box: string) => (await server.call("readRun", { params: { id: box } })).lacking;
    expect(await lacking(april)).toEqual([]);
    expect(await lacking(may)).toEqual([{ component: id, quantity: 30, late: null }]);
    expect(await bill(may)).toMatchObject({ left: 70, short: 30, shortBecause: [{ box: april, quantity: 100 }] });
    await right();
  });
});

describe("orders that boxes speak for", () => {
  test("what comes goes to the box packed first; the rest stays on the order", async () => {
    const id = await component();
    const coming = await order(id, 100, later("2030-03-01"));
    const may = await box(id, 6, 10);
    const april = await box(id, 3, 10, { month: later("2030-04") });
    await commit(may);
    await commit(april);
    const spoken = async () => {
      const { spokenBy } = await jar(id);
      return Object.fromEntries(
        spokenBy.map((s) => [`${s.box === may ? "May" : "April"} ${s.order ? "order" : "stock"}`, s.quantity]),
      );
    };
    expect(await spoken()).toEqual({ "April order": 30, "May order": 60 });
    await receive(coming, 50);
    expect(await spoken()).toEqual({ "April stock": 30, "May stock": 20, "May order": 40 });
    expect((await jar(id)).component).toMatchObject({ onHand: 50, spokenFor: 50, onTheWay: 50 });
    await receive(coming, 50);
    expect(await spoken()).toEqual({ "April stock": 30, "May stock": 60 });
    expect((await jar(id)).component).toMatchObject({ onHand: 100, spokenFor: 90, onTheWay: 0 });
    await right();
  });

  test("a line that is spoken for can't be taken out, shrunk or become another component", async () => {
    const [id, other] = [await component(), await component()];
    const coming = await order(id, 100, later("2030-03-01"));
    await commit(await box(id, 6, 10));
    const {
      id: _id,
      version,
      received: _received,
      spoken,
      ...body
    } = await server.call("readOrder", {
      params: { id: coming.id },
    });
    expect(spoken).toMatchObject([{ line: coming.lines[0]!.id, quantity: 60 }]);
    const save = (lines: object[]) =>
      server.send<ErrorBody>("PUT", `/api/orders/${coming.id}`, { version, order: { ...body, lines } });
    const line = body.lines[0]!;
    const another = { ...line, id: randomUUID() };
    expect((await save([{ ...line, quantity: 59 }])).body.errors).toEqual([
      { pointer: "/order/lines/0/quantity", detail: expect.stringContaining("speak for 60") },
    ]);
    expect((await save([{ ...line, component: other }])).status).toBe(422);
    expect((await save([another])).status).toBe(422);
    expect((await save([{ ...line, quantity: 60 }])).status).toBe(200);
    // The database holds to it, whatever the program does.
    await expect(server.db.query(`update order_lines set quantity = 10 where id = $1`, [line.id])).rejects.toThrow(
      /order_lines_spoken_for/,
    );
    await right();
  });

  test("an order that comes too late marks the box that it covers, and stays its own", async () => {
    const id = await component();
    const coming = await order(id, 100, later("2030-04-10"));
    const may = await box(id, 6, 10);
    expect((await commit(may)).body.lacking).toEqual([]);
    const { id: _id, version, received: _received, spoken: _spoken, ...body } = coming;
    await server.call("saveOrder", {
      params: { id: coming.id },
      body: { version, order: { ...body, lines: [{ ...body.lines[0]!, due: later("2030-05-02") }] } },
    });
    const run = await server.call("readRun", { params: { id: may } });
    expect(run.lacking).toEqual([
      { component: id, quantity: 60, late: { order: coming.id, due: later("2030-05-02") } },
    ]);
    expect(await plan(may)).toMatchObject({ lacking: [], fromOrders: [{ late: true, quantity: 60 }] });
    await right();
  });

  test("a delivery of spools: cuts find their place on what came, or the box goes short", async () => {
    const id = await component({ kind: "stringing", form: "beading wire", baseUnit: "mm" });
    const coming = await order(id, 3000, later("2030-03-01"), { packs: 3, pieceMm: 1000 });
    const may = await box(id, 400, 5);
    expect((await commit(may)).body.lacking).toEqual([]);
    // Two cuts of 400 find room on a piece of 1,000; three are left, and 2,000 are still to come.
    await receive(coming, 1000);
    expect((await jar(id)).spokenBy.map((s) => [s.order !== null, s.quantity])).toEqual([
      [false, 800],
      [true, 1200],
    ]);
    expect((await server.call("readRun", { params: { id: may } })).lacking).toEqual([]);
    await right();
  });

  test("a delivery in several parts is one: what is too short for the rest leaves the box short", async () => {
    const id = await component({ kind: "stringing", form: "beading wire", baseUnit: "mm" });
    const coming = await order(id, 10_000, later("2030-03-01"), { packs: 1 });
    const may = await box(id, 3300, 3);
    expect((await commit(may)).body.lacking).toEqual([]);
    // One cut of 3,300 fits on the piece of 5,000, none on 2,000; 3,000 are still to come, and that is too short.
    const part = (quantity: number) => ({ line: coming.lines[0]!.id, quantity, lot: String(quantity) });
    const came = await server.send("POST", `/api/orders/${coming.id}/receive`, {
      requestKey: randomUUID(),
      place: A,
      lines: [part(5000), part(2000)],
    });
    expect(came.status).toBe(201);
    expect((await jar(id)).spokenBy.map((s) => [s.order !== null, s.quantity])).toEqual([[false, 3300]]);
    expect((await server.call("readRun", { params: { id: may } })).lacking).toMatchObject([{ quantity: 6600 }]);
    await right();

    const beads = await component();
    const strands = await order(beads, 100, later("2030-03-01"));
    await commit(await box(beads, 9, 10));
    await server.send("POST", `/api/orders/${strands.id}/receive`, {
      requestKey: randomUUID(),
      place: A,
      lines: [50, 50].map((quantity) => ({ line: strands.lines[0]!.id, quantity, lot: "" })),
    });
    expect((await jar(beads)).spokenBy.map((s) => [s.order !== null, s.quantity])).toEqual([[false, 90]]);
    await right();
  });

  test("what is kept by length is spoken for only while all cuts find a piece together", async () => {
    const id = await component({ kind: "stringing", form: "beading wire", baseUnit: "mm" });
    await stock(id, "received", 3, { stretchMm: 500 });
    const may = await box(id, 400, 2);
    const june = await box(id, 300, 2, { month: later("2030-06") });
    await commit(may);
    expect((await plan(june)).lacking).toEqual([{ component: id, quantity: 300 }]);
    expect(await bill(june)).toMatchObject({ pieces: [{ mm: 300, count: 1 }], short: 300 });
    const aside = await server.send<ErrorBody>("POST", `/api/components/${id}/aside`, {
      requestKey: randomUUID(),
      purpose: "two more",
      quantity: 2,
      cutMm: 300,
    });
    expect(aside.status).toBe(422);
    await right();
  });
});

describe("lists and archives", () => {
  test("the contents sheet as PDF says what the bill says, on A4 and Letter", async () => {
    const demo = await startServer({ demo: true });
    try {
      const { getDocument } = await import("pdfjs-dist/legacy/build/pdf.mjs");
      const may = (await demo.call("listBoxes")).find((b) => b.theme === "Dye Garden")!;
      const frozen = await demo.call("readFrozenBill", { params: { id: may.id } });
      for (const [paper, width] of [
        ["a4", 595.28],
        ["letter", 612],
      ] as const) {
        const path = `/api/boxes/${may.id}/contents.pdf?paper=${paper}&unit=mm&spares=told`;
        const bytes = new Uint8Array(await (await fetch(`${demo.url}${path}`)).arrayBuffer());
        const pdf = await getDocument({ data: bytes, useSystemFonts: true }).promise;
        let text = "";
        for (let n = 1; n <= pdf.numPages; n++) {
          const page = await pdf.getPage(n);
          expect(page.view[2]).toBeCloseTo(width, 0);
          const { items } = await page.getTextContent();
          text += items
            .map((i) => ("str" in i ? i.str : ""))
            .join(" ")
            .replace(/\s+/g, " ");
        }
        for (const variant of frozen.variants) {
          const contents = contentsOf(frozen, variant);
          for (const { component, ...item } of contents.bags.flatMap((b) => b.items)) {
            expect(text).toContain(`${component.name} ${sayHowMuch({ component, ...item }, "mm", true)}`);
          }
          for (const card of contents.cards) expect(text).toContain(`Bead key: ${card.name}`);
        }
        expect(text).toContain("Small parts: not for children under 3.");
        expect(text).not.toContain("undefined");
      }
      const first = frozen.variants[1]!;
      const one = await fetch(`${demo.url}/api/boxes/${may.id}/contents.pdf?first=${first.first}`);
      expect(one.headers.get("content-type")).toContain("application/pdf");
      const none = await fetch(`${demo.url}/api/boxes/${may.id}/contents.pdf?first=${randomUUID()}`);
      expect(none.status).toBe(404);
      expect(contentsText(contentsOf(frozen, first), { unit: "mm", spares: true })).toContain("Dye Garden, Weld");
    } finally {
      await demo.stop();
    }
  });

  test("committed boxes come through an archive with what they speak for, to the byte", async () => {
    const demo = await startServer({ demo: true });
    const copy = await startServer();
    try {
      const zip = await (await fetch(`${demo.url}/api/archive`)).arrayBuffer();
      const put = await fetch(`${copy.url}/api/archive`, {
        method: "POST",
        headers: { "content-type": "application/zip" },
        body: zip,
      });
      expect(put.status).toBe(201);
      const again = await (await fetch(`${copy.url}/api/archive`)).arrayBuffer();
      expect(Buffer.from(again).equals(Buffer.from(zip))).toBe(true);
      for (const { id } of await demo.call("listBoxes")) {
        const { id: _run, ...there } = await copy.call("readRun", { params: { id } });
        expect(await demo.call("readRun", { params: { id } })).toMatchObject(there);
      }
      expect(await balancesThatDiffer(copy.owner)).toEqual([]);
    } finally {
      await demo.stop();
      await copy.stop();
    }
  });

  test("an offer keeps its id when its component is saved", async () => {
    const offer = { supplier: SUPPLIER, pack: "strand of 50", amount: 50, unit: "piece", price: "2.40" };
    const id = await component({ offers: [offer] });
    const { version, offers, ...rest } = (await jar(id)).component;
    const {
      onHand: _h,
      u: _u,
      spokenFor: _s,
      onTheWay: _w,
      averageCost: _a,
      lastCost: _l,
      moved: _m,
      id: _i,
      ...input
    } = rest;
    const saved = await server.call("saveComponent", {
      params: { id },
      body: {
        version,
        component: { ...input, offers: [{ ...offer, price: "3" } as never, { ...offers[0]!, price: "2.60" }] },
      },
    });
    expect(saved.component.offers.map((o) => [o.id === offers[0]!.id, o.price])).toEqual([
      [false, "3.00"],
      [true, "2.60"],
    ]);
    const other = await component();
    const stolen = await server.send("PUT", `/api/components/${other}`, {
      version: 1,
      component: { ...input, code: "STOLEN", offers: [{ ...offers[0]! }] },
    });
    expect(stolen.status).toBe(422);
  });
});
