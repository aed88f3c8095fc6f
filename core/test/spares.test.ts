import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { BESIDE, billOf, countRows, originsOfNeed, SAID_HERE, TOGETHER } from "../src/bom/index.ts";
import { type BoxContent, type BoxDetail, type Component, SpareRule, TRADE_SPARES } from "../src/contract/index.ts";
import { closingKeys } from "../src/count/index.ts";
import { design } from "./designs.ts";
import { component as thing, id } from "./things.ts";

const [BEAD, SEED, CRIMP, NEEDLE, WIRE, CARD] = [1, 2, 3, 4, 5, 6];
const COMPONENTS: Component[] = [
  thing(BEAD, { name: "round", alongMm: 6 }),
  thing(SEED, { name: "seed", alongMm: 2, baseUnit: "g", perGram: 40 }),
  thing(CRIMP, { name: "crimp", kind: "finding", form: "crimp tube" }),
  thing(NEEDLE, { name: "needle", kind: "consumable", form: "needle" }),
  thing(WIRE, { name: "wire", kind: "stringing", form: "beading wire", baseUnit: "mm" }),
  thing(CARD, { name: "card", kind: "packaging", form: "card" }),
];
const MOSS = id(900);
const KEYS = [
  { key: "A", name: "round", kind: "bead" as const, alongMm: 6 },
  { key: "s", name: "seed", kind: "bead" as const, alongMm: 2 },
  { key: "CR", name: "crimp", kind: "finding" as const },
  { key: "N", name: "needle", kind: "consumable" as const },
  { key: "W", name: "wire", kind: "stringing" as const },
];

/** A box of designs with these rows: a needle once a kit, two crimps and 300 mm of wire an item. */
function box(rows: string[], more: Partial<BoxDetail["box"]> = {}, spares = [...TRADE_SPARES]): BoxDetail {
  const roles = KEYS.map((k, i) => ({ id: id(800 + i), name: k.name, kind: k.kind, follows: "none" as const }));
  const lines = rows.map((_, i) => ({
    id: id(700 + i),
    designId: id(600 + i),
    revision: 1,
    times: 1,
    size: null,
    option: null,
  }));
  return {
    box: {
      id: id(500),
      version: 1,
      month: "2027-05",
      theme: "Moss",
      packBy: null,
      lines,
      contents: [],
      bagging: "together",
      colourways: [{ id: MOSS, name: "Moss" }],
      seconds: [],
      prices: [],
      whatIfs: [],
      overrules: [],
      variants: [{ first: MOSS, second: null, boxes: 10 }],
      roles,
      bindings: lines.flatMap((l) => KEYS.map((k, i) => ({ line: l.id, role: k.key, boxRole: roles[i]!.id }))),
      picks: KEYS.map((_, i) => ({ boxRole: roles[i]!.id, first: null, second: null, component: id(i + 1) })),
      ...more,
    },
    designs: rows.map((steps, i) => ({
      designId: id(600 + i),
      revision: 1,
      newest: 1,
      design: design({
        key: KEYS,
        parts: [
          {
            id: "p",
            name: "p",
            steps,
            targetMm: 60,
            stringing: "W",
            cutMm: 300,
            uses: [{ key: "CR", count: 2 }],
          },
        ],
        uses: [{ key: "N", count: 1, per: "kit" }],
      }),
    })),
    components: COMPONENTS,
    spares,
    ruler: "mm",
  };
}
const needOf = (detail: BoxDetail, n: number) =>
  billOf(detail).variants[0]!.needs.find((x) => x.component.id === id(n))!;
const content = (n: number, more: Partial<BoxContent> = {}): BoxContent => ({
  id: id(650 + n),
  component: id(n),
  first: null,
  quantity: 1,
  ...more,
});

describe("what is put in to spare", () => {
  test("by the trade's rules (common practice): each says which one gave it, rounded up in each box", () => {
    const detail = box(["8A 33s"]);
    // 8 rounds are up to 25: one more. 33 seeds in grams: a tenth is 3.3, so 4 of them, 0.1 g.
    expect(needOf(detail, BEAD)).toMatchObject({
      perBox: 8,
      spare: 1,
      run: 90,
      rule: "one more of up to 25",
    });
    expect(needOf(detail, SEED)).toMatchObject({
      perBox: 0.825,
      spare: 0.1,
      run: 9.25,
      rule: "a tenth over by weight",
    });
    expect(needOf(detail, CRIMP)).toMatchObject({ perBox: 2, spare: 2, run: 40, rule: "two more crimps and covers" });
    expect(needOf(detail, NEEDLE)).toMatchObject({ perBox: 1, spare: 1, run: 20, rule: "a second needle" });
    // A cut has its working room: no rule of the trade puts another one in.
    expect(needOf(detail, WIRE)).toMatchObject({ perBox: 300, spare: 0, rule: null, pieces: [{ mm: 300, count: 1 }] });
  });
  test("two more of what closes a size, however many there are", () => {
    const detail = box(["(12A) to length fill A"]);
    expect([...closingKeys(detail.designs[0]!.design)]).toEqual(["A"]);
    expect(needOf(detail, BEAD)).toMatchObject({ spare: 2, rule: "two more of what closes a size" });
  });
  test("nothing single is doubled: no clasp, focal or dear piece; one of up to 25, two of 26 and over", () => {
    const priced = (rows: string[], costs: Record<number, string>, more: Record<number, object> = {}) => {
      const detail = box(rows);
      return {
        ...detail,
        components: detail.components.map((c, i) => ({ ...c, ...more[i], lastCost: costs[i] ?? null })),
      };
    };
    const spare = (detail: BoxDetail, n = BEAD) => needOf(detail, n);
    for (const [n, more] of [
      [1, 1],
      [13, 1],
      [25, 1],
      [26, 2],
      [40, 2],
    ] as const)
      expect([n, spare(priced([`${n}A`], {})).spare]).toEqual([n, more]);
    // 10 at 0.10 and 40 seeds of which a gram costs 1.00: the box costs 1.00 + 1.00 = 2.00, of which a tenth is 0.20.
    expect(spare(priced(["10A 40s"], { 0: "0.10", 1: "1.00" }))).toMatchObject({
      spare: 1,
      rule: "one more of up to 25",
    });
    // One at 0.50 beside the seeds is a third of 1.50.
    expect(spare(priced(["A 40s"], { 0: "0.50", 1: "1.00" }))).toMatchObject({
      spare: 0,
      rule: "none of what costs over a tenth of the box",
    });
    const single = (more: object) => spare(priced(["A"], {}, { 0: more }));
    expect(single({ kind: "focal", form: "charm" })).toMatchObject({ spare: 0, rule: "no second pendant or focal" });
    expect(single({ kind: "finding", form: "clasp" })).toMatchObject({ spare: 0, rule: "no second clasp" });
  });
  test("the first rule that fits wins; what it does not name fits it; none gives none", () => {
    const rule = (more: object) => SpareRule.parse({ id: JSON.stringify(more), name: "a rule", add: 1, ...more });
    const spare = (rules: SpareRule[], n = BEAD) => needOf(box(["12A 2s"], {}, rules), n).spare;
    expect(spare([])).toBe(0);
    expect(spare([rule({ kinds: ["finding"] }), rule({ add: 3 }), rule({ add: 9 })])).toBe(3);
    expect(spare([rule({ to: 11 })])).toBe(0);
    expect(spare([rule({ from: 12, to: 12 })])).toBe(1);
    expect(spare([rule({ sizes: ["6 mm"] })])).toBe(0);
    expect(spare([rule({ part: 0.1, add: 0 })])).toBe(2);
    expect(spare([rule({ costTo: "0.50" })])).toBe(0); // nobody knows what one costs
  });
  test("what one costs decides where a rule asks for it", () => {
    const detail = box(["12A"], {}, [SpareRule.parse({ id: "r", name: "cheap ones", add: 2, costTo: "0.10" })]);
    const priced = (cost: string) => ({
      ...detail,
      components: detail.components.map((c) => ({ ...c, averageCost: cost })),
    });
    expect(needOf(priced("0.10"), BEAD).spare).toBe(2);
    expect(needOf(priced("0.11"), BEAD).spare).toBe(0);
  });
  test("a line may say otherwise, also none at all; a longer cut is put in whole", () => {
    const detail = box(["8A"]);
    const said = (role: number, spare: number) => ({
      ...detail,
      box: { ...detail.box, roles: detail.box.roles.map((r, i) => (i === role ? { ...r, spare } : r)) },
    });
    expect(needOf(said(0, 5), BEAD)).toMatchObject({ spare: 5, rule: SAID_HERE, run: 130 });
    expect(needOf(said(0, 0), BEAD)).toMatchObject({ spare: 0, rule: SAID_HERE });
    expect(needOf(said(4, 1), WIRE)).toMatchObject({ spare: 300, pieces: [{ mm: 300, count: 2 }], run: 6000 });
  });
  test("by component and bag: a bag for each design has its own spare", () => {
    const rows = ["8A", "4A"];
    expect(needOf(box(rows), BEAD)).toMatchObject({ perBox: 12, spare: 1 }); // 12 in one bag
    const own = needOf(box(rows, { bagging: "project" }), BEAD);
    expect(own).toMatchObject({ perBox: 12, spare: 2, run: 140 });
    expect(own.bags.map((b) => [b.of, b.counted, b.more])).toEqual([
      [id(700), 8, 1],
      [id(701), 4, 1],
    ]);
  });
  test("the counts sheet shows it beside what a box needs, and the run holds both", () => {
    const { rows } = countRows(billOf(box(["8A 33s"])), null);
    const row = (n: number) => rows.find((r) => r.component.id === id(n))!;
    expect(row(BEAD)).toMatchObject({ least: 8, most: 8, spareLeast: 1, spareMost: 1, run: 90 });
    // Seeds are kept in grams and counted in beads.
    expect(row(SEED)).toMatchObject({ least: 33, spareMost: 4, run: 9.25 });
  });
});

describe("what lies in the box beside its designs", () => {
  test("so many of a component, whole packs, and a piece of what is kept by length", () => {
    const detail = box(["8A"], {
      contents: [
        content(CARD),
        content(BEAD, { quantity: 2, pack: { name: "strand of 50", amount: 50 } }),
        content(WIRE, { quantity: 500 }),
      ],
    });
    expect(needOf(detail, CARD)).toMatchObject({ perBox: 1, spare: 0, run: 10, rule: "no packaging to spare" });
    // 8 in the designs' bag with one to spare, and 100 in two whole strands, which have none.
    const bead = needOf(detail, BEAD);
    expect(bead).toMatchObject({ perBox: 108, spare: 1, run: 1090 });
    expect(bead.beside).toEqual([{ content: id(651), perBox: 100, pack: "strand of 50", packs: 2 }]);
    expect(originsOfNeed(detail, { first: MOSS, second: null }, bead).map((o) => o.perBox)).toEqual([8]);
    const wire = needOf(detail, WIRE);
    expect(wire.pieces).toEqual([
      { mm: 500, count: 1 },
      { mm: 300, count: 1 },
    ]);
    expect(wire.bags.map((b) => [b.of, b.pieces])).toEqual([
      [TOGETHER, [{ mm: 300, count: 1 }]],
      [BESIDE, [{ mm: 500, count: 1 }]],
    ]);
  });
  test("in one colourway only, where that is said", () => {
    const other = id(901);
    const detail = box(["8A"], { contents: [content(CARD, { first: other })] });
    detail.box.colourways.push({ id: other, name: "Clay" });
    detail.box.variants.push({ first: other, second: null, boxes: 4 });
    const [moss, clay] = billOf(detail).variants.map((v) => v.needs.find((n) => n.component.id === id(CARD)));
    expect(moss).toBeUndefined();
    expect(clay).toMatchObject({ run: 4 });
  });
  test("what is once a kit comes once a box where two designs share it, if the curator says so", () => {
    const detail = box(["8A", "4A"]);
    expect(needOf(detail, NEEDLE)).toMatchObject({ perBox: 2 });
    const once = {
      ...detail,
      box: { ...detail.box, roles: detail.box.roles.map((r, i) => (i === 3 ? { ...r, onceABox: true } : r)) },
    };
    const need = needOf(once, NEEDLE);
    expect(need).toMatchObject({ perBox: 1, spare: 1 });
    expect(originsOfNeed(once, { first: MOSS, second: null }, need).map((o) => [o.line, o.perBox])).toEqual([
      [id(700), 1],
    ]);
  });
  test("law: bags add up to the need, and the run is what the boxes hold, rounded up once", () => {
    const rows = fc.array(fc.integer({ min: 1, max: 30 }), { minLength: 1, maxLength: 3 });
    fc.assert(
      fc.property(rows, fc.constantFrom("together", "project"), fc.integer({ min: 0, max: 9 }), (beads, bagging, n) => {
        const detail = box(
          beads.map((b) => `${b}A ${b + 3}s`),
          { bagging, variants: [{ first: MOSS, second: null, boxes: n }], contents: [content(BEAD), content(CARD)] },
        );
        for (const need of billOf(detail).variants[0]!.needs) {
          const sum = (of: (b: (typeof need.bags)[number]) => number) => need.bags.reduce((s, b) => s + of(b), 0);
          expect(sum((b) => b.perBox)).toBeCloseTo(need.perBox, 9);
          expect(sum((b) => b.spare)).toBeCloseTo(need.spare, 9);
          const exact = (need.perBox + need.spare) * n;
          expect(need.run).toBeGreaterThanOrEqual(exact - 1e-6);
          expect(need.run - exact).toBeLessThan(need.component.baseUnit === "piece" ? 1e-6 : 0.001);
        }
      }),
    );
  });
});
