import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { StockEntry } from "../src/contract/index.ts";
import { cutFrom, howManyOf } from "../src/cut/index.ts";
import {
  type SpotBalance,
  type Move,
  movesOf,
  movesTo,
  post,
  shareCharge,
  spotKey,
  type Total,
  unitValue,
} from "../src/stock/index.ts";

const book = (totals: Partial<Total>[] = [{}], spots: Partial<SpotBalance>[] = []) => ({
  totals: new Map(
    totals.map((t) => [
      t.component ?? "c",
      {
        component: "c",
        name: "6 mm round",
        baseUnit: "piece" as const,
        onHand: 0,
        value: "0",
        lastCost: null,
        replacement: null,
        ...t,
      },
    ]),
  ),
  spots: new Map(
    spots.map((h): [string, SpotBalance] => {
      const x = { component: "c", place: "A", lot: "", stretchMm: 0, quantity: 0, variance: 0, ...h };
      return [spotKey(x), x];
    }),
  ),
});
const at = { component: "c", place: "A", lot: "", stretchMm: 0 };
const entry = (e: object) => StockEntry.parse({ requestKey: "6f1c2f2e-0000-4000-8000-000000000001", ...e }) as never;

describe("posting to the ledger", () => {
  test("what is not there can't be moved: a fault, and nothing comes of it elsewhere", () => {
    const { spots, totals } = book();
    const { faults } = post(spots, totals, [
      { ...at, quantity: -5 },
      { ...at, place: "B", quantity: 5, cameFromBefore: true },
    ]);
    expect(faults.map((f) => f.move)).toEqual([0]);
  });
  test("the moving average, by hand: 100 for 10.00, 100 for 14.00, 50 used, 150 left worth 18.00", () => {
    const { spots, totals } = book();
    const { moved, faults } = post(spots, totals, [
      { ...at, quantity: 100, cost: "10.00" },
      { ...at, quantity: 100, cost: "14.00" },
      { ...at, quantity: -50 },
    ]);
    expect(faults).toEqual([]);
    expect(moved.map((m) => [m.balance, Number(m.value)])).toEqual([
      [100, 10],
      [200, 14],
      [150, -6],
    ]);
    expect(totals.get("c")).toMatchObject({ onHand: 150, value: "18.00000000", lastCost: "0.14000000" });
    expect(unitValue(totals.get("c")!)).toBe("0.12000000");
  });
  test("without a price it is worth the average, else the last paid, else today's cost; the last leaves 0", () => {
    const { spots, totals } = book([{ replacement: "0.05" }]);
    post(spots, totals, [
      { ...at, quantity: 10 },
      { ...at, quantity: -10 },
    ]);
    expect(totals.get("c")).toMatchObject({ onHand: 0, value: "0.00000000" });
    const { moved } = post(spots, totals, [
      { ...at, quantity: 3, cost: "1.00" },
      { ...at, quantity: -1 },
      { ...at, quantity: -2 },
    ]);
    expect(moved.reduce((s, m) => s.plus(m.value), new Big(0)).toString()).toBe("0");
  });
  test("a count sets the balance and its doubt anew; what is weighed in adds its own", () => {
    const { spots, totals } = book([{}], [{ quantity: 50, variance: 100 }]);
    totals.get("c")!.onHand = 50;
    const { moved } = post(spots, totals, [
      { ...at, counted: 47, u: 2 },
      { ...at, quantity: 20, u: 1.5 },
      { ...at, quantity: -5 },
    ]);
    expect(moved.map((m) => [m.quantity, m.varianceAfter])).toEqual([
      [-3, 4],
      [20, 6.25],
      [-5, 6.25],
    ]);
  });
  test("never below zero, never half a piece; told with what is there", () => {
    const { spots, totals } = book([{}], [{ quantity: 4 }]);
    totals.get("c")!.onHand = 4;
    expect(post(spots, totals, [{ ...at, quantity: -5 }]).faults).toEqual([
      { move: 0, message: expect.stringContaining("only 4"), holds: 4 },
    ]);
    expect(post(spots, totals, [{ ...at, quantity: 0.5 }]).faults[0]!.message).toContain("whole number");
    expect(post(spots, totals, [{ ...at, component: "other", quantity: 1 }]).faults[0]!.message).toContain(
      "no such component",
    );
  });
  test("laws: the total is the sum of the movements, its value of theirs, and nothing is below zero", () => {
    const moves = fc.array(
      fc.record({
        place: fc.constantFrom("A", "B"),
        lot: fc.constantFrom("", "7"),
        quantity: fc.integer({ min: -80, max: 100 }),
        counted: fc.option(fc.nat(120)),
        cost: fc.option(fc.integer({ min: 0, max: 5000 })),
      }),
      { maxLength: 60 },
    );
    fc.assert(
      fc.property(moves, (list) => {
        const { spots, totals } = book([{ replacement: "0.031" }]);
        const all = list.flatMap(({ quantity, counted, cost, ...spot }) => {
          const move: Move =
            counted !== null
              ? { ...at, ...spot, counted, u: 1 }
              : {
                  ...at,
                  ...spot,
                  quantity: quantity || 1,
                  cost: cost !== null && quantity > 0 ? (cost / 100).toFixed(2) : null,
                };
          return post(spots, totals, [move]).moved;
        });
        const total = totals.get("c")!;
        expect(all.reduce((s, m) => s + m.quantity, 0)).toBe(total.onHand);
        expect([...spots.values()].reduce((s, h) => s + h.quantity, 0)).toBe(total.onHand);
        expect([...spots.values()].every((h) => h.quantity >= 0)).toBe(true);
        expect(new Big(total.value).gte(0)).toBe(true);
        // Every emptying closes the account: what is left is the sum since.
        const since = all.slice(all.findLastIndex((m) => m.balance === 0) + 1);
        expect(
          since
            .reduce((s, m) => s.plus(m.value), new Big(0))
            .minus(total.value)
            .abs()
            .lt(1e-6),
        ).toBe(true);
      }),
    );
  });
});

describe("what an entry moves", () => {
  const round = { id: "c", name: "6 mm round", baseUnit: "piece" as const };
  const wire = { id: "c", name: "Beading wire", baseUnit: "mm" as const };
  test("a cut takes one piece out and keeps the offcut, the shortest piece that will do first", () => {
    const { spots } = book(
      [],
      [
        { stretchMm: 9144, quantity: 2 },
        { stretchMm: 500, quantity: 1 },
      ],
    );
    expect(movesOf(wire, entry({ kind: "cut", cutMm: 400, count: 1, place: null }), spots, "A")).toEqual({
      moves: [
        { ...at, stretchMm: 500, quantity: -1 },
        { ...at, stretchMm: 100, quantity: 1 },
      ],
    });
    const three = movesOf(wire, entry({ kind: "cut", cutMm: 400, count: 3, stretchMm: 9144 }), spots, "A");
    expect(three).toEqual({
      moves: [
        { ...at, stretchMm: 9144, quantity: -1 },
        { ...at, stretchMm: 7944, quantity: 1 },
      ],
    });
    expect(movesOf(wire, entry({ kind: "cut", cutMm: 10_000, count: 1 }), spots, "A")).toMatchObject({
      pointer: "/cutMm",
    });
    expect(movesOf(round, entry({ kind: "cut", cutMm: 10, count: 1 }), spots, "A")).toMatchObject({
      fault: expect.stringContaining("not kept by length"),
    });
  });
  test("more used than the book holds is counted and used together, if so said", () => {
    const { spots } = book([], [{ quantity: 4 }]);
    expect(movesOf(round, entry({ kind: "used", quantity: 6, countFirst: true }), spots, "A")).toEqual({
      moves: [expect.objectContaining({ counted: 6 }), { ...at, quantity: -6 }],
    });
    expect(movesOf(round, entry({ kind: "used", quantity: 6 }), spots, "A")).toEqual({
      moves: [{ ...at, quantity: -6 }],
    });
  });
  test("moved keeps the sum; what is made costs what went into it", () => {
    const { spots, totals } = book(
      [
        { onHand: 20, value: "2" },
        { component: "pin", baseUnit: "piece", name: "Pin", onHand: 0 },
      ],
      [{ quantity: 20 }],
    );
    const across = movesOf(
      round,
      entry({ kind: "moved", quantity: 5, to: "6f1c2f2e-0000-4000-8000-00000000000b" }),
      spots,
      "A",
    );
    expect(across).toMatchObject({ moves: [{ quantity: -5, place: "A" }, { quantity: 5 }] });
    // All of it moved is worth what it was, whatever was paid last.
    const whole = book([{ onHand: 20, value: "2", lastCost: "0.30000000" }], [{ quantity: 20 }]);
    const all = movesTo("B", whole.spots.values(), new Set());
    expect(post(whole.spots, whole.totals, all).moved.map((m) => [m.place, m.quantity, Number(m.value)])).toEqual([
      ["A", -20, -2],
      ["B", 20, 2],
    ]);
    expect(whole.totals.get("c")).toMatchObject({ onHand: 20, value: "2.00000000", lastCost: "0.30000000" });
    // What is held back, and what is there already, stays.
    expect(movesTo("A", book([{}], [{ quantity: 20 }]).spots.values(), new Set())).toEqual([]);
    expect(movesTo("B", book([{}], [{ quantity: 20 }]).spots.values(), new Set(["A"]))).toEqual([]);
    const made = movesOf(
      { id: "pin", name: "Pin", baseUnit: "piece" },
      entry({ kind: "made", quantity: 2, from: [{ component: "6f1c2f2e-0000-4000-8000-00000000000c", quantity: 1 }] }),
      spots,
      "A",
    );
    expect(made).toMatchObject({ pointer: "/from/0/quantity" });
    const { moved } = post(spots, totals, [
      { ...at, quantity: -10 },
      { ...at, component: "pin", quantity: 2, madeOfBefore: true },
    ]);
    expect(moved.map((m) => Number(m.value))).toEqual([-1, 1]);
    expect(totals.get("pin")!.lastCost).toBe("0.50000000");
  });
});

describe("cuts", () => {
  test("a sum of offcuts is no piece", () => {
    const offcuts = [{ mm: 50, count: 10 }];
    expect(howManyOf(offcuts, 400)).toBe(0);
    expect(cutFrom(offcuts, [{ mm: 400, count: 1 }]).missing).toEqual([{ mm: 400, count: 1 }]);
    expect(howManyOf([...offcuts, { mm: 400, count: 1 }, { mm: 1250, count: 2 }], 400)).toBe(7);
  });
  test("laws: no length appears or is lost, and what is missing truly fits nowhere that is left", () => {
    const list = fc.array(fc.record({ mm: fc.integer({ min: 1, max: 1000 }), count: fc.integer({ min: 1, max: 9 }) }), {
      maxLength: 8,
    });
    const sum = (l: readonly { mm: number; count: number }[]) => l.reduce((s, x) => s + x.mm * x.count, 0);
    fc.assert(
      fc.property(list, list, (stretches, cuts) => {
        const { missing, left } = cutFrom(stretches, cuts);
        expect(sum(left)).toBe(sum(stretches) - (sum(cuts) - sum(missing)));
        for (const m of missing) expect(left.every((l) => l.mm < m.mm)).toBe(true);
      }),
    );
  });
});

test("shares of freight add up to it, by the largest remainders", () => {
  expect(shareCharge("10.00", [1, 1, 1])).toEqual(["3.34", "3.33", "3.33"]);
  expect(shareCharge("7.50", [0, 0])).toEqual(["3.75", "3.75"]);
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 100_000 }),
      fc.array(fc.nat(1000), { minLength: 1, maxLength: 20 }),
      (cents, weights) => {
        const charge = (cents / 100).toFixed(2);
        expect(
          shareCharge(charge, weights)
            .reduce((s, x) => s.plus(x), new Big(0))
            .toFixed(2),
        ).toBe(charge);
      },
    ),
  );
});
