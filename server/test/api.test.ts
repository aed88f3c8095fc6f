import { readFileSync } from "node:fs";
import { randomUUID } from "node:crypto";
import { billOf } from "@jar-count/core/bom";
import {
  type Answer,
  type BoxDetail,
  type BoxInput,
  type BoxSummary,
  type Component,
  type ComponentDetail,
  type ComponentInput,
  type DesignSummary,
  type SavedBox,
  ErrorBody,
} from "@jar-count/core/contract";
import { costOf } from "@jar-count/core/cost";
import Papa from "papaparse";
import type { z } from "zod";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { startServer, type TestServer } from "./harness.ts";

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.stop());

const example = (name: string) =>
  JSON.parse(readFileSync(new URL(`../../core/test/examples/${name}.json`, import.meta.url), "utf8")) as {
    design: object;
    answers: Answer[];
    kit: object;
  };

const bead: z.input<typeof ComponentInput> = {
  code: "R06",
  name: "6 mm round",
  kind: "bead",
  form: "round",
  colour: "#aa5533",
  finish: "matt",
  baseUnit: "piece",
  alongMm: 6,
  acrossMm: 6,
  holeMm: 1,
  linkMm: null,
  perGram: null,
  offers: [{ pack: "strand of 50", amount: 50, unit: "piece", price: "2.80" }],
};
const add = async (component: Partial<z.input<typeof ComponentInput>> = {}) => {
  const id = randomUUID();
  const { status, body } = await server.send<ComponentDetail>("PUT", `/api/components/${id}`, {
    version: 0,
    component: { ...bead, code: id.slice(0, 8), ...component },
  });
  expect(status).toBe(201);
  return body.component;
};
const move = (id: string, kind: string, quantity: number, requestKey = randomUUID()) =>
  server.send<ComponentDetail>("POST", `/api/components/${id}/stock`, { requestKey, kind, quantity, note: "" });

/** Every refusal has the one error shape (RFC 9457): its media type and members. */
const refused = async (method: string, path: string, body: unknown, status: number) => {
  const answer = await server.send<ErrorBody>(method, path, body);
  expect(answer.status).toBe(status);
  expect(answer.headers.get("content-type")).toMatch(/^application\/problem\+json/);
  expect(ErrorBody.parse(answer.body).status).toBe(status);
  return answer.body;
};

describe("counting over the wire", () => {
  test("health", async () => {
    expect(await server.send("GET", "/api/health")).toMatchObject({
      status: 200,
      body: { status: "ok", database: "ok" },
    });
  });
  test("the server counts what the core counts", async () => {
    const { design, answers } = example("smoke-and-honey-stretch");
    for (const expected of answers) {
      const { status, body } = await server.send("POST", "/api/count", { design, size: expected.size, option: null });
      expect(status).toBe(200);
      expect(body).toEqual({ ...expected, countsLeast: {}, problems: [] });
    }
  });
  test("asked for the kit, it returns what serves every size and option beside the one item", async () => {
    const { design, answers, kit } = example("lock-keeper-cuff");
    const [expected] = answers;
    const { size, option } = expected!;
    const { body } = await server.send("POST", "/api/count", { design, size, option, kit: true });
    expect(body).toEqual({ ...expected, countsLeast: {}, problems: [], kit });
  });
  test("a file of version 1 may name a bead by what has become a word since: read, saved and read again", async () => {
    const old = {
      format: "jar-count/design",
      version: 1,
      name: "Old words",
      key: [{ key: "rest", name: "a bead called rest", kind: "bead", alongMm: 4 }],
      parts: [{ id: "p", name: "P", steps: "3rest" }],
    };
    const { body } = await server.send<Answer>("POST", "/api/count", { design: old });
    expect(body).toMatchObject({ counts: { rest1: 3 }, problems: [] });
    // One that was kept before the words were new is read the same way, and kept as it is until it is saved.
    const id = randomUUID();
    await server.owner.query("insert into designs (id, newest) values ($1, 1)", [id]);
    await server.owner.query(
      "insert into design_revisions (design_id, no, body, reason) values ($1, 1, $2, 'before')",
      [id, JSON.stringify(old)],
    );
    type Read = { design: { version: number; key: { key: string; id: string }[]; parts: { steps: string }[] } };
    const read = await server.send<Read>("GET", `/api/designs/${id}`);
    expect(read.body.design).toMatchObject({
      version: 1,
      key: [{ key: "rest1", id: "rest" }],
      parts: [{ steps: "3rest1" }],
    });
    await server.send("PUT", `/api/designs/${id}`, { revision: 1, reason: "saved", design: read.body.design });
    expect((await server.send<Read>("GET", `/api/designs/${id}`)).body.design.version).toBe(2);
  });
  test("with other components in place of the roles' measures", async () => {
    const { design } = example("smoke-and-honey-stretch");
    const { body } = await server.send<Answer>("POST", "/api/count", {
      design,
      size: "S",
      option: null,
      components: { H: { alongMm: 8.5 } },
    });
    expect(body.parts[0]!.strandMm).not.toBe(178.1);
    expect(body.counts.H).toBeGreaterThan(0);
  });
  test("bad bodies are refused whole, place by place", async () => {
    await refused("POST", "/api/count", "{ not json", 400);
    const { design } = example("kiln-door-earrings");
    const body = await refused(
      "POST",
      "/api/count",
      {
        design: {
          ...design,
          name: "N".repeat(10_000),
          key: [{ key: "to", name: "x", kind: "bead", alongMm: -1 }],
          surprise: 1,
        },
      },
      422,
    );
    const pointers = body.errors!.map((e) => e.pointer);
    expect(pointers).toEqual(expect.arrayContaining(["/design/name", "/design/key/0/key", "/design/key/0/alongMm"]));
    await refused("GET", "/api/nothing", undefined, 404);
    await refused("GET", "/api/designs/not-an-id", undefined, 404);
    await refused("POST", "/api/count", { design: { format: "someone-else/1" } }, 422);
    await refused("POST", "/api/count", `"${"x".repeat(11_000_000)}"`, 413);
  });
});

describe("designs", () => {
  test("saving makes a revision; a stale save overwrites nothing and is shown what is there", async () => {
    const id = randomUUID();
    const { design } = example("kiln-door-earrings");
    const first = await server.send<DesignSummary>("PUT", `/api/designs/${id}`, {
      revision: 0,
      reason: "first",
      design,
    });
    expect(first).toMatchObject({ status: 201, body: { revision: 1 } });
    expect(
      await server.send("PUT", `/api/designs/${id}`, {
        revision: 1,
        reason: "",
        design: { ...design, name: "Second" },
      }),
    ).toMatchObject({ status: 200, body: { revision: 2 } });
    const conflict = await refused(
      "PUT",
      `/api/designs/${id}`,
      { revision: 1, reason: "", design: { ...design, name: "Late" } },
      409,
    );
    expect(conflict.current).toMatchObject({ revision: 2, name: "Second" });
    await refused("PUT", `/api/designs/${id}`, { revision: 0, reason: "", design }, 409);
    expect((await server.send<object[]>("GET", `/api/designs/${id}/revisions`)).body).toMatchObject([
      { no: 2, reason: "" },
      { no: 1, reason: "first" },
    ]);
    expect(
      (await server.send<{ design: { name: string } }>("GET", `/api/designs/${id}/revisions/1`)).body.design.name,
    ).toBe("Kiln Door Earrings");
    await refused("GET", `/api/designs/${id}/revisions/99999999999`, undefined, 404);
  });
  test("two saves of the same revision at once: one is taken, the others are told", async () => {
    const id = randomUUID();
    const { design } = example("dye-vat-swings");
    await server.send("PUT", `/api/designs/${id}`, { revision: 0, reason: "", design });
    const answers = await Promise.all(
      Array.from({ length: 8 }, (_, i) =>
        server.send("PUT", `/api/designs/${id}`, { revision: 1, reason: `${i}`, design }),
      ),
    );
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409, 409, 409, 409, 409, 409]);
  });
  test("a trial is kept with its design, and a design is put away and taken out again", async () => {
    const id = randomUUID();
    const { design } = example("dye-vat-swings");
    await server.send("PUT", `/api/designs/${id}`, { revision: 0, reason: "", design });
    const trial = {
      version: 0,
      revision: 1,
      size: null,
      option: null,
      madeOn: "2027-02-10",
      minutes: 35,
      finished: null,
      used: { c: 27 },
      note: "tight",
      verdict: "mend it",
    };
    const trialId = randomUUID();
    await server.send("PUT", `/api/designs/${id}/trials/${trialId}`, trial);
    const again = await server.send<object[]>("PUT", `/api/designs/${id}/trials/${trialId}`, {
      ...trial,
      version: 1,
      minutes: 40,
    });
    expect(again.body).toMatchObject([{ id: trialId, minutes: 40, verdict: "mend it" }]);
    await refused("PUT", `/api/designs/${id}/trials/${randomUUID()}`, { ...trial, revision: 9 }, 422);
    expect(
      (await refused("PUT", `/api/designs/${id}/trials/${randomUUID()}`, { ...trial, verdict: "superb" }, 422))
        .errors![0]!.pointer,
    ).toBe("/verdict");
    expect(
      (await server.send<DesignSummary>("PUT", `/api/designs/${id}/archived`, { archived: true })).body.archived,
    ).toBe(true);
    expect((await server.send<DesignSummary[]>("GET", "/api/designs")).body.find((d) => d.id === id)).toMatchObject({
      archived: true,
      lastUsed: null,
    });
    await refused("PUT", `/api/designs/${randomUUID()}/archived`, { archived: true }, 404);
  });
  test("a design file comes out as it went in", async () => {
    const id = randomUUID();
    const { design } = example("press-bed-bracelet");
    await server.send("PUT", `/api/designs/${id}`, { revision: 0, reason: "", design });
    const file = await server.send("GET", `/api/designs/${id}/file`);
    // Saved, it is of the newest version.
    expect(file.body).toEqual({ ...(design as object), version: 2 });
    expect(file.headers.get("content-disposition")).toContain("Press Bed Bracelet.jarcount.json");
  });
});

describe("components and their ledger", () => {
  test("received adds, counted sets, and the books agree", async () => {
    const { id } = await add();
    await move(id, "received", 100);
    await move(id, "counted", 93);
    const { body } = await move(id, "received", 50);
    expect(body.component.onHand).toBe(143);
    expect(body.movements.map((m) => [m.kind, m.quantity, m.balance])).toEqual([
      ["received", 50, 143],
      ["counted", -7, 93],
      ["received", 100, 100],
    ]);
    expect(await balancesThatDiffer(server.db)).toEqual([]);
  });
  test("the same request key happens once, however often and however close it is sent", async () => {
    const { id } = await add();
    const key = randomUUID();
    const answers = await Promise.all(Array.from({ length: 6 }, () => move(id, "received", 10, key)));
    expect(answers.every((a) => a.status === 201 && a.body.component.onHand === 10)).toBe(true);
    await refused(
      "POST",
      `/api/components/${id}/stock`,
      { requestKey: key, kind: "received", quantity: 11, note: "" },
      422,
    );
    expect((await server.send<ComponentDetail>("GET", `/api/components/${id}`)).body.component.onHand).toBe(10);
  });
  test("pieces are whole, nothing is negative, and the ledger can't be rewritten", async () => {
    const { id } = await add();
    await refused(
      "POST",
      `/api/components/${id}/stock`,
      { requestKey: randomUUID(), kind: "received", quantity: 1.5, note: "" },
      422,
    );
    await refused(
      "POST",
      `/api/components/${id}/stock`,
      { requestKey: randomUUID(), kind: "counted", quantity: -1, note: "" },
      422,
    );
    await refused(
      "POST",
      `/api/components/${randomUUID()}/stock`,
      { requestKey: randomUUID(), kind: "counted", quantity: 1, note: "" },
      404,
    );
    await move(id, "received", 5);
    await expect(server.owner.query("update movements set quantity = 1")).rejects.toThrow(/append-only/);
    await expect(server.owner.query("delete from entries")).rejects.toThrow(/append-only/);
    await expect(server.owner.query("update balances set quantity = -1")).rejects.toThrow(/check/);
  });
  test("a code belongs to one component, the base unit is fixed once stock moved; no stale save", async () => {
    const one = await add({ code: "ONE" });
    const errors = (
      await refused("PUT", `/api/components/${randomUUID()}`, { version: 0, component: { ...bead, code: "one" } }, 422)
    ).errors!;
    expect(errors[0]!.pointer).toBe("/component/code");
    await move(one.id, "received", 1);
    const unit = await refused(
      "PUT",
      `/api/components/${one.id}`,
      { version: 1, component: { ...bead, code: "ONE", baseUnit: "g" } },
      422,
    );
    expect(unit.errors![0]!.pointer).toBe("/component/baseUnit");
    expect(
      (
        await server.send("PUT", `/api/components/${one.id}`, {
          version: 1,
          component: { ...bead, code: "ONE", name: "New" },
        })
      ).status,
    ).toBe(200);
    const late = await refused(
      "PUT",
      `/api/components/${one.id}`,
      { version: 1, component: { ...bead, code: "ONE", name: "Late" } },
      409,
    );
    expect(late.current).toMatchObject({ component: { name: "New", version: 2 } });
  });
});

describe("a box, from a design to a bill", () => {
  const boxWith = (lines: BoxInput["lines"]): BoxInput => ({
    month: "2027-08",
    theme: "Tide Pool",
    packBy: null,
    lines,
    contents: [],
    bagging: "together",
    colourways: [],
    seconds: [],
    variants: [],
    roles: [],
    bindings: [],
    picks: [],
    prices: [],
    whatIfs: [],
    overrules: [],
  });

  test("saved whole, read back the same, stale and strange ones refused", async () => {
    const designId = randomUUID();
    await server.send("PUT", `/api/designs/${designId}`, {
      revision: 0,
      reason: "",
      design: example("smoke-and-honey-stretch").design,
    });
    const seed = await add({
      baseUnit: "g",
      perGram: 40,
      alongMm: 1.95,
      offers: [{ pack: "tube", amount: 25, unit: "g", price: "3.20" }],
    });
    const round = await add({ alongMm: 8 });
    const [line, way, role, seeds, id] = [randomUUID(), randomUUID(), randomUUID(), randomUUID(), randomUUID()];
    const box: BoxInput = {
      ...boxWith([{ id: line, designId, revision: 1, times: 2, size: "S", option: null }]),
      colourways: [{ id: way, name: "Moss" }],
      variants: [{ id: randomUUID(), first: way, second: null, boxes: 10 }],
      roles: [
        { id: role, name: "8 mm round", kind: "bead", follows: "first" },
        { id: seeds, name: "8/0", kind: "bead", follows: "none" },
      ],
      bindings: [
        { line, role: "H", boxRole: role },
        { line, role: "e", boxRole: seeds },
      ],
      picks: [
        { boxRole: role, first: way, second: null, component: round.id },
        { boxRole: seeds, first: null, second: null, component: seed.id },
      ],
    };
    const saved = await server.send<SavedBox>("PUT", `/api/boxes/${id}`, { version: 0, box });
    expect(saved.status).toBe(201);
    expect(saved.body).toEqual({ version: 1, totals: { designs: 1, variants: 1, boxes: 10 } });
    const detail = (await server.send<BoxDetail>("GET", `/api/boxes/${id}`)).body;
    expect(detail.box).toEqual({ ...box, id, version: 1 });
    const bill = billOf(detail);
    // 8 H and 38 e an item (the worked example), two items a box, ten boxes; 76 seeds a box at 40 a gram = 1.9 g.
    // To spare a box: two H, which close the size; a tenth of 76 seeds, so 8 of them, 0.2 g.
    expect(bill.totals.map((t) => [t.component.id, t.run, t.short])).toEqual([
      [round.id, 180, 180],
      [seed.id, 21, 21],
    ]);
    expect(bill.variants[0]!.needs[1]).toMatchObject({ piecesPerBox: 76, perBox: 1.9 });
    expect(bill.problems.map((p) => p.message).sort()).toEqual([
      expect.stringContaining(": SC is not on the colour tray"),
      expect.stringContaining(": r is not on the colour tray"),
    ]);
    // 180 × 2.80/50 = 10.08; 21 × 3.20/25 = 2.688 → 2.69
    expect(costOf(bill)).toMatchObject({ run: "12.77", perBox: "1.28", boxes: 10 });

    await refused("PUT", `/api/boxes/${id}`, { version: 0, box }, 409);
    expect(
      (await server.send("PUT", `/api/boxes/${id}`, { version: 1, box: { ...box, theme: "Rock Pool" } })).status,
    ).toBe(200);
    const late = await refused("PUT", `/api/boxes/${id}`, { version: 1, box }, 409);
    expect(late.current).toMatchObject({ theme: "Rock Pool", version: 2 });
    await refused("PUT", `/api/boxes/${randomUUID()}`, { version: 0, box }, 422); // its rows are another box's
    await refused(
      "PUT",
      `/api/boxes/${id}`,
      {
        version: 2,
        box: {
          ...box,
          month: "2027-13",
          picks: [{ boxRole: randomUUID(), first: null, second: null, component: seed.id }],
        },
      },
      422,
    );
    await refused(
      "PUT",
      `/api/boxes/${id}`,
      { version: 2, box: { ...box, picks: [{ ...box.picks[0]!, component: randomUUID() }] } },
      422,
    );
    expect((await server.send<BoxDetail>("GET", `/api/boxes/${id}`)).body.box).toEqual({
      ...box,
      theme: "Rock Pool",
      id,
      version: 2,
    });
    await refused("DELETE", `/api/boxes/${id}?version=1`, undefined, 409);
    expect((await server.send("DELETE", `/api/boxes/${id}?version=2`)).status).toBe(204);
    await refused("GET", `/api/boxes/${id}`, undefined, 404);
  });
});

describe("the demo's bill of materials as CSV", () => {
  test("by RFC 4180, read back whole, its costs adding up to the total", async () => {
    const demo = await startServer({ demo: true });
    const [first] = (await demo.send<BoxSummary[]>("GET", "/api/boxes")).body;
    const detail = (await demo.send<BoxDetail>("GET", `/api/boxes/${first!.id}`)).body;
    const csv = await demo.send<string>("GET", `/api/boxes/${first!.id}/bill.csv`);
    await demo.stop();
    expect(csv.headers.get("content-type")).toMatch(/^text\/csv/);
    expect(csv.body).toMatch(/\r\n$/);
    expect(csv.body.replaceAll("\r\n", "")).not.toMatch(/[\r\n]/);
    const { data, errors } = Papa.parse<Record<string, string>>(csv.body, { header: true, skipEmptyLines: true });
    expect(errors).toEqual([]);
    const bill = billOf(detail);
    expect(data).toHaveLength(bill.variants.reduce((n, v) => n + v.needs.length + v.gaps.length, 0));
    const cents = data.reduce((sum, row) => sum + Math.round(Number(row.cost) * 100), 0);
    expect(cents).toBe(Math.round(Number(costOf(bill).run) * 100));
    const onHand = new Map(detail.components.map((c: Component) => [c.code, c.onHand]));
    for (const row of data) expect(Number(row["on hand"])).toBe(onHand.get(row.code!));
  });
});
