import { randomUUID } from "node:crypto";
import type { ErrorBody } from "@jar-count/core/contract";
import { afterAll, beforeAll, expect, test } from "vitest";
import { openShop, type Shop } from "./shop.ts";

let shop: Shop;
beforeAll(async () => void (shop = await openShop()));
afterAll(() => shop.server.stop());

const strand = { pack: "strand", amount: 50, unit: "piece", price: "2.40" };
const change = (changes: object[]) =>
  shop.server.send<{ changed: number } & ErrorBody>("POST", "/api/components/changes", {
    requestKey: randomUUID(),
    changes,
  });

test("several components are changed at once; what is not named stays, packs keep their ids", async () => {
  const ids = [await shop.component({ offers: [strand] }), await shop.component({ offers: [strand], reorderAt: 5 })];
  const before = await Promise.all(ids.map(async (id) => (await shop.jar(id)).component));
  const done = await change(
    before.map(({ id, version, offers }) => ({
      id,
      version,
      set: { offers: offers.map((o) => ({ ...o, supplier: shop.SUPPLIER })) },
    })),
  );
  expect(done).toMatchObject({ status: 200, body: { changed: 2 } });
  const now = await Promise.all(ids.map(async (id) => (await shop.jar(id)).component));
  expect(now.map((c) => c.offers)).toEqual(before.map((c) => c.offers.map((o) => ({ ...o, supplier: shop.SUPPLIER }))));
  expect(now.map((c) => c.reorderAt ?? null)).toEqual([null, 5]);

  await change(now.map(({ id, version }) => ({ id, version, set: { reorderAt: 40, material: "glass", away: true } })));
  const then = await Promise.all(ids.map(async (id) => (await shop.jar(id)).component));
  expect(then).toMatchObject(ids.map(() => ({ reorderAt: 40, material: "glass", away: true })));
  expect(then.map((c) => c.offers)).toEqual(now.map((c) => c.offers));
});

test("one of them changed meanwhile: nothing is changed; one that is not there is told at its place", async () => {
  const [a, b] = [await shop.component(), await shop.component()];
  const stale = await change([
    { id: a, version: 1, set: { reorderAt: 9 } },
    { id: b, version: 7, set: { reorderAt: 9 } },
  ]);
  expect(stale).toMatchObject({ status: 409, body: { code: "stale" } });
  expect(stale.body.detail).toContain("Nothing was changed");
  expect((await shop.jar(a)).component.reorderAt ?? null).toBeNull();
  const gone = await change([{ id: randomUUID(), version: 1, set: {} }]);
  expect(gone).toMatchObject({ status: 422, body: { errors: [{ pointer: "/changes/0/id" }] } });
  const twice = await change([
    { id: a, version: 1, set: {} },
    { id: a, version: 1, set: {} },
  ]);
  expect(twice.status).toBe(422);
  const other = await change([{ id: a, version: 1, set: { name: "another" } }]);
  expect(other.status).toBe(422);
});

test("all of several jars moves to one place by one entry, at its worth, and back by undoing that", async () => {
  const [a, b] = [await shop.component(), await shop.component()];
  await shop.stock(a, "received", 10, { cost: "1.00" });
  await shop.stock(a, "received", 10, { cost: "3.00" });
  await shop.stock(b, "received", 7);
  const place = (to: string) =>
    shop.server.send<{ entry: string | null; moved: number } & ErrorBody>("POST", "/api/components/place", {
      requestKey: randomUUID(),
      person: shop.WREN,
      place: to,
      components: [a, b],
    });
  const before = (await shop.jar(a)).component.averageCost;
  const done = await place(shop.B);
  expect(done).toMatchObject({ status: 201, body: { moved: 2 } });
  const held = async (id: string) =>
    (await shop.jar(id)).balances.filter((x) => x.quantity > 0).map((x) => [x.place, x.quantity]);
  expect(await held(a)).toEqual([[shop.B, 20]]);
  expect(await held(b)).toEqual([[shop.B, 7]]);
  expect((await shop.jar(a)).component.averageCost).toBe(before);
  // They are there already: nothing moves.
  expect((await place(shop.B)).body).toEqual({ entry: null, moved: 0 });

  const undo = { requestKey: randomUUID(), person: shop.WREN };
  expect((await shop.server.send("POST", `/api/entries/${done.body.entry}/reverse`, undo)).status).toBe(201);
  expect(await held(a)).toEqual([[shop.A, 20]]);
  expect((await place(randomUUID())).body.errors).toMatchObject([{ pointer: "/place" }]);
  await shop.right();
});
