import type { BoxDetail, Component, Design, DesignSummary, Shares } from "@jar-count/core/contract";
import { EMPTY_BOX } from "@jar-count/core/box";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { boxesOf, makeBoxStore, saveByItself } from "../src/features/box/boxStore.ts";
import { choose, setBoxes, setOnceABox, setSpare } from "../src/features/box/tray.ts";
import { component as thing, id, ids } from "../../core/test/things.ts";
import { type Asked, refused, serve, Store } from "./page.ts";

beforeEach(() => {
  vi.stubGlobal("localStorage", new Store());
  vi.useFakeTimers();
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const [BOX, COLLAR, CUFF, MOSS, CLAY, LINE, SEED, GREEN, RED] = ids(1, 2, 3, 4, 5, 6, 7, 8, 9);
const design = (name: string, steps: string, keys: Design["key"]): Design => ({
  format: "jar-count/design",
  version: 1,
  name,
  key: keys,
  parts: [{ id: "p", name: "Strand", steps }],
});
const A = { key: "A", id: "seed", name: "11/0 seed", kind: "bead" as const, alongMm: 1.4 };
const B = { key: "B", id: "round", name: "6 mm round", kind: "bead" as const, alongMm: 6 };
const summary = (of: string, revision: number, d: Design): DesignSummary => ({
  id: of,
  name: d.name,
  revision,
  savedAt: "2027-03-01T09:00:00Z",
  lastUsed: null,
  components: [],
  archived: false,
  design: d,
});
const component = (n: number, name: string, more: Partial<Component> = {}): Component =>
  thing(n, { name, onHand: 100, averageCost: "0.05", ...more });
const LIBRARY = [summary(COLLAR, 2, design("Collar", "10A", [A])), summary(CUFF, 1, design("Cuff", "4A 2B", [A, B]))];
const COMPONENTS = [component(8, "green"), component(9, "red")];
const FOUND: BoxDetail = {
  box: {
    ...EMPTY_BOX,
    id: BOX,
    version: 5,
    month: "2027-04",
    theme: "Apiary",
    lines: [{ id: LINE, designId: COLLAR, revision: 1, times: 1, size: null, option: null }],
    colourways: [
      { id: MOSS, name: "Moss" },
      { id: CLAY, name: "Clay" },
    ],
    variants: [
      { first: MOSS, second: null, boxes: 10 },
      { first: CLAY, second: null, boxes: 5 },
    ],
    roles: [{ id: SEED, name: "11/0 seed", kind: "bead", follows: "first" }],
    bindings: [{ line: LINE, role: "seed", boxRole: SEED }],
    picks: [{ boxRole: SEED, first: MOSS, second: null, component: GREEN }],
  },
  designs: [{ designId: COLLAR, revision: 1, newest: 2, design: design("Collar", "7A", [A]) }],
  spares: [],
  ruler: "in",
  components: [COMPONENTS[0]!],
};
const store = () => makeBoxStore(FOUND, LIBRARY, COMPONENTS);

describe("what follows from a box", () => {
  test("it is counted by the revision it holds, though a newer one is in the library", () => {
    const { work } = store();
    const { bill, cost, designs } = work.getState();
    expect(bill.variants[0]!.needs.map((n) => [n.component.id, n.run])).toEqual([[GREEN, 70]]);
    expect(cost.variants[0]).toMatchObject({ run: "3.50", boxes: 10 });
    expect(designs.filter((d) => d.designId === COLLAR).map((d) => [d.revision, d.newest])).toEqual([
      [2, 2],
      [1, 2],
    ]);
    expect(boxesOf(work.getState().box)).toBe(15);
  });
  test("a choice in a colourway changes its needs and leaves the lists of other roles what they were", () => {
    const { edit, work } = store();
    const before = work.getState();
    edit(choose(SEED, CLAY, RED));
    const after = work.getState();
    expect(after.bill.variants[1]!.needs.map((n) => [n.component.id, n.run])).toEqual([[RED, 35]]);
    expect(after.picksOf.get(SEED)).not.toBe(before.picksOf.get(SEED));
    edit(setBoxes(CLAY, 20));
    expect(work.getState().picksOf.get(SEED)).toBe(after.picksOf.get(SEED));
    expect(work.getState().bill.variants[1]!.needs[0]!.run).toBe(140);
    expect(work.getState().detail.components).toBe(after.detail.components);
  });
  test("a line that is added brings its roles to the tray, joined to those of the same name", () => {
    const { edit, work } = store();
    const line = { id: id(20), designId: CUFF, revision: 1, times: 2, size: null, option: null };
    edit((box) => ({ ...box, lines: [...box.lines, line] }));
    const { box, bill } = work.getState();
    expect(box.roles.map((r) => r.name)).toEqual(["11/0 seed", "6 mm round"]);
    expect(box.bindings.filter((b) => b.boxRole === SEED).map((b) => b.line)).toEqual([LINE, line.id]);
    // Seven of the collar and twice four of the cuff, for ten boxes.
    expect(bill.variants[0]!.needs.find((n) => n.component.id === GREEN)!.run).toBe(150);
    expect(bill.variants[0]!.gaps.map((g) => [g.boxRole.name, g.perBox])).toEqual([["6 mm round", 4]]);
  });
  test("an undo brings back box and counts together", () => {
    const { draft, edit, work } = store();
    edit(setBoxes(MOSS, 1));
    expect(work.getState().bill.variants[0]!.needs[0]!.run).toBe(7);
    draft.temporal.getState().undo();
    expect(work.getState().bill.variants[0]!.needs[0]!.run).toBe(70);
  });
  test("components that moved meanwhile are taken over, and what was typed stays", () => {
    const { edit, follow, work } = store();
    edit(setBoxes(MOSS, 12));
    follow(FOUND, LIBRARY, [component(8, "green", { averageCost: "0.10" }), COMPONENTS[1]!]);
    expect(work.getState().box.variants[0]!.boxes).toBe(12);
    expect(work.getState().cost.variants[0]!.run).toBe("8.40");
    const { bill } = work.getState();
    follow(FOUND, work.getState().library, work.getState().components);
    expect(work.getState().bill).toBe(bill);
  });
});

describe("saving by itself", () => {
  const saved = ({ body }: Asked) => {
    const { version } = body as { version: number };
    return { body: { version: version + 1, variants: 2, boxes: 15, roles: 1 } };
  };
  const writes = (asked: readonly Asked[]) => asked.filter((a) => a.method !== "GET");
  const passes = (ms: number) => vi.advanceTimersByTimeAsync(ms);

  test("a moment after the last change, what changed and nothing else", async () => {
    const asked = serve(saved);
    const { draft, edit } = store();
    const stop = saveByItself(draft);
    edit(setBoxes(MOSS, 11));
    await passes(400);
    edit(setBoxes(MOSS, 12));
    await passes(400);
    expect(writes(asked)).toEqual([]);
    await passes(200);
    expect(writes(asked)).toHaveLength(1);
    expect(writes(asked)[0]).toMatchObject({
      path: `/boxes/${BOX}`,
      body: { version: 5, changes: { variants: { put: [{ first: MOSS, second: null, boxes: 12 }] } } },
    });
    expect(Object.keys((writes(asked)[0]!.body as { changes: object }).changes)).toEqual(["variants"]);
    await passes(10_000);
    expect(writes(asked)).toHaveLength(1);
    expect(draft.getState()).toMatchObject({ version: 6, saving: "idle" });
    stop();
  });
  test("without a connection it tries again, every few seconds, until it got through", async () => {
    let away = true;
    const asked = serve((a) => (away ? "away" : saved(a)));
    const { draft, edit } = store();
    const stop = saveByItself(draft);
    edit(setBoxes(MOSS, 11));
    await passes(600);
    expect(draft.getState().saving).toBe("away");
    await passes(4_100);
    expect(writes(asked)).toHaveLength(2);
    // The same write each time: what got through, and only its answer was lost, happens once.
    const keys = writes(asked).map((a) => (a.body as { requestKey: string }).requestKey);
    expect(new Set(keys).size).toBe(1);
    away = false;
    await passes(4_100);
    expect(draft.getState()).toMatchObject({ version: 6, saving: "idle" });
    stop();
  });
  test("what the server refuses is not sent again until something is changed", async () => {
    let refuses = true;
    const asked = serve((a) => (refuses ? refused("invalid", "No.") : saved(a)));
    const { draft, edit } = store();
    const stop = saveByItself(draft);
    edit(setBoxes(MOSS, 11));
    await passes(600);
    await passes(20_000);
    expect(writes(asked)).toHaveLength(1);
    refuses = false;
    edit(setBoxes(MOSS, 10));
    edit(setBoxes(CLAY, 9));
    await passes(600);
    expect(writes(asked)).toHaveLength(2);
    stop();
  });
  test("once it is stopped, what was changed is sent at once, and nothing more", async () => {
    const asked = serve(saved);
    const { draft, edit } = store();
    const stop = saveByItself(draft);
    edit(setBoxes(MOSS, 11));
    stop();
    edit(setBoxes(MOSS, 12));
    await passes(5_000);
    expect(writes(asked)).toHaveLength(1);
    expect(JSON.stringify(writes(asked)[0]!.body)).toContain('"boxes":11');
  });
});

describe("what it shares with other boxes", () => {
  const OTHER = id(40);
  const shares = (quantity: number): Shares => ({
    today: "2027-01-01",
    boxes: [
      { id: OTHER, theme: "Before", month: "2027-03", packBy: "2027-02-20", state: "planned" },
      { id: BOX, theme: "Apiary", month: "2027-04", packBy: "2027-03-20", state: "planned" },
    ],
    claims: [{ box: OTHER, component: GREEN, from: null, quantity, cuts: [] }],
    supplies: [],
    pools: [{ component: GREEN, onHand: 100, aside: 0, pieces: [], asideCuts: [] }],
  });
  test("a shortage follows the others, and the box's own day, at every change", () => {
    const { work, edit, share } = store();
    const green = () => work.getState().bill.totals.find((t) => t.component.id === GREEN)!;
    expect(green()).toMatchObject({ run: 70, left: 100, short: 0, because: [] });
    share(shares(60));
    expect(green()).toMatchObject({ left: 40, short: 30, because: [{ box: OTHER, quantity: 60 }] });
    edit((b) => ({ ...b, packBy: "2027-02-19" }));
    expect(green()).toMatchObject({ left: 100, short: 0, because: [] });
    edit((b) => ({ ...b, packBy: null }));
    edit(setBoxes(MOSS, 4));
    expect(green()).toMatchObject({ run: 28, left: 40, short: 0 });
    // What the shares know nothing of yet is judged by what is free.
    edit(choose(SEED, CLAY, RED));
    expect(work.getState().bill.totals.find((t) => t.component.id === RED)).toMatchObject({ left: 100 });
  });
  test("spares said for some roles, and what lies beside the designs, are counted at once", () => {
    const { work, edit } = store();
    const need = () => work.getState().bill.variants[0]!.needs[0]!;
    edit(setSpare(new Set([SEED]), 3));
    expect(need()).toMatchObject({ perBox: 7, spare: 3, run: 100 });
    edit(setSpare(new Set([SEED]), null));
    expect(need()).toMatchObject({ spare: 0, run: 70 });
    edit((b) => ({ ...b, contents: [{ id: id(50), component: GREEN, first: MOSS, quantity: 5 }] }));
    expect(need()).toMatchObject({ perBox: 12, run: 120 });
    edit(setOnceABox(SEED, true));
    expect(work.getState().box.roles[0]).toMatchObject({ onceABox: true });
  });
});
