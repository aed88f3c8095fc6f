import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Need } from "../src/bom/index.ts";
import type { BoxBill, Component, LookedBack, PackNeed } from "../src/contract/index.ts";
import { coinsAt, inCoins, sayCoins, shareCoins } from "../src/cost/index.ts";
import { type Happened, lookBack, parcelOf, workOfBox, wrongMost } from "../src/price/index.ts";
import { component, id } from "./things.ts";

const need = (of: Component, perBox: number, more: Partial<Need> = {}): Need => ({
  component: of,
  perBox,
  piecesPerBox: of.baseUnit === "mm" ? null : perBox,
  spare: 0,
  rule: null,
  pieces: [],
  run: perBox,
  bags: [{ of: "together", perBox, counted: perBox, spare: 0, more: 0, rule: null, pieces: [] }],
  from: [],
  beside: [],
  ...more,
});

describe("a packed box", () => {
  const box = component(1, {
    name: "box",
    kind: "packaging",
    form: "packing box",
    massG: 40,
    thickMm: 16,
    alongMm: 190,
    acrossMm: 140,
  });
  const card = component(2, { name: "card", kind: "packaging", form: "card", massG: 2, thickMm: 0.5 });
  const round = component(3, { name: "round", form: "round", massG: 0.5, alongMm: 8, acrossMm: 8 });
  const disc = component(4, { name: "disc", form: "disc", massG: 1, alongMm: 3, acrossMm: 20 });
  const seeds = component(5, { name: "seeds", form: "seed", baseUnit: "g", alongMm: 1.4, acrossMm: 2.1 });
  const odd = component(6, { name: "toggle", kind: "finding" });

  test("weighs what its things weigh, each known to its own ±, and names those that nobody knows", () => {
    // 40 + 2 + 20 × 0.5 + 4 × 1 + 6 g; measured masses are good to a hundredth part, within a component all alike.
    const { g, plusMinus, unknown } = parcelOf({
      needs: [need(box, 1), need(card, 1), need(round, 18, { spare: 2 }), need(disc, 4), need(seeds, 6), need(odd, 1)],
    });
    expect(g).toBeCloseTo(62, 9);
    expect(plusMinus).toBeCloseTo(1.959964 * Math.hypot(0.4, 0.02, 0.1, 0.04, 0.06), 6);
    expect(unknown).toEqual(["toggle"]);
  });

  test("is as thick as its packaging and the thickest thing in it; what is flat lies flat", () => {
    const needs = [need(box, 1), need(card, 3), need(round, 1), need(disc, 4)];
    expect(parcelOf({ needs })).toMatchObject({ thickMm: 24.5, thickest: "round", longMm: 190, wideMm: 140 });
    expect(parcelOf({ needs: [need(disc, 4)] })).toMatchObject({ thickMm: 3, longMm: null });
    const told = component(7, { name: "brooch", alongMm: 30, acrossMm: 30, thickMm: 9 });
    expect(parcelOf({ needs: [need(told, 1)] }).thickMm).toBe(9);
  });

  test("wire weighs what its volume of metal does", () => {
    // A metre of 1 mm brass: π/4 mm² × 1000 mm × 8.5 mg/mm³ = 6.676 g.
    const wire = component(8, { baseUnit: "mm", kind: "stringing", diameterMm: 1, material: "brass" });
    expect(parcelOf({ needs: [need(wire, 1000)] }).g).toBeCloseTo(6.676, 3);
  });
});

test("the work on a box is counted from what goes into it, worked by hand", () => {
  const bag = (of: string, counted: number, more = 0) => ({
    of,
    perBox: counted,
    counted,
    spare: 0,
    more,
    rule: null,
    pieces: [],
  });
  const cord = component(3, { baseUnit: "mm", kind: "stringing", form: "cord" });
  const work = workOfBox({
    needs: [
      // 12 and one to spare in one design's bag, 8 in the other's.
      need(component(1), 20, { bags: [bag("a", 12, 1), bag("b", 8)] }),
      need(component(2, { baseUnit: "g" }), 4, { bags: [bag("a", 4), bag("b", 4)] }),
      need(cord, 900, { pieces: [{ mm: 300, count: 3 }], bags: [bag("a", 3)] }),
      // A whole strand of 50 is one thing to put in.
      need(component(4), 50, {
        bags: [bag("beside", 50)],
        beside: [{ content: id(9), perBox: 50, pack: "strand", packs: 1 }],
      }),
      need(component(5, { kind: "packaging", form: "bag" }), 4),
      need(component(6, { kind: "packaging", form: "card" }), 2),
    ],
  });
  expect(Object.fromEntries(work.map((w) => [w.step, w.many]))).toEqual({
    count: 22,
    weigh: 2,
    cut: 3,
    prepare: 6,
    bag: 4,
    label: 5,
  });
});

describe("coins", () => {
  const places = fc.constantFrom(0, 2, 3);
  test("of an amount at a unit cost are those of decimal arithmetic, half a coin up", () => {
    const unit = fc.integer({ min: 0, max: 10 ** 11 }).map((n) => new Big(n).div(1e8).toFixed(8));
    const amount = fc.integer({ min: 0, max: 10 ** 9 }).map((n) => n / 1000);
    fc.assert(
      fc.property(unit, amount, places, (cost, n, p) => {
        const plain = new Big(cost)
          .times(n)
          .times(10 ** p)
          .round(0, Big.roundHalfUp);
        expect(coinsAt(cost, n, p)).toBe(Number(plain));
      }),
    );
    expect(coinsAt("0.125", 0.04, 2)).toBe(1);
    expect(coinsAt("0.00500000", 1, 2)).toBe(1);
  });

  test("read from text are exact, with more places than a coin has as well", () => {
    expect([inCoins("1.005", 2), inCoins("19.99", 2), inCoins("7", 3), inCoins("0.4999", 0)]).toEqual([
      101, 1999, 7000, 0,
    ]);
    fc.assert(
      fc.property(fc.nat(10 ** 9), places, (n, p) => {
        expect(inCoins(sayCoins(n, p), p)).toBe(n);
      }),
    );
  });

  test("shared out add up, and no part is a whole coin off", () => {
    const weights = fc.array(fc.nat(9999), { minLength: 1, maxLength: 12 });
    fc.assert(
      fc.property(fc.nat(10 ** 7), weights, (coins, of) => {
        const shares = shareCoins(coins, of);
        const all = of.reduce((a, b) => a + b, 0);
        expect(shares.reduce((a, b) => a + b, 0)).toBe(coins);
        shares.forEach((s, i) => {
          const part = all > 0 ? (coins * of[i]!) / all : coins / of.length;
          expect(Math.abs(s - part)).toBeLessThan(1 + 1e-6);
        });
      }),
    );
    expect(shareCoins(100, [1, 1, 1])).toEqual([34, 33, 33]);
  });
});

test("looking back, what was used is held against the bill for the boxes that are packed", () => {
  const [bead, variant] = [id(1), id(2)];
  const bill = {
    theme: "Apiary",
    variants: [{ id: variant, first: id(3), second: null, name: "Honey", boxes: 10, lines: [], gaps: [] }],
    components: [{ id: bead, name: "round", baseUnit: "piece", unitCost: "0.05" }],
  } as unknown as BoxBill;
  const needs = [{ id: id(4), variant, component: bead, cutMm: null, quantity: 200 }] as PackNeed[];
  const happened: Happened = {
    bill,
    needs,
    packed: new Map([[variant, 4]]),
    // 80 beads by the bill are 4.00; 84 were taken at 0.06, and some broke.
    spent: [
      { variant, component: bead, value: "5.04" },
      { variant: null, component: bead, value: "0.30" },
    ],
    timed: [
      { variant, seconds: 120 },
      { variant, seconds: 180 },
    ],
    sold: new Map([
      [variant, 3],
      [null, 1],
    ]),
  };
  const found = lookBack(happened, [], "GBP");
  expect(found).toMatchObject({ boxes: 10, packed: 4, sold: 4, worst: { component: "round", more: "1.34" } });
  expect(found.variants).toEqual([
    {
      name: "Honey",
      boxes: 10,
      packed: 4,
      sold: 3,
      planned: "4.00",
      real: "5.34",
      plannedMinutes: 0,
      realMinutes: 10,
      timed: 2,
    },
  ]);
});

test("the plan that was wrong most is the one that is off by the largest part of itself", () => {
  const variant = (name: string, more: object) => ({
    name,
    boxes: 60,
    packed: 60,
    sold: 55,
    planned: "100.00",
    real: "104.00",
    plannedMinutes: 200,
    realMinutes: 210,
    timed: 60,
    ...more,
  });
  const month = (of: string, state: string, variants: object[]) => ({ month: of, state, variants }) as LookedBack;
  const march = month("2027-03", "sent", [variant("Celadon", {}), variant("Tenmoku", { sold: 31 })]);
  expect(wrongMost([march])).toMatchObject({ what: "sales", month: "2027-03", name: "Tenmoku" });
  expect(wrongMost([march])!.part).toBeCloseTo(31 / 60 - 1, 9);
  // A month that has not gone out is still being sold: its minutes count, its sales don't.
  const april = month("2027-04", "packing", [variant("Honey", { sold: 5, realMinutes: 270 })]);
  expect(wrongMost([april])).toMatchObject({ what: "minutes", name: "Honey" });
  expect(wrongMost([month("2027-05", "committed", [variant("Madder", { packed: 0 })])])).toBeNull();
  expect(wrongMost([])).toBeNull();
});
