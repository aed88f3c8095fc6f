import { randomUUID } from "node:crypto";
import type { BoxDetail, BoxInput, ErrorBody } from "@jar-count/core/contract";
import { EMPTY_BOX } from "@jar-count/core/box";
import { afterAll, beforeAll, expect, test } from "vitest";
import { startServer, type TestServer } from "./harness.ts";
import { later } from "../../core/test/demoDay.ts";

let server: TestServer;
beforeAll(async () => {
  server = await startServer({ demo: true });
});
afterAll(() => server.stop());

const refused = async (id: string, body: object) => {
  const { status, body: refusal } = await server.send<ErrorBody>("PATCH", `/api/boxes/${id}`, body);
  expect(status).toBeGreaterThanOrEqual(400);
  return refusal;
};
const variantRows = async (id: string) =>
  (
    await server.db.query<{ id: string; first: string; boxes: number }>(
      `select id, first, boxes from box_variants where box_id = $1 order by position`,
      [id],
    )
  ).rows;

/** The last box of the demo, of which nothing is sold yet, as it stands. */
async function demoBox(): Promise<BoxDetail["box"]> {
  const last = (await server.call("listBoxes")).at(-1);
  return (await server.call("readBox", { params: { id: last!.id } })).box;
}

test("a save of what changed leaves all the rest as it was, and comes back with version and totals", async () => {
  const before = await demoBox();
  const { id, version } = before;
  const variant = { ...before.variants[0]!, boxes: before.variants[0]!.boxes + 7 };
  const pick = { ...before.picks[0]!, component: before.picks.at(-1)!.component };
  const changes = { theme: "Renamed", variants: { put: [variant] }, picks: { put: [pick] } };
  const saved = await server.call("changeBox", { params: { id }, body: { version, changes } });
  const boxes = before.variants.reduce((sum, v) => sum + v.boxes, 7);
  expect(saved).toEqual({
    version: version + 1,
    totals: { designs: before.lines.length, variants: before.variants.length, boxes },
  });
  const after = await demoBox();
  expect(after).toEqual({
    ...before,
    version: version + 1,
    theme: "Renamed",
    variants: before.variants.with(0, variant),
    picks: before.picks.with(0, pick),
  });
});

test("variants keep their rows when a box is saved, whole or in part, whatever their order", async () => {
  const { id, version, ...box } = await demoBox();
  const rows = await variantRows(id);
  expect(rows.length).toBeGreaterThan(1);
  const input: BoxInput = { ...box, variants: [...box.variants].reverse() };
  await server.call("saveBox", { params: { id }, body: { version, box: input } });
  expect((await variantRows(id)).map((r) => r.id)).toEqual(rows.map((r) => r.id).reverse());

  const drop = [`${box.variants[0]!.first} `];
  await server.call("changeBox", { params: { id }, body: { version: version + 1, changes: { variants: { drop } } } });
  expect((await variantRows(id)).map((r) => r.id)).toEqual(
    rows
      .slice(1)
      .map((r) => r.id)
      .reverse(),
  );
  const put = [box.variants[0]!];
  await server.call("changeBox", { params: { id }, body: { version: version + 2, changes: { variants: { put } } } });
  expect(await variantRows(id)).toHaveLength(rows.length);
});

test("a change sent again under its request key happens once; under another one it is stale", async () => {
  const { id, version } = await demoBox();
  const body = { requestKey: randomUUID(), version, changes: { theme: "Once" } };
  const first = await server.call("changeBox", { params: { id }, body });
  expect(await server.call("changeBox", { params: { id }, body })).toEqual(first);
  expect((await demoBox()).version).toBe(version + 1);
  expect(await refused(id, { ...body, requestKey: randomUUID() })).toMatchObject({
    code: "stale",
    current: { id, version: version + 1, theme: "Once" },
  });
  expect(await refused(id, { ...body, changes: { theme: "Other" } })).toMatchObject({ code: "key-used" });
});

test("ten people change one box at once: one of them gets through, the others are told what is there", async () => {
  const { id, version } = await demoBox();
  const answers = await Promise.all(
    Array.from({ length: 10 }, (_, i) =>
      server.send<ErrorBody>("PATCH", `/api/boxes/${id}`, { version, changes: { theme: `By ${i}` } }),
    ),
  );
  expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
  const late = answers.filter((a) => a.status !== 200);
  expect(new Set(late.map((a) => a.body.code))).toEqual(new Set(["stale"]));
  const now = await demoBox();
  expect(now.version).toBe(version + 1);
  for (const { body } of late) expect(body.current).toMatchObject({ theme: now.theme, version: now.version });
});

test("changes that leave something pointing nowhere, and changes to no box, write nothing", async () => {
  const before = await demoBox();
  const { id, version } = before;
  const stray = { ...before.picks[0]!, boxRole: randomUUID() };
  expect(await refused(id, { version, changes: { picks: { put: [stray] } } })).toMatchObject({
    code: "invalid",
    errors: [{ detail: "There is no such role in this box." }],
  });
  // A colourway that still has a number of boxes can't be taken out alone.
  const drop = [before.colourways[0]!.id];
  expect(await refused(id, { version, changes: { colourways: { drop } } })).toMatchObject({ code: "invalid" });
  expect(await refused(id, { version, changes: { month: "2027-13" } })).toMatchObject({ code: "invalid" });
  expect(await demoBox()).toEqual(before);
  expect(await refused(randomUUID(), { version: 0, changes: {} })).toMatchObject({ code: "not-found" });
});

test("a box with the id of another one's rows is refused whole", async () => {
  const { colourways } = await demoBox();
  const box = { ...EMPTY_BOX, month: later("2029-01"), theme: "Copied", colourways };
  const answer = await server.send<ErrorBody>("PUT", `/api/boxes/${randomUUID()}`, { version: 0, box });
  expect(answer).toMatchObject({ status: 422, body: { code: "invalid" } });
});

test("what is found is worth what the screen says it would cost new, a pack in grams converted", async () => {
  const id = randomUUID();
  const component = {
    code: "FOUND",
    name: "8/0 seed, found",
    kind: "bead" as const,
    colour: "#884422",
    finish: "matt" as const,
    baseUnit: "piece" as const,
    perGram: 40,
    // The first offer is the one that counts, in core as on the screen; the second is by the piece, and dear.
    offers: [
      { pack: "tube", amount: 50, unit: "g" as const, price: "3.40" },
      { pack: "a bead", amount: 1, unit: "piece" as const, price: "0.09" },
    ],
  };
  await server.call("saveComponent", { params: { id }, body: { version: 0, component } });
  const body = { requestKey: randomUUID(), kind: "counted" as const, quantity: 1000 };
  const jar = await server.call("moveStock", { params: { id }, body });
  // 3.40 ÷ (50 g × 40 a gram) = 0.0017 a bead; a thousand of them are worth 1.70.
  expect(Number(jar.movements[0]!.value)).toBeCloseTo(1.7, 6);
  expect(Number(jar.component.averageCost)).toBeCloseTo(0.0017, 8);
});

test("bills come from a thread, the same for many readers at once, and anew after a change", async () => {
  const { id, version } = await demoBox();
  const path = `/api/boxes/${id}/bill.csv`;
  const many = await Promise.all(Array.from({ length: 20 }, () => server.send<string>("GET", path)));
  expect(new Set(many.map((a) => a.body)).size).toBe(1);
  expect(many[0]!.body).toMatch(/^month,box,colourway/);
  await server.call("changeBox", { params: { id }, body: { version, changes: { theme: "After the bill" } } });
  const after = await fetch(`${server.url}${path}`);
  expect(after.status).toBe(200);
  expect(await after.text()).toContain("After the bill");
});
