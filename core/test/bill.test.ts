import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  type Bill,
  billOf,
  chooseFromKeys,
  layTray,
  makeable,
  originsOfNeed,
  roundUp,
  usedKeys,
} from "../src/bom/index.ts";
import { type BoxDetail, type Component, roleId } from "../src/contract/index.ts";
import { replacementCost, unitCost } from "../src/component/index.ts";
import { billAsCsv, costOf, priceOfPacks, worthOf } from "../src/cost/index.ts";
import { design } from "./designs.ts";
import { component as thing, id } from "./things.ts";

/** How many of a box can be made of what is free, with no other in the way. */
const made = (bill: Bill) => makeable(bill.variants, bill.totals);

const STRAND = { pack: "strand of 50", amount: 50, unit: "piece", price: "2.50", steps: [], minimum: 1 } as const;
const component = (n: number, c: Partial<Component> = {}): Component =>
  thing(n, { form: null, offers: [{ ...STRAND, steps: [] }], onHand: 100, ...c });
const MOSS = id(900);
const SLATE = id(901);
const SILVER = id(910);
const GOLD = id(911);

/** A box of one design (3 A and a clasp an item, glue once a kit) in two colourways and two metals. */
function box(
  change: Partial<BoxDetail["box"]> = {},
  components: Component[] = [
    component(1),
    component(2),
    component(3, { kind: "finding" }),
    component(4, { kind: "finding" }),
    component(5, { kind: "consumable" }),
  ],
): BoxDetail {
  const d = design({
    key: [
      { key: "A", name: "main bead", kind: "bead", alongMm: 4 },
      { key: "CL", name: "clasp", kind: "finding" },
      { key: "GL", name: "glue", kind: "consumable" },
    ],
    parts: [{ id: "p", name: "p", steps: "3A", uses: [{ key: "CL", count: 1 }] }],
    uses: [{ key: "GL", count: 1, per: "kit" }],
  });
  const [line, bead, clasp, glue] = [id(800), id(801), id(802), id(803)];
  return {
    box: {
      id: id(700),
      version: 1,
      month: "2027-05",
      theme: "Moss",
      lines: [{ id: line, designId: id(600), revision: 1, times: 2, size: null, option: null }],
      colourways: [
        { id: MOSS, name: "Moss" },
        { id: SLATE, name: "Slate" },
      ],
      seconds: [
        { id: SILVER, name: "silver" },
        { id: GOLD, name: "gold" },
      ],
      variants: [
        { first: MOSS, second: SILVER, boxes: 10 },
        { first: MOSS, second: GOLD, boxes: 5 },
        { first: SLATE, second: SILVER, boxes: 4 },
      ],
      roles: [
        { id: bead, name: "main bead", kind: "bead", follows: "first" },
        { id: clasp, name: "clasp", kind: "finding", follows: "second" },
        { id: glue, name: "glue", kind: "consumable", follows: "none" },
      ],
      contents: [],
      bagging: "together",
      bindings: [
        { line, role: "A", boxRole: bead },
        { line, role: "CL", boxRole: clasp },
        { line, role: "GL", boxRole: glue },
      ],
      prices: [],
      whatIfs: [],
      overrules: [],
      picks: [
        { boxRole: bead, first: MOSS, second: null, component: id(1) },
        { boxRole: bead, first: SLATE, second: null, component: id(2) },
        { boxRole: clasp, first: null, second: SILVER, component: id(3) },
        { boxRole: clasp, first: null, second: GOLD, component: id(4) },
        { boxRole: glue, first: null, second: null, component: id(5) },
      ],
      ...change,
    },
    designs: [{ designId: id(600), revision: 1, newest: 1, design: d }],
    spares: [],
    ruler: "in" as const,
    components,
  };
}
const totals = (detail: BoxDetail) => Object.fromEntries(billOf(detail).totals.map((t) => [t.component.code, t.run]));

describe("the bill of a box", () => {
  test("follows colourway and second choice, times the design, once a kit where so said", () => {
    // 3 A and a clasp, twice a box; glue once a box. 15 moss and 4 slate boxes; 14 silver and 5 gold.
    expect(totals(box())).toEqual({ C1: 90, C2: 24, C3: 28, C4: 10, C5: 19 });
  });
  test("short is told against what is free, not against what is on hand", () => {
    const short = (c: Partial<Component>) =>
      billOf(box({}, [component(1, c), component(2), component(3), component(4), component(5)])).totals.find(
        (t) => t.component.code === "C1",
      )!.short;
    expect(short({ onHand: 100 })).toBe(0);
    expect(short({ onHand: 100, spokenFor: 25 })).toBe(15);
    expect(short({ onHand: 0 })).toBe(90);
  });
  test("a gap is told and keeps its number; a role without a place on the tray is a problem", () => {
    const open = billOf(box({ picks: box().box.picks.filter((p) => p.component !== id(1)) }));
    expect(open.variants[0]!.gaps).toMatchObject([{ perBox: 6, unit: "piece", boxRole: { name: "main bead" } }]);
    expect(made(open)).toMatchObject({ boxes: 4 });
    expect(billOf(box({ bindings: [] })).problems.map((p) => p.message)).toContainEqual(
      expect.stringContaining("A is not on the colour tray"),
    );
  });
  test("what is there once a box comes once, however many designs of the box ask for it", () => {
    const { box: one, designs, components } = box();
    const [first] = one.lines;
    const second = { ...first!, id: id(850), times: 1 };
    const both = (per: "kit" | "box", counts = [1, 1]): BoxDetail => ({
      box: {
        ...one,
        lines: [first!, { ...second, designId: id(601) }],
        bindings: [...one.bindings, ...one.bindings.map((b) => ({ ...b, line: second.id }))],
      },
      designs: counts.map((count, i) => ({
        ...designs[0]!,
        designId: id(600 + i),
        design: { ...designs[0]!.design, uses: [{ key: "GL", count, per }] },
      })),
      components,
      spares: [],
      ruler: "in" as const,
    });
    const glue = (detail: BoxDetail) => billOf(detail).variants[0]!.needs.find((n) => n.component.code === "C5")!;
    // Two designs, a glue each once a kit: two a box; once a box: one; the second asks for three: three.
    expect(glue(both("kit")).perBox).toBe(2);
    expect(glue(both("box")).perBox).toBe(1);
    expect(glue(both("box", [1, 3])).perBox).toBe(3);
    const need = glue(both("box", [1, 3]));
    const rows = originsOfNeed(both("box", [1, 3]), { first: MOSS, second: SILVER }, need);
    expect(rows.map((r) => [r.origin.how, r.perBox])).toEqual([
      ["box", 1],
      ["box", 2],
    ]);
  });
  test("how many can be made, and what holds the rest back", () => {
    const held = made(
      billOf(box({}, [component(1, { onHand: 63 }), component(2), component(3), component(4), component(5)])),
    );
    expect(held).toMatchObject({ boxes: 14, limitedBy: [{ component: { code: "C1" }, boxes: 14 }] });
    expect(made(billOf(box()))).toEqual({ boxes: 19, limitedBy: [] });
  });
  test("beads kept in grams are needed in grams, rounded up once for the run", () => {
    const bill = billOf(
      box({}, [component(1, { baseUnit: "g", perGram: 115 }), component(2), component(3), component(4), component(5)]),
    );
    expect(bill.totals[0]!.run).toBeCloseTo(roundUp((6 / 115) * 10, "g") + roundUp((6 / 115) * 5, "g"), 9);
    expect(
      billOf(
        box({}, [
          component(1, { baseUnit: "g", perGram: null }),
          component(2),
          component(3),
          component(4),
          component(5),
        ]),
      ).problems[0]!.message,
    ).toContain("how many go to a gram");
    expect(
      billOf(box({}, [component(1, { baseUnit: "mm" }), component(2), component(3), component(4), component(5)]))
        .problems[0]!.message,
    ).toContain("kept by length");
  });
  test("the tray keeps what was chosen, joins roles of one name, and drops what nothing uses", () => {
    const detail = box();
    const two = { ...detail.box, lines: [...detail.box.lines, { ...detail.box.lines[0]!, id: id(850) }] };
    let n = 5000;
    const laid = layTray(two, detail.designs, () => id(n++));
    expect(laid.roles).toHaveLength(3);
    expect(
      laid.bindings
        .filter((b) => b.line === id(850))
        .map((b) => b.boxRole)
        .sort(),
    ).toEqual(laid.roles.map((r) => r.id).sort());
    expect(layTray({ ...detail.box, lines: [] }, detail.designs, () => id(n++))).toMatchObject({
      roles: [],
      picks: [],
      bindings: [],
    });
    expect(usedKeys(detail.designs[0]!.design)).toEqual(["A", "CL", "GL"]);
  });
  test("what a key was taken from is chosen for a new role and a new colourway; what somebody chose stays", () => {
    const detail = box();
    const [line] = detail.box.lines;
    const taken = detail.designs.map((p) => ({
      ...p,
      design: { ...p.design, key: p.design.key.map((e) => (e.key === "A" ? { ...e, component: id(4) } : e)) },
    }));
    const bare: BoxDetail["box"] = { ...detail.box, lines: [], roles: [], bindings: [], picks: [] };
    let n = 6000;
    const laid = layTray({ ...bare, lines: [line!] }, taken, () => id(n++));
    const chosen = chooseFromKeys(bare, laid, taken, () => true);
    const role = laid.bindings.find((b) => b.role === roleId(taken[0]!.design.key[0]!))!.boxRole;
    const colourways = laid.colourways.map((c) => c.id);
    expect(chosen.picks).toEqual(colourways.map((first) => ({ boxRole: role, first, second: null, component: id(4) })));
    // Cleared, it stays open; a new colourway gets it all the same.
    const cleared = { ...chosen, picks: [] };
    expect(chooseFromKeys(chosen, cleared, taken, () => true).picks).toEqual([]);
    const more = { ...cleared, colourways: [...cleared.colourways, { id: id(700), name: "New" }] };
    expect(chooseFromKeys(cleared, more, taken, () => true).picks).toEqual([
      { boxRole: role, first: id(700), second: null, component: id(4) },
    ]);
    // In another workshop it says nothing.
    expect(chooseFromKeys(bare, laid, taken, () => false).picks).toEqual([]);
  });
  test("as CSV every line is there, gaps as well", () => {
    const detail = box({ picks: box().box.picks.filter((p) => p.component !== id(1)) });
    const bill = billOf(detail);
    const lines = billAsCsv(detail, bill, costOf(bill)).trim().split("\r\n");
    expect(lines).toHaveLength(1 + bill.variants.reduce((s, v) => s + v.needs.length + v.gaps.length, 0));
    expect(lines.filter((l) => l.includes("not chosen: main bead"))).toHaveLength(2);
  });
});

describe("cost", () => {
  test("a total is the sum of its lines as shown, each rounded once; a box is the run by its boxes", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 99_999 }),
        fc.integer({ min: 1, max: 500 }),
        fc.integer({ min: 1, max: 300 }),
        (cents, amount, boxes) => {
          const price = (cents / 100).toFixed(2);
          const offers = [{ pack: "p", amount, unit: "piece" as const, price, steps: [], minimum: 1 }];
          const detail = box(
            { variants: [{ first: MOSS, second: SILVER, boxes }] },
            [1, 2, 3, 4, 5].map((n) => component(n, { offers })),
          );
          const cost = costOf(billOf(detail));
          const [variant] = cost.variants;
          const sum = variant!.lines.reduce((s, l) => s.plus(l.cost!), new Big(0));
          expect(sum.toFixed(2)).toBe(variant!.run);
          expect(cost.run).toBe(variant!.run);
          for (const [i, l] of variant!.lines.entries())
            expect(
              new Big(l.cost!)
                .minus(new Big(price).div(amount).times(billOf(detail).variants[0]!.needs[i]!.run))
                .abs()
                .lte("0.0051"),
            ).toBe(true);
        },
      ),
    );
  });
  test("the average paid comes before the pack's price; without either a component is unpriced", () => {
    expect(unitCost(component(1))).toBe("0.05000000");
    expect(unitCost(component(1, { averageCost: "0.04100000" }))).toBe("0.04100000");
    expect(unitCost(component(1, { offers: [] }))).toBeNull();
    expect(
      costOf(
        billOf(box({}, [component(1, { offers: [] }), component(2), component(3), component(4), component(5)])),
      ).unpriced.map((c) => c.code),
    ).toEqual(["C1"]);
  });
  test("a pack in another unit is converted: a tube of 8.5 g at 1.70 of 115 a gram", () => {
    const tube = component(1, {
      form: "seed",
      perGram: 115,
      offers: [{ pack: "tube", amount: 8.5, unit: "g", price: "1.70", steps: [], minimum: 1 }],
    });
    expect(Number(replacementCost(tube))).toBeCloseTo(1.7 / (8.5 * 115), 8);
    expect(replacementCost({ ...tube, perGram: null, form: null })).toBeNull();
  });
  test("price steps by packs, exact to the coin of the currency", () => {
    const offer = {
      price: "4.20",
      steps: [
        { from: 10, price: "3.86" },
        { from: 50, price: "3.5725" },
      ],
    };
    const prices = (currency: string) => [1, 9, 10, 49, 50].map((n) => priceOfPacks(offer, n, currency));
    expect(prices("GBP")).toEqual(["4.20", "37.80", "38.60", "189.14", "178.63"]);
    expect(prices("JPY")).toEqual(["4", "38", "39", "189", "179"]);
    expect(prices("KWD")).toEqual(["4.200", "37.800", "38.600", "189.140", "178.625"]);
    expect(priceOfPacks({ price: "0.1", steps: [] }, 3, "GBP")).toBe("0.30");
    expect(worthOf("0.00333333", -300, "GBP")).toBe("-1.00");
    expect(worthOf("1.49", 1, "JPY")).toBe("1");
    expect(worthOf("0.0005", 1, "BHD")).toBe("0.001");
  });
});
