import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { aheadOf, inOrder, packByOf, sharingFor } from "../src/ahead/index.ts";
import type { Claim, Shares, Supply } from "../src/contract/index.ts";
import { cutFrom } from "../src/cut/index.ts";
import { id } from "./things.ts";

const BEAD = id(1);
const WIRE = id(2);
const BOX = [11, 12, 13, 14, 15, 16, 17, 18, 19, 20].map(id);
const TODAY = "2027-01-01";
const LINE = id(31);
const ORDER = id(41);

interface Said {
  packBy: string;
  month?: string;
  state?: "planned" | "committed";
}
/** Shares of boxes by their days; claims and supplies as given. */
const shares = (
  boxes: readonly Said[],
  claims: readonly Partial<Claim>[],
  pool: Partial<Shares["pools"][number]> = {},
  supplies: readonly Partial<Supply>[] = [],
): Shares => ({
  today: TODAY,
  boxes: inOrder(
    boxes.map((b, i) => ({
      id: BOX[i]!,
      theme: `box ${i}`,
      month: b.month ?? "2027-06",
      packBy: b.packBy,
      state: b.state ?? "planned",
    })),
  ),
  claims: claims.map((c) => ({ box: BOX[0]!, component: BEAD, from: null, quantity: 0, cuts: [], ...c })),
  supplies: supplies.map((s) => ({
    line: LINE,
    order: ORDER,
    component: BEAD,
    due: null,
    quantity: 0,
    pieceMm: null,
    ...s,
  })),
  pools: [{ component: BEAD, onHand: 0, aside: 0, pieces: [], asideCuts: [], ...pool }],
});
const isLinear = (component: string) => component === WIRE;
const bead = { id: BEAD, baseUnit: "piece" as const };
const wire = { id: WIRE, baseUnit: "mm" as const };
const ask = (s: Shares, box: number, run: number) => {
  const own = s.boxes.find((b) => b.id === BOX[box])!;
  return sharingFor(s, own)({ component: bead, run, cuts: [] })!;
};

describe("stock from day to day", () => {
  // Gross to net requirements, lot for lot: ten weeks' gross requirements against 35 on hand. The example stands in
  // textbooks of operations management in the chapter on material requirements planning (Heizer and Render,
  // “Operations Management”); its figures are recalled, not looked up.
  const GROSS = [35, 30, 40, 0, 10, 40, 30, 0, 30, 55];
  const NET = [0, 30, 40, 0, 10, 40, 30, 0, 30, 55];
  const week = (i: number) => `2027-02-${String(i + 1).padStart(2, "0")}`;
  const weeks = shares(
    GROSS.map((_, i) => ({ packBy: week(i) })),
    GROSS.map((quantity, i) => ({ box: BOX[i]!, quantity })),
    { onHand: 35 },
  );
  test("net requirements are as the textbook's table has them", () => {
    const [found] = aheadOf(weeks, isLinear, TODAY, "2027-12-31").components;
    const lefts = GROSS.map((_, i) => found!.steps.filter((s) => s.on <= week(i)).at(-1)!.left);
    const depth = lefts.map((left) => Math.max(0, -left));
    expect(depth.map((d, i) => d - (depth[i - 1] ?? 0))).toEqual(NET);
    expect(found).toMatchObject({ onHand: 35, runsOutOn: week(1), short: 235 });
    expect(GROSS.map((run, i) => ask(weeks, i, run).short)).toEqual(NET);
  });
  test("on one day deliveries come before boxes; past their day they count as today; without a day never", () => {
    const s = shares(
      [{ packBy: "2027-02-10" }, { packBy: "2026-12-24" }],
      [
        { box: BOX[0]!, quantity: 100 },
        { box: BOX[1]!, quantity: 5 },
      ],
      { onHand: 10, aside: 2 },
      [
        { line: id(31), due: "2027-02-10", quantity: 90 },
        { line: id(32), order: id(42), due: "2026-12-01", quantity: 7 },
        { line: id(33), order: id(43), due: null, quantity: 1000 },
      ],
    );
    expect(aheadOf(s, isLinear, TODAY, "2027-12-31").components).toEqual([
      {
        component: BEAD,
        onHand: 10,
        steps: [
          { on: TODAY, kind: "order", id: id(42), quantity: 7, left: 15 },
          { on: TODAY, kind: "box", id: BOX[1], quantity: -5, left: 10 },
          { on: "2027-02-10", kind: "order", id: ORDER, quantity: 90, left: 100 },
          { on: "2027-02-10", kind: "box", id: BOX[0], quantity: -100, left: 0 },
        ],
        runsOutOn: null,
        short: 0,
      },
    ]);
    // What lies before the first day is reckoned with and not listed; a component without a step is not there.
    const later = aheadOf(s, isLinear, "2027-02-01", "2027-02-10").components[0]!;
    expect(later.steps.map((x) => x.left)).toEqual([100, 0]);
    expect(aheadOf(s, isLinear, "2027-03-01", "2027-12-31").components).toEqual([]);
  });
  test("cuts are laid on pieces: a sum of offcuts is no piece", () => {
    const s: Shares = {
      ...shares([{ packBy: "2027-02-10" }, { packBy: "2027-02-20" }], []),
      claims: [
        { box: BOX[0]!, component: WIRE, from: null, quantity: 600, cuts: [{ mm: 300, count: 2 }] },
        { box: BOX[1]!, component: WIRE, from: null, quantity: 500, cuts: [{ mm: 500, count: 1 }] },
      ],
      pools: [{ component: WIRE, onHand: 1200, aside: 0, pieces: [{ mm: 400, count: 3 }], asideCuts: [] }],
      supplies: [{ line: LINE, order: ORDER, component: WIRE, due: "2027-03-01", quantity: 1000, pieceMm: 1000 }],
    };
    const steps = aheadOf(s, isLinear, TODAY, "2027-12-31").components[0]!.steps;
    // 3 × 400 less 2 × 300 leaves 100, 100 and 400: no 500. Then a spool of 1,000 comes, and it is cut from that.
    expect(steps.map((x) => [x.kind, x.quantity, x.left])).toEqual([
      ["box", -600, 600],
      ["box", -500, -500],
      ["order", 1000, 1100],
    ]);
    const say = sharingFor(s, s.boxes[1]!);
    expect(say({ component: wire, run: 500, cuts: [{ mm: 500, count: 1 }] })).toMatchObject({
      left: 600,
      short: 500,
      because: [{ box: BOX[0], quantity: 600 }],
    });
  });
});

describe("what is left for a box, and who takes the rest", () => {
  test("June needs 300, but May takes 260 of the 500", () => {
    const s = shares(
      [{ packBy: "2027-04-20" }, { packBy: "2027-05-20" }],
      [
        { box: BOX[0]!, quantity: 260 },
        { box: BOX[1]!, quantity: 300 },
      ],
      { onHand: 500 },
    );
    expect(ask(s, 0, 260)).toEqual({ left: 500, short: 0, because: [] });
    expect(ask(s, 1, 300)).toEqual({ left: 240, short: 60, because: [{ box: BOX[0], quantity: 260 }] });
    // Moved before May, June has all of them.
    const moved = sharingFor(s, { id: BOX[1]!, packBy: "2027-04-19", month: "2027-06" });
    expect(moved({ component: bead, run: 300, cuts: [] })).toEqual({ left: 500, short: 0, because: [] });
  });
  test("committed boxes come first by what they speak for, whenever they are packed", () => {
    const s = shares(
      [{ packBy: "2027-02-20" }, { packBy: "2027-08-20", state: "committed" }],
      [
        { box: BOX[0]!, quantity: 300 },
        { box: BOX[1]!, from: "stock", quantity: 260 },
      ],
      { onHand: 500 },
    );
    expect(ask(s, 0, 300)).toEqual({ left: 240, short: 60, because: [{ box: BOX[1], quantity: 260 }] });
    expect(ask(s, 1, 260)).toEqual({ left: 500, short: 0, because: [] });
  });
  test("what a committed box speaks for on an order is not taken from those before it comes", () => {
    const s = shares(
      [{ packBy: "2027-02-20" }, { packBy: "2027-08-20", state: "committed" }, { packBy: "2027-09-20" }],
      [
        { box: BOX[0]!, quantity: 300 },
        { box: BOX[1]!, from: LINE, quantity: 80 },
        { box: BOX[2]!, quantity: 100 },
      ],
      { onHand: 300 },
      [{ due: "2027-08-01", quantity: 100 }],
    );
    expect(ask(s, 0, 300).short).toBe(0);
    // 80 of the 100 are its own, 20 are anybody's, and 300 are in stock.
    expect(ask(s, 1, 80)).toEqual({ left: 400, short: 0, because: [] });
    expect(ask(s, 2, 100)).toEqual({
      left: 20,
      short: 80,
      because: [
        { box: BOX[1], quantity: 80 },
        { box: BOX[0], quantity: 300 },
      ],
    });
  });
  test("who took it is named in the order of who comes first: committed by their days, then planned by theirs", () => {
    const s = shares(
      [
        { packBy: "2027-01-20" },
        { packBy: "2027-07-20", state: "committed" },
        { packBy: "2027-06-20", state: "committed" },
        { packBy: "2027-02-20" },
        { packBy: "2027-08-20" },
      ],
      [
        { box: BOX[0]!, quantity: 10 },
        { box: BOX[1]!, from: "stock", quantity: 20 },
        { box: BOX[2]!, from: LINE, quantity: 30 },
        { box: BOX[3]!, quantity: 40 },
      ],
      { onHand: 70 },
      [{ due: "2027-06-01", quantity: 30 }],
    );
    expect(ask(s, 4, 5).because.map((b) => b.box)).toEqual([BOX[2], BOX[1], BOX[0], BOX[3]]);
  });
  test("an order that comes too late leaves its box short; breakage makes the box packed last short", () => {
    const late = shares(
      [{ packBy: "2027-03-20", state: "committed" }],
      [{ box: BOX[0]!, from: LINE, quantity: 80 }],
      { onHand: 0 },
      [{ due: "2027-03-21", quantity: 80 }],
    );
    expect(ask(late, 0, 80)).toMatchObject({ left: 0, short: 80 });
    const broken = shares(
      [
        { packBy: "2027-03-20", state: "committed" },
        { packBy: "2027-02-20", state: "committed" },
      ],
      [
        { box: BOX[0]!, from: "stock", quantity: 80 },
        { box: BOX[1]!, from: "stock", quantity: 80 },
      ],
      { onHand: 130 },
    );
    expect(ask(broken, 1, 80).short).toBe(0);
    expect(ask(broken, 0, 80)).toEqual({ left: 50, short: 30, because: [{ box: BOX[1], quantity: 80 }] });
  });
  test("what nothing is known of is said by nobody; a box that is sent has had what it took", () => {
    const open = shares([{ packBy: "2027-02-20" }], []);
    const strange = { component: { id: id(99), baseUnit: "piece" as const }, run: 1, cuts: [] };
    expect(sharingFor(open, open.boxes[0]!)(strange)).toBeNull();
    const sent = sharingFor(open, { id: BOX[5]!, packBy: TODAY, month: "2027-01" });
    expect(sent({ component: bead, run: 7, cuts: [] })).toEqual({ left: 7, short: 0, because: [] });
  });
  test("law: all boxes together are short of what there is not, and no more is left than there was", () => {
    const days = fc.integer({ min: 1, max: 28 }).map((d) => `2027-02-${String(d).padStart(2, "0")}`);
    fc.assert(
      fc.property(
        fc.array(fc.record({ packBy: days, need: fc.integer({ min: 0, max: 50 }) }), { minLength: 1, maxLength: 8 }),
        fc.integer({ min: 0, max: 200 }),
        (boxes, onHand) => {
          const s = shares(
            boxes,
            boxes.map((b, i) => ({ box: BOX[i]!, quantity: b.need })),
            { onHand },
          );
          const found = boxes.map((b, i) => ask(s, i, b.need));
          const need = boxes.reduce((sum, b) => sum + b.need, 0);
          expect(found.reduce((sum, f) => sum + f.short, 0)).toBe(Math.max(0, need - onHand));
          const ahead = aheadOf(s, isLinear, TODAY, "2027-12-31").components[0];
          expect(ahead?.short ?? 0).toBe(Math.max(0, need - onHand));
          for (const [i, f] of found.entries()) {
            expect(f.short).toBeLessThanOrEqual(boxes[i]!.need);
            expect(f.left).toBeLessThanOrEqual(onHand);
            if (f.short > 0) expect(f.left + f.because.reduce((sum, b) => sum + b.quantity, 0)).toBe(onHand);
          }
        },
      ),
    );
  });
  test("law: cuts that a shelf has room for together are never called short", () => {
    const cuts = fc.array(fc.record({ mm: fc.integer({ min: 50, max: 400 }), count: fc.integer({ min: 1, max: 4 }) }), {
      minLength: 1,
      maxLength: 4,
    });
    fc.assert(
      fc.property(
        fc.array(cuts, { minLength: 1, maxLength: 4 }),
        fc.array(fc.integer({ min: 100, max: 1000 })),
        (c, p) => {
          const pieces = p.map((mm) => ({ mm, count: 1 }));
          const fits = cutFrom(pieces, c.flat()).missing.length === 0;
          const sum = (list: readonly { mm: number; count: number }[]) => list.reduce((n, x) => n + x.mm * x.count, 0);
          const s: Shares = {
            ...shares(
              c.map(() => ({ packBy: "2027-02-20", state: "committed" as const })),
              [],
            ),
            claims: c.map((list, i) => ({
              box: BOX[i]!,
              component: WIRE,
              from: "stock" as const,
              quantity: sum(list),
              cuts: list,
            })),
            pools: [{ component: WIRE, onHand: sum(pieces), aside: 0, pieces, asideCuts: [] }],
          };
          const shorts = c.map((list, i) =>
            sharingFor(
              s,
              s.boxes.find((b) => b.id === BOX[i])!,
            )({ component: wire, run: sum(list), cuts: list })!,
          );
          if (fits) expect(shorts.map((x) => x.short)).toEqual(c.map(() => 0));
          expect(shorts.reduce((n, x) => n + x.short, 0)).toBeGreaterThanOrEqual(sum(c.flat()) - sum(pieces) - 0.01);
        },
      ),
    );
  });
});

test("a box is packed by the 20th of the month before, unless another day is said", () => {
  expect(packByOf({ packBy: null, month: "2027-06" })).toBe("2027-05-20");
  expect(packByOf({ packBy: null, month: "2027-01" })).toBe("2026-12-20");
  expect(packByOf({ packBy: "2027-06-02", month: "2027-06" })).toBe("2027-06-02");
});
