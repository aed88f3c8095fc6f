import type { Design, DesignSummary } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { makeBenchStore } from "../src/features/bench/benchStore.ts";
import { type Builder, makeBuilder } from "../src/features/bench/builder.ts";
import { freeKey, keysOf, sameButRows } from "../src/features/bench/designs.ts";
import { id } from "../../core/test/things.ts";
import { refused, serve, Store } from "./page.ts";

beforeEach(() => vi.stubGlobal("localStorage", new Store()));
afterEach(() => vi.unstubAllGlobals());

const DESIGN: Design = {
  format: "jar-count/design",
  version: 1,
  name: "Kiln Collar",
  key: [
    { key: "A", id: id(1), name: "6 mm round", kind: "bead", alongMm: 6, acrossMm: 6 },
    { key: "b", id: id(2), name: "11/0 seed", kind: "bead", alongMm: 1.4, acrossMm: 2 },
    { key: "C", id: id(3), name: "8 mm cube", kind: "bead", alongMm: 8, acrossMm: 8 },
    { key: "T", id: id(4), name: "Thread", kind: "stringing" },
  ],
  sizes: [{ key: "S" }, { key: "M" }, { key: "L" }],
  options: [{ key: "clasp" }, { key: "tied" }],
  parts: [
    { id: "drop", name: "Drop", as: "D", steps: "C" },
    { id: "strand", name: "Strand", steps: "3A b (A b) x2 size{S: | M: A | L: 2A}", stringing: "T", tailMm: 50 },
  ],
};
const found = (design = DESIGN): DesignSummary => ({
  id: id(9),
  name: design.name,
  revision: 3,
  savedAt: "2027-03-01T09:00:00Z",
  lastUsed: null,
  components: [],
  archived: false,
  design,
});
const bench = (design = DESIGN) => {
  const store = makeBenchStore(found(design));
  const builder = makeBuilder(store);
  const now = () => store.state.getState();
  const rows = () => now().part!.steps!;
  return { store, builder, now, rows };
};
/** The marks of the part at hand, as they stand on the strand. */
const marks = ({ now }: ReturnType<typeof bench>) => now().picture!.marks;
const press = (builder: Builder, key: string, more: { shiftKey?: boolean; ctrlKey?: boolean } = {}) => {
  let taken = false;
  const event = { key, shiftKey: false, ...more, preventDefault: () => (taken = true), stopPropagation: () => {} };
  builder.onKey(event as never);
  return taken;
};

describe("what the bench shows first", () => {
  test("the first part that is no sub-assembly, the middle size and the first option", () => {
    const { now } = bench();
    expect(now()).toMatchObject({ size: "M", option: "clasp", part: { id: "strand" } });
    expect(now().columns.map((c) => c.label)).toEqual(["S", "M", "L"]);
    expect(now().counting).toBe(now().columns[1]!.counting);
  });
  test("a size or an option that the design lacks is not taken from the address", () => {
    const { store, now } = bench();
    store.set({ askedSize: "XL", askedOption: "glued" });
    expect(now()).toMatchObject({ size: "M", option: "clasp" });
    store.set({ askedSize: "L", askedOption: "tied" });
    expect(now()).toMatchObject({ size: "L", option: "tied" });
    expect(now().counting.answer.counts.A).toBe(7);
  });
  test("a design without sizes is counted once, as an item", () => {
    const { now } = bench({ ...DESIGN, sizes: null, parts: [{ id: "p", name: "P", steps: "2A" }] });
    expect(now().size).toBeNull();
    expect(now().columns.map((c) => c.label)).toEqual(["an item"]);
    expect(now().counting.answer.counts).toEqual({ A: 2 });
  });
});

describe("what follows from an edit", () => {
  test("counts, picture and what changed since the last save follow the rows", () => {
    const { store, now } = bench();
    expect(now().before).toBeNull();
    store.editPart({ steps: "5A" });
    expect(now().counting.answer.counts).toEqual({ A: 5 });
    expect(now().picture!.marks).toHaveLength(5);
    expect(now().before!.answer.counts).toEqual(countWhole(DESIGN, { size: "M", option: "clasp" }).answer.counts);
    store.draft.temporal.getState().undo();
    expect(now().before).toBeNull();
    expect(now().counting.answer.counts.A).toBe(6);
  });
  test("typing rows keeps the frame that lists read; another name or measure makes a new one", () => {
    const { store, now } = bench();
    const { frame, looks } = now();
    store.editPart({ steps: "4A" });
    expect(now().frame).toBe(frame);
    expect(now().looks).toBe(looks);
    store.editDesign({ name: "Another" });
    expect(now().frame).not.toBe(frame);
    expect(now().looks).toBe(looks);
    store.editKey((key) => key.map((e) => (e.key === "A" ? { ...e, alongMm: 8 } : e)));
    expect(now().looks).not.toBe(looks);
  });
  test("keys that nothing uses, and keys of the rows that the bead key lacks", () => {
    const { store, now } = bench();
    expect(now()).toMatchObject({ unused: [], missing: [] });
    store.editPart({ steps: "A Z D" });
    expect(now()).toMatchObject({ unused: ["b"], missing: ["Z"] });
  });
  test("a renamed key keeps its id and is renamed in the rows", () => {
    const { store, now, rows } = bench();
    store.rename("A", "R");
    expect(rows()).toBe("3R b (R b) x2 size{S: | M: R | L: 2R}");
    expect(now().design.key[0]).toMatchObject({ key: "R", id: id(1) });
  });
});

describe("going to a place", () => {
  test("it is lit in text and picture until something changes", () => {
    const { store, now } = bench();
    store.show("strand", "b", { from: 3, to: 4 });
    expect(now().goTo).toEqual({ part: "strand", row: 1, from: 3, to: 4 });
    expect(now().lit).toEqual({ key: "b", part: "strand", from: 3, to: 4 });
    store.editPart({ steps: "3A b" });
    expect(now().lit).toBeNull();
  });
  test("a place beyond the text, as of an older revision, lights the key and goes nowhere", () => {
    const { store, now } = bench();
    store.show("drop", "C", { from: 40, to: 41 });
    expect(now().goTo).toBeNull();
    expect(now().part!.id).toBe("drop");
  });
  test("what is pointed at in the picture wins over what stays lit", () => {
    const { store, now } = bench();
    store.show("strand", "b", { from: 3, to: 4 });
    store.set({ pointed: { key: "A", part: "strand", from: 0, to: 2 } });
    expect(now().lit).toMatchObject({ key: "A" });
    store.set({ pointed: { key: "A" } });
    expect(now().lit).toMatchObject({ key: "b" });
  });
});

describe("choosing on the strand", () => {
  test("a bead, and everything from it to another", () => {
    const at = bench();
    at.builder.choose(1, false);
    expect(marks(at).map(at.now().isChosen)).toEqual([false, true, ...Array(7).fill(false)]);
    at.builder.choose(3, true);
    expect(at.now().chosen).toEqual({ text: "2A b", beads: 3 });
    at.builder.choose(8, false);
    expect(marks(at).filter(at.now().isChosen)).toEqual([marks(at)[8]]);
  });
  test("arrows go along the strand and stop at its ends; shift takes along; Escape lets go", () => {
    const at = bench();
    expect(press(at.builder, "ArrowRight")).toBe(true);
    expect(at.now().selected!.cursor).toBe(0);
    press(at.builder, "ArrowLeft");
    expect(at.now().selected!.cursor).toBe(0);
    press(at.builder, "End");
    expect(at.now().selected!.cursor).toBe(8);
    press(at.builder, "ArrowRight");
    expect(at.now().selected!.cursor).toBe(8);
    press(at.builder, "Home", { shiftKey: true });
    expect(at.now().chosen!.beads).toBe(9);
    press(at.builder, "Escape");
    expect(at.now().selected).toBeNull();
    press(at.builder, "ArrowLeft");
    expect(at.now().selected!.cursor).toBe(8);
  });
  test("keys of the browser and letters that mean nothing are left alone", () => {
    const { builder } = bench();
    expect(press(builder, "z")).toBe(false);
    expect(press(builder, "r", { ctrlKey: true })).toBe(false);
    expect(press(builder, "4")).toBe(false);
  });
  test("a bead of another part takes one to that part; a stretch never leaves its part", () => {
    const at = bench({ ...DESIGN, parts: [DESIGN.parts[0]!, { ...DESIGN.parts[1]!, steps: "A D" }] });
    const other = marks(at).findIndex((m) => m.part === "drop");
    expect(other).toBeGreaterThan(0);
    at.builder.choose(other, true);
    expect(at.now().selected).toBeNull();
    at.builder.choose(other, false);
    expect(at.now().part?.id).toBe("drop");
    expect(at.now().selected?.part).toBe("drop");
  });
});

describe("building", () => {
  test("without a choice each act says how to choose, and changes nothing", () => {
    const { builder, now, rows } = bench();
    for (const act of ["repeat", "mirror", "fringe", "loop", "pass", "size", "remove"] as const) {
      builder.act(act);
      expect(now().fault, act).toContain("Choose beads on the strand first");
      expect(rows()).toBe(DESIGN.parts[1]!.steps);
    }
  });
  test.each([
    ["r", "(2A b) x2", 12],
    ["m", "(2A b) mirror", 12],
    ["f", "fringe(", 9],
    ["p", " >(2A b)", 9],
    ["Delete", "A (A b) x2", 6],
  ])("%s on two rounds and a seed of nine beads", (key, text, beads) => {
    const at = bench();
    const inAll = () => Object.values(at.now().counting.answer.counts).reduce((a, b) => a + b, 0);
    expect(inAll()).toBe(9);
    at.builder.choose(1, false);
    at.builder.choose(3, true);
    press(at.builder, key);
    expect(at.rows()).toContain(text);
    expect({ fault: at.now().fault, beads: inAll() }).toEqual({ fault: null, beads });
    at.store.draft.temporal.getState().undo();
    expect(at.rows()).toBe(DESIGN.parts[1]!.steps);
  });
  test("an act that would bring an error is not done, and its error is said", () => {
    const at = bench({ ...DESIGN, parts: [{ id: "strand", name: "Strand", steps: "(3A) x90000" }] });
    at.builder.choose(0, false);
    at.builder.act("repeat", 100_000);
    expect(at.now().fault).toBeTruthy();
    expect(at.rows()).toBe("(3A) x90000");
    at.builder.choose(1, false);
    expect(at.now().fault).toBeNull();
  });
  test("digits typed after one another make one number; another choice begins anew", () => {
    const at = bench();
    at.builder.choose(0, false);
    press(at.builder, "1");
    expect(at.rows()).toMatch(/^A b/);
    press(at.builder, "2");
    expect(at.rows()).toMatch(/^12A b/);
    press(at.builder, "Home");
    press(at.builder, "4");
    expect(at.rows()).toMatch(/^4A b/);
  });
  test("a key goes behind what is chosen, else to the end; the same key becomes one more", () => {
    const at = bench({ ...DESIGN, parts: [{ id: "p", name: "P", steps: "2A b" }] });
    at.builder.put("C");
    expect(at.rows()).toBe("2A b C");
    at.builder.choose(1, false);
    at.builder.put("A");
    expect(at.rows()).toBe("3A b C");
    at.builder.choose(0, false);
    at.builder.put("C");
    expect(at.rows().replace(/\s+/g, " ")).toBe("A C 2A b C");
  });
  test("a key is dropped beside a bead, and a chosen stretch is moved there", () => {
    const at = bench({ ...DESIGN, parts: [{ id: "p", name: "P", steps: "2A b C" }] });
    at.builder.onDrop("b", 3, "before");
    expect(at.rows().replace(/\s+/g, " ")).toBe("2A 2b C");
    at.builder.choose(4, false);
    at.builder.onDrop(null, 0, "before");
    expect(at.rows().replace(/\s+/g, " ")).toBe("C 2A 2b");
    const { text } = at.now().chosen!;
    expect(text).toBe("C");
  });
  test("a copied row stands under the one it was made of", () => {
    const at = bench({ ...DESIGN, parts: [{ id: "p", name: "P", steps: "2A b\n3C" }] });
    at.builder.choose(0, false);
    at.builder.copyRow();
    expect(at.rows()).toBe("2A b\n2A b\n3C");
  });
});

describe("saving", () => {
  test("a design that can't be saved says where, and asks nothing of the server", async () => {
    const asked = serve(() => ({ body: {} }));
    const { store, now } = bench();
    store.editDesign({ name: "" });
    await store.save();
    expect(asked).toEqual([]);
    expect(now().saveFaults).toEqual([expect.stringContaining("name")]);
  });
  test("what changed is sent with its revision and the person's words, which are then used up", async () => {
    const asked = serve(({ method }) =>
      method === "PUT"
        ? { body: { id: id(9), name: "x", revision: 4, savedAt: "2027-03-02T09:00:00Z" } }
        : { body: [] },
    );
    const { store, now } = bench();
    store.editPart({ steps: "5A" });
    store.set({ why: "  five are enough " });
    await store.save();
    expect(asked[0]).toMatchObject({ method: "PUT", path: `/designs/${id(9)}` });
    expect(asked[0]!.body).toMatchObject({ revision: 3, reason: "five are enough" });
    expect(now().why).toBe("");
    expect(now().before).toBeNull();
    expect(store.draft.getState().version).toBe(4);
  });
  test("a refusal keeps the words and the rows", async () => {
    serve(() => refused("invalid", "This can't be saved."));
    const { store, now, rows } = bench();
    store.editPart({ steps: "5A" });
    store.set({ why: "five" });
    await store.save();
    expect(now().why).toBe("five");
    expect(rows()).toBe("5A");
    expect(store.draft.getState()).toMatchObject({ saving: "refused", refusal: { detail: "This can't be saved." } });
  });
});

test("the next free key is a letter that looks like no other, then numbered ones", () => {
  expect(freeKey(new Set())).toBe("A");
  expect(freeKey(keysOf(DESIGN))).toBe("B");
  const letters = new Set("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz");
  expect(freeKey(letters)).toBe("A1");
  expect(freeKey(letters.add("A1"))).toBe("A2");
  // x is how often, so it is no key that is offered.
  expect(freeKey(new Set([...letters].filter((l) => l !== "x")))).toBe("A2");
});

test("two states of a design are the same but for their rows, or not", () => {
  const [drop, strand] = DESIGN.parts as [Design["parts"][number], Design["parts"][number]];
  const typed = { ...DESIGN, parts: [drop, { ...strand, steps: "9A" }] };
  expect(sameButRows(DESIGN, typed)).toBe(true);
  expect(sameButRows(DESIGN, { ...DESIGN, parts: [drop, { ...strand, tailMm: 60 }] })).toBe(false);
  expect(sameButRows(DESIGN, { ...DESIGN, parts: [drop] })).toBe(false);
  for (const change of [{ name: "x" }, { key: [] }, { sizes: [] }, { options: [] }, { uses: [] }, { minutes: 9 }])
    expect(sameButRows(DESIGN, { ...DESIGN, ...change }), JSON.stringify(change)).toBe(false);
});
