import { API, addressOf, ROUTE_NAMES, type RouteSpec } from "@jar-count/core/contract";
import { afterAll, beforeAll, expect, test } from "vitest";
import { startServer, type TestServer } from "./harness.ts";

let demo: TestServer;
beforeAll(async () => {
  demo = await startServer({ demo: true });
});
afterAll(() => demo.stop());

test("every answer of the demo is what its contract says, and nothing beside it", async () => {
  const { components } = await demo.call("listComponents");
  const asked = new Set(["listComponents"]);
  const ask: TestServer["call"] = (name, ...call) => {
    asked.add(name);
    return demo.call(name, ...call);
  };
  await ask("health");
  await ask("describe");
  await ask("readWorkshop");
  await ask("readCare");
  await ask("readRooms");
  await ask("readMoney");
  await ask("readPostage");
  await ask("readMeasured");
  await ask("knownSales");
  await ask("readSoldMonths");
  await ask("readLookBack");
  await ask("listShelf");
  await ask("listStocktakes");
  await ask("checkBooks");
  for (const { id, code } of components) {
    const jar = await ask("readComponent", { params: { id } });
    expect(await ask("readComponentByCode", { params: { code } })).toEqual(jar);
    // The list is written by the database, a jar by the server: the same component either way.
    const nothingNull = Object.fromEntries(Object.entries(jar.component).filter(([, value]) => value !== null));
    expect(components.find((c) => c.id === id)).toMatchObject({ ...nothingNull, offers: expect.anything() });
    if (jar.movements[0]) {
      await ask("listMovements", { params: { id }, query: { before: jar.movements[0].id } });
    }
  }
  expect((await ask("listComponents", { query: { since: "1" } })).components).toHaveLength(components.length);
  for (const { id } of await ask("listOrders")) await ask("readOrder", { params: { id } });
  for (const { id, revision } of await ask("listDesigns")) {
    await ask("readDesign", { params: { id } });
    const file = await ask("readDesignFile", { params: { id } });
    const option = file.options?.[0]?.key ?? null;
    const size = file.sizes?.[0]?.key ?? null;
    const { problems } = await ask("count", { body: { design: file, size, option } });
    expect(problems.filter((p) => p.level === "error")).toEqual([]);
    expect(await ask("listRevisions", { params: { id } })).toHaveLength(revision);
    for (let no = 1; no <= revision; no++) await ask("readRevision", { params: { id, no } });
    await ask("listTrials", { params: { id } });
  }
  for (const { id, state } of await ask("listBoxes")) {
    const params = { id };
    await ask("readBox", { params });
    await ask("readBill", { params });
    await ask("readCost", { params });
    await ask("readShares", { params });
    await ask("readRun", { params });
    await ask("planCommit", { params });
    if (state === "planned") continue;
    await ask("readFrozenBill", { params });
    await ask("readPacking", { params });
  }
  await ask("readAhead");
  await ask("readBuyList");

  const reading = ROUTE_NAMES.filter((name) => API[name].method === "get" && typeof API[name].answer !== "string");
  // The demo has no walk along the shelf, and nothing is being printed or restored; each has a test of its own.
  const unasked = new Set(["readStocktake", "readLabelProgress", "readRestore"]);
  expect(reading.filter((name) => !asked.has(name) && !unasked.has(name))).toEqual([]);
});

test("every route of the table is served: none is the address of nothing", async () => {
  for (const name of ROUTE_NAMES) {
    const spec: RouteSpec = API[name];
    const params = Object.fromEntries(Object.keys(spec.params ?? {}).map((p) => [p, "none"]));
    const { status, body } = await demo.send<{ code?: string; detail?: string }>(
      spec.method.toUpperCase(),
      addressOf(name, params),
      spec.body ? "{" : undefined,
    );
    // An id that is none is refused by the route itself; a code is one that nobody has.
    if (status === 404) expect(Object.keys(spec.params ?? {}), name).not.toEqual([]);
    else expect(body, name).not.toMatchObject({ code: "fault" });
  }
});

test("a path with fixed words is never taken for one with a parameter in their place", () => {
  const earlier: [string, RegExp][] = [];
  for (const name of ROUTE_NAMES) {
    const { method, path } = API[name];
    const shadow = earlier.find(([, pattern]) => pattern.test(`${method} ${path}`));
    expect(shadow?.[0], `${name} is never reached`).toBeUndefined();
    earlier.push([name, new RegExp(`^${method} ${path.replace(/\{\w+\}/g, "[^/]+")}$`)]);
  }
});
