import { billOf, usedKeys } from "@jar-count/core/bom";
import type { BoxDetail, BoxSummary, ComponentList, DesignSummary } from "@jar-count/core/contract";
import { roleId } from "@jar-count/core/contract";
import { countKit } from "@jar-count/core/count";
import { afterAll, beforeAll, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { seedDemo } from "../src/work/demo.ts";
import { startServer, type TestServer } from "./harness.ts";
import { inDemo } from "../../core/test/demoDay.ts";

let server: TestServer;
beforeAll(async () => {
  server = await startServer({ demo: true });
});
afterAll(() => server.stop());

test("the demo is a workshop of 122 components, 16 designs and 5 months, from sent to planned", async () => {
  const components = (await server.send<ComponentList>("GET", "/api/components")).body.components;
  const designs = (await server.send<DesignSummary[]>("GET", "/api/designs")).body;
  const boxes = (await server.send<BoxSummary[]>("GET", "/api/boxes")).body;
  expect(components).toHaveLength(122);
  expect(designs).toHaveLength(16);
  expect(boxes.map((b) => [b.month, b.theme, b.colourways.length, b.state])).toEqual([
    [inDemo("2027-03"), "Glaze Shelf", 2, "sent"],
    [inDemo("2027-04"), "Apiary", 4, "packing"],
    [inDemo("2027-05"), "Dye Garden", 4, "committed"],
    [inDemo("2027-06"), "Letterpress", 8, "planned"],
    [inDemo("2027-07"), "Type Drawer", 3, "planned"],
  ]);
});

test("every design of the demo counts without an error, and every role it uses stands on its box's tray", async () => {
  for (const { id } of (await server.send<BoxSummary[]>("GET", "/api/boxes")).body) {
    const { body } = await server.send<BoxDetail>("GET", `/api/boxes/${id}`);
    expect(billOf(body).problems).toEqual([]);
    for (const line of body.box.lines) {
      const { design } = body.designs.find((d) => d.designId === line.designId)!;
      expect(countKit(design, null, null, null).problems).toEqual([]);
      const bound = body.box.bindings
        .filter((b) => b.line === line.id)
        .map((b) => b.role)
        .sort();
      const used = usedKeys(design)
        .map((key) => roleId(design.key.find((e) => e.key === key)!))
        .sort();
      expect(bound).toEqual(used);
    }
  }
});

test("June and July want the same jars, May waits for an order that is late, and the books agree", async () => {
  const [, april, may, june, july] = await server.call("listBoxes");
  const shortOf = async (id: string) => {
    const { variants } = await server.call("readBill", { params: { id } });
    const short = variants.flatMap((v) => v.lines.filter((l) => l.short > 0));
    return new Map(short.map((l) => [l.component, l.shortBecause.map((b) => b.box)]));
  };
  expect((await shortOf(april!.id)).size).toBe(0);
  const inMay = await server.call("readRun", { params: { id: may!.id } });
  expect(inMay.lacking).toMatchObject([{ quantity: 580, late: { due: inDemo("2027-04-27") } }]);
  // Some of what June lacks, May takes; some of what July lacks, June takes.
  expect([...(await shortOf(june!.id)).values()].flat()).toContain(may!.id);
  const inJuly = await shortOf(july!.id);
  expect([...inJuly.values()].flat()).toContain(june!.id);
  expect(inJuly.size).toBeLessThan(30);
  const ahead = (await server.call("readAhead", { query: { from: inDemo("2027-03-01"), until: inDemo("2027-12-31") } }))
    .components;
  expect(ahead.filter((c) => c.runsOutOn !== null).length).toBeGreaterThan(5);
  let gaps = 0;
  for (const { id } of await server.call("listBoxes")) {
    const detail = await server.call("readBox", { params: { id } });
    gaps += billOf(detail).variants.reduce((sum, v) => sum + v.gaps.length, 0);
  }
  expect(gaps).toBe(1);
  expect(await balancesThatDiffer(server.db)).toEqual([]);
});

test("whoever asks gets the invented workshop into an empty one, never over anything; and back", async () => {
  const own = await startServer();
  try {
    expect(await own.send("POST", "/api/workshop/invented")).toMatchObject({
      status: 201,
      body: { name: "Quarry Lane Bead Post" },
    });
    expect((await own.send<DesignSummary[]>("GET", "/api/designs")).body).toHaveLength(16);
    expect(await own.send("POST", "/api/workshop/invented")).toMatchObject({
      status: 409,
      body: { code: "not-empty" },
    });
    // The archive of an empty workshop says of itself that there is nothing in it, under the same name.
    const zip = await (await fetch(`${own.url}/api/archive/empty`)).arrayBuffer();
    const plan = await fetch(`${own.url}/api/archive/plan`, {
      method: "POST",
      headers: { "content-type": "application/zip" },
      body: zip,
    });
    expect(await plan.json()).toMatchObject({
      here: { designs: 16 },
      archive: { name: "Quarry Lane Bead Post", components: 0, designs: 0, boxes: 0, movements: 0 },
    });
  } finally {
    await own.stop();
  }
});

test("a second start leaves the data alone", async () => {
  const before = await server.db.query("select count(*) from movements");
  expect(await seedDemo(server.db)).toBe(false);
  expect((await server.db.query("select count(*) from movements")).rows).toEqual(before.rows);
});
