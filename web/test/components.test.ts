import type { Component, ComponentList } from "@jar-count/core/contract";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { component as thing, id } from "../../core/test/things.ts";
import { refused, serve } from "./page.ts";

/** The list is remembered by its module: each test begins with a page that has read nothing. */
beforeEach(() => vi.resetModules());
afterEach(() => vi.unstubAllGlobals());
const page = async () => {
  const { componentsQuery, queryClient, stockChanged } = await import("../src/api/queries.ts");
  return {
    list: () => queryClient.fetchQuery({ ...componentsQuery, staleTime: 0 }),
    stockChanged,
    queryClient,
    componentsQuery,
  };
};

const component = (n: number, name: string, more: Partial<Component> = {}) => thing(n, { name, ...more });
const answer = (
  components: Component[],
  asOf: string,
  next: string | null = null,
  workshop = id(99),
): { body: ComponentList } => ({ body: { workshop, components, asOf, next } });

describe("the list of components", () => {
  test("comes whole once; then only what changed since, and the rest stays the same objects", async () => {
    const [amber, jet] = [component(1, "amber"), component(2, "jet")];
    const asked = serve(({ path }) =>
      path.includes("since=") ? answer([component(2, "jet", { onHand: 7 })], "11") : answer([amber, jet], "10"),
    );
    const { list } = await page();
    const first = await list();
    const second = await list();
    expect(asked.map((a) => a.path)).toEqual(["/components", "/components?since=10"]);
    expect(second.map((c) => [c.name, c.onHand])).toEqual([
      ["amber", 0],
      ["jet", 7],
    ]);
    expect(second[0]).toBe(first[0]);
    await list();
    expect(asked.at(-1)!.path).toBe("/components?since=11");
  });
  test("where nothing changed the list itself stays the same", async () => {
    serve(({ path }) => (path.includes("since=") ? answer([], "12") : answer([component(1, "amber")], "10")));
    const { list } = await page();
    const first = await list();
    expect(await list()).toBe(first);
  });
  test("many changes come in parts, and none is left out", async () => {
    const changed = [1, 2, 3].map((n) => component(n, `bead ${n}`, { onHand: n }));
    const asked = serve(({ path }) => {
      if (!path.includes("since=")) return answer([], "10");
      if (!path.includes("after=")) return answer([changed[0]!], "20", id(1));
      return path.includes(id(1)) ? answer([changed[1]!], "21", id(2)) : answer([changed[2]!], "22");
    });
    const { list } = await page();
    await list();
    expect((await list()).map((c) => c.onHand)).toEqual([1, 2, 3]);
    // What changes while the parts come is asked for again next time: from where the first part stood.
    await list();
    expect(asked.filter((a) => !a.path.includes("after=")).at(-1)!.path).toBe("/components?since=20");
  });
  test("a new or renamed one stands where kind, name and code put it", async () => {
    const old = [component(1, "amber"), component(2, "jet"), component(3, "wax", { kind: "consumable" })];
    serve(({ path }) =>
      path.includes("since=") ? answer([component(4, "bone"), component(2, "aventurine")], "11") : answer(old, "10"),
    );
    const { list } = await page();
    await list();
    expect((await list()).map((c) => c.name)).toEqual(["amber", "aventurine", "bone", "wax"]);
  });
  test("a stock move makes stale what shows counts and costs, and nothing else", async () => {
    serve(() => answer([component(1, "amber")], "10"));
    const { list, queryClient, componentsQuery, stockChanged } = await page();
    await list();
    for (const key of ["boxes", "orders", "stocktakes", "designs", "rooms"]) queryClient.setQueryData([key], []);
    await stockChanged();
    const stale = (key: readonly unknown[]) => queryClient.getQueryState(key)?.isInvalidated;
    expect(["boxes", "orders", "stocktakes", "designs", "rooms"].map((k) => stale([k]))).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
    expect(stale(componentsQuery.queryKey)).toBe(true);
  });
});

describe("calling the server", () => {
  const client = () => import("../src/api/client.ts");

  test("a refusal keeps its code, its places and what is there now", async () => {
    serve(() => refused("stale", "Changed elsewhere.", { current: { version: 4 } }));
    const { call, Refused } = await client();
    const error = await call("readWorkshop").catch((e: unknown) => e);
    expect(error).toBeInstanceOf(Refused);
    expect(error).toMatchObject({ code: "stale", message: "Changed elsewhere.", body: { current: { version: 4 } } });
  });
  test.each([
    ["no connection", () => "away" as const],
    ["a page of something in between", () => ({ status: 502, body: "<html>Bad gateway</html>" })],
    ["a success that is no JSON", () => ({ body: "<html>Sign in to this network</html>" })],
    ["a server that is waiting itself", () => refused("away", "The database is away.")],
  ])("%s: the server can't be reached, and what was typed is kept", async (_, reply) => {
    serve(reply);
    const { call, Unreachable } = await client();
    await expect(call("readWorkshop")).rejects.toBeInstanceOf(Unreachable);
  });
  test("parameters and queries stand in the address, each made safe for it", async () => {
    const asked = serve(() => ({ body: { movements: [], older: false } }));
    const { call } = await client();
    await call("listMovements", { params: { id: id(1) }, query: { before: "12" } });
    await call("importTable", {
      params: { kind: "components" },
      body: { requestKey: id(5), person: null, name: "a", rows: [] },
    });
    expect(asked.map((a) => [a.method, a.path])).toEqual([
      ["GET", `/components/${id(1)}/movements?before=12`],
      ["POST", "/imports/components"],
    ]);
    expect(asked[1]!.body).toMatchObject({ name: "a" });
  });

  test("of another workshop, after an archive took its place, is read whole: nothing of the first stays", async () => {
    const asked = serve(({ path }) =>
      path.includes("since=")
        ? answer([], "11", null, id(98))
        : answer([component(asked.length > 1 ? 2 : 1, "a")], "10", null, id(asked.length > 1 ? 98 : 99)),
    );
    const { list } = await page();
    expect((await list()).map((c) => c.id)).toEqual([id(1)]);
    expect((await list()).map((c) => c.id)).toEqual([id(2)]);
  });
});
