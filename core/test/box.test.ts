import fc from "fast-check";
import { expect, test } from "vitest";
import { makeBilling, billOf } from "../src/bom/index.ts";
import { applyChanges, changesOf, EMPTY_BOX, hasChanges } from "../src/box/index.ts";
import type { BoxDetail, BoxInput, Component } from "../src/contract/index.ts";
import { parsePattern } from "../src/shorthand/index.ts";
import { written } from "./designs.ts";
import { component as thing } from "./things.ts";

const ids = ["a", "b", "c", "d"].map((x) => `${x.repeat(8)}-0000-4000-8000-000000000000`);
const anyId = fc.constantFrom(...ids);
const byKey = <T>(rows: fc.Arbitrary<T>, key: (row: T) => string) =>
  fc.uniqueArray(rows, { selector: key, maxLength: 4 });
const choice = fc.record({ id: anyId, name: fc.constantFrom("Moss", "Clay") });
const orNone = fc.option(anyId);
const box: fc.Arbitrary<BoxInput> = fc.record({
  month: fc.constantFrom("2027-04", "2027-05"),
  theme: fc.constantFrom("Glaze Shelf", "Apiary"),
  lines: byKey(
    fc.record({
      id: anyId,
      designId: anyId,
      revision: fc.integer({ min: 1, max: 2 }),
      times: fc.integer({ min: 1, max: 3 }),
      size: fc.constant(null),
      option: fc.constant(null),
    }),
    (l) => l.id,
  ),
  colourways: byKey(choice, (c) => c.id),
  seconds: byKey(choice, (c) => c.id),
  variants: byKey(
    fc.record({ first: anyId, second: orNone, boxes: fc.integer({ min: 0, max: 9 }) }),
    (v) => `${v.first} ${v.second}`,
  ),
  roles: byKey(
    fc.record({
      id: anyId,
      name: fc.constantFrom("seed", "round"),
      kind: fc.constant("bead" as const),
      follows: fc.constantFrom("first" as const, "none" as const),
    }),
    (r) => r.id,
  ),
  packBy: fc.constantFrom(null, "2027-03-20", "2027-04-01"),
  bagging: fc.constantFrom("together" as const, "project" as const),
  contents: byKey(
    fc.record({ id: anyId, component: anyId, first: orNone, quantity: fc.integer({ min: 1, max: 5 }) }),
    (c) => c.id,
  ),
  bindings: byKey(
    fc.record({ line: anyId, role: fc.constantFrom("r 1", "r2"), boxRole: anyId }),
    (b) => `${b.line} ${b.role}`,
  ),
  prices: byKey(fc.record({ channel: anyId, single: fc.constantFrom("24", "22.50") }), (p) => p.channel),
  overrules: byKey(
    fc.record({
      id: anyId,
      line: anyId,
      first: anyId,
      second: fc.constant(null),
      component: anyId,
      rule: fc.constantFrom("hole" as const, "pin" as const),
      part: fc.constant("p"),
      roleId: fc.constant("r1"),
      size: fc.constant(null),
      need: fc.nat(9),
      have: fc.nat(9),
      note: fc.constantFrom("tried", "tried twice"),
      who: fc.constant(""),
      on: fc.constant("2027-03-02"),
    }),
    (o) => o.id,
  ),
  whatIfs: byKey(
    fc.record({
      id: anyId,
      name: fc.constantFrom("dearer", "fewer"),
      changes: fc.array(fc.record({ what: fc.constant("boxes" as const), boxes: fc.nat(9) }), { maxLength: 2 }),
    }),
    (w) => w.id,
  ),
  picks: byKey(
    fc.record({ boxRole: anyId, first: orNone, second: orNone, component: anyId }),
    (p) => `${p.boxRole} ${p.first} ${p.second}`,
  ),
});
/** Bindings and choices stand in no order. */
const sorted = (b: BoxInput) => ({
  ...b,
  bindings: [...b.bindings].sort((x, y) => JSON.stringify(x).localeCompare(JSON.stringify(y))),
  picks: [...b.picks].sort((x, y) => JSON.stringify(x).localeCompare(JSON.stringify(y))),
});

test("law: a box with the changes to another made to it is that other, and the same box has none", () => {
  fc.assert(
    fc.property(box, box, (before, after) => {
      expect(sorted(applyChanges(before, changesOf(before, after)))).toEqual(sorted(after));
      expect(hasChanges(changesOf(after, structuredClone(after)))).toBe(false);
      expect(sorted(applyChanges(EMPTY_BOX, changesOf(EMPTY_BOX, after)))).toEqual(sorted(after));
    }),
  );
});

const component = (n: number, alongMm: number): Component =>
  thing(n, { id: ids[n]!, name: `bead ${n}`, alongMm, onHand: 100 });
const detail = (boxes: readonly number[], picked: readonly number[]): BoxDetail => {
  const [line, role] = [ids[0]!, ids[1]!];
  const colourways = boxes.map((_, w) => ({ id: ids[w]!, name: `Way ${w}` }));
  return {
    box: {
      id: ids[0]!,
      version: 1,
      month: "2027-04",
      theme: "Apiary",
      lines: [{ id: line, designId: ids[0]!, revision: 1, times: 2, size: null, option: null }],
      colourways,
      prices: [],
      whatIfs: [],
      overrules: [],
      seconds: [],
      variants: boxes.map((n, w) => ({ first: ids[w]!, second: null, boxes: n })),
      roles: [{ id: role, name: "A", kind: "bead", follows: "first" }],
      contents: [],
      bagging: "together",
      bindings: [{ line, role: "A", boxRole: role }],
      picks: picked.map((c, w) => ({ boxRole: role, first: ids[w]!, second: null, component: ids[c]! })),
    },
    designs: [{ designId: ids[0]!, revision: 1, newest: 1, design: DESIGN }],
    spares: [],
    ruler: "in" as const,
    components: COMPONENTS,
  };
};
const DESIGN = written("(A) to 40mm");
const COMPONENTS = [component(0, 2), component(1, 3), component(2, 4)];

test("law: bills one after another say what each would say alone", () => {
  const state = fc.tuple(
    fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 2, maxLength: 2 }),
    fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 2, maxLength: 2 }),
  );
  fc.assert(
    fc.property(fc.array(state, { minLength: 2, maxLength: 6 }), (states) => {
      const billing = makeBilling();
      for (const [boxes, picked] of states) {
        const now = detail(boxes, picked);
        expect(billing(now)).toEqual(billOf(now));
      }
    }),
  );
});

test("a variant whose choices and boxes stay is the same object in the next bill; another is not", () => {
  const billing = makeBilling();
  const first = detail([5, 7], [0, 1]);
  const before = billing(first);
  const variants = first.box.variants.with(0, { ...first.box.variants[0]!, boxes: 6 });
  const after = billing({ ...first, box: { ...first.box, variants } });
  expect(after.variants[1]).toBe(before.variants[1]);
  expect(after.variants[0]!.needs[0]).toMatchObject({ perBox: 40, run: 240 });
});

test("a text of stray marks alone has its first fifty problems, and a sound one behind them is read", () => {
  const marks = parsePattern("%".repeat(19_990));
  expect(marks.problems.length).toBeGreaterThan(0);
  const mixed = parsePattern(`${") ".repeat(300)}\nRow 2: 3A`);
  expect(mixed.rows.at(-1)!.steps).toMatchObject([{ type: "pick", key: "A", n: 3 }]);
});
