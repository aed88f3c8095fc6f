import { describe, expect, test } from "vitest";
import type { z } from "zod";
import { StockEntry } from "../src/contract/index.ts";
import {
  type SpotBalance,
  type Move,
  movesOf,
  post,
  shareCharge,
  spotKey,
  type Total,
  unitValue,
} from "../src/stock/index.ts";
import { id, ids } from "./things.ts";

const [ROUND, WIRE, PIN, SEED, SHELF, DRAWER] = ids(1, 2, 3, 4, 11, 12);
const COMPONENTS = {
  round: { id: ROUND, name: "6 mm round", baseUnit: "piece" },
  wire: { id: WIRE, name: "beading wire", baseUnit: "mm" },
  pin: { id: PIN, name: "head pin", baseUnit: "piece" },
  seed: { id: SEED, name: "11/0 seed", baseUnit: "g" },
} as const;

const spot = (component: string, quantity: number, more: Partial<SpotBalance> = {}): SpotBalance => ({
  component,
  place: SHELF,
  lot: "",
  stretchMm: 0,
  variance: 0,
  quantity,
  ...more,
});
const bookOf = (...spots: SpotBalance[]) => new Map(spots.map((h) => [spotKey(h), h]));
const entry = (e: object): z.output<typeof StockEntry> => StockEntry.parse({ requestKey: id(99), ...e });
const moves = (what: keyof typeof COMPONENTS, e: object, spots: Map<string, SpotBalance> = new Map()) =>
  movesOf(COMPONENTS[what], entry(e), spots, SHELF);
const at = <M extends object>(component: string, more: M) => ({
  component,
  place: SHELF,
  lot: "",
  stretchMm: 0,
  ...more,
});

describe("what an entry moves", () => {
  test("what comes, with what it cost and its doubt, at the place that is named or the first one", () => {
    expect(moves("round", { kind: "received", quantity: 50, cost: "2.80", u: 1.5 })).toEqual({
      moves: [at(ROUND, { quantity: 50, cost: "2.80", u: 1.5 })],
    });
    expect(moves("round", { kind: "returned", quantity: 2, place: DRAWER, lot: "blue" })).toEqual({
      moves: [at(ROUND, { place: DRAWER, lot: "blue", quantity: 2, cost: null, u: 0 })],
    });
  });
  test("what goes; where more goes than the book holds, it can be counted up first", () => {
    const spots = bookOf(spot(ROUND, 3));
    expect(moves("round", { kind: "used", quantity: 2, countFirst: true }, spots)).toEqual({
      moves: [at(ROUND, { quantity: -2 })],
    });
    expect(moves("round", { kind: "used", quantity: 3, countFirst: true }, spots)).toEqual({
      moves: [at(ROUND, { quantity: -3 })],
    });
    const counted = at(ROUND, { counted: 5, u: 0, entered: "counted with what was used" });
    const taken = at(ROUND, { quantity: -5 });
    expect(moves("round", { kind: "broken", quantity: 5, countFirst: true }, spots)).toEqual({
      moves: [counted, taken],
    });
    expect(moves("round", { kind: "broken", quantity: 5 }, spots)).toEqual({ moves: [taken] });
    // A jar that the book does not know at all holds nothing.
    expect(moves("round", { kind: "given", quantity: 5, countFirst: true })).toEqual({ moves: [counted, taken] });
  });
  test("a count sets, with how it was read; of wire only where the pieces' length is said", () => {
    expect(moves("round", { kind: "counted", quantity: 48, u: 0.5, entered: "weighed" })).toEqual({
      moves: [at(ROUND, { counted: 48, u: 0.5, entered: "weighed" })],
    });
    expect(moves("wire", { kind: "counted", quantity: 3, stretchMm: 900 })).toEqual({
      moves: [at(WIRE, { stretchMm: 900, counted: 3, u: 0, entered: "" })],
    });
    expect(moves("wire", { kind: "counted", quantity: 900 })).toEqual({
      fault: "Say how long each piece is that you counted.",
      pointer: "/stretchMm",
    });
  });
  test("moved and held back go out of one place into another, with their worth", () => {
    for (const kind of ["moved", "held back"]) {
      expect(moves("round", { kind, quantity: 7, to: DRAWER })).toEqual({
        moves: [at(ROUND, { quantity: -7 }), at(ROUND, { place: DRAWER, quantity: 7, cameFromBefore: true })],
      });
    }
    expect(moves("wire", { kind: "moved", quantity: 2, stretchMm: 500, to: DRAWER })).toEqual({
      moves: [
        at(WIRE, { stretchMm: 500, quantity: -2 }),
        at(WIRE, { stretchMm: 500, place: DRAWER, quantity: 2, cameFromBefore: true }),
      ],
    });
  });
  test("a length without a number of pieces is one piece of that length; a length beside beads says nothing", () => {
    expect(moves("wire", { kind: "received", quantity: 30_000 })).toEqual({
      moves: [at(WIRE, { stretchMm: 30_000, quantity: 1, cost: null, u: 0 })],
    });
    expect(moves("wire", { kind: "used", quantity: 450 })).toEqual({
      moves: [at(WIRE, { stretchMm: 450, quantity: -1 })],
    });
    expect(moves("round", { kind: "received", quantity: 5, stretchMm: 100 })).toEqual({
      moves: [at(ROUND, { quantity: 5, cost: null, u: 0 })],
    });
  });
});

describe("cutting", () => {
  const spools = () => bookOf(spot(WIRE, 1, { stretchMm: 1000 }), spot(WIRE, 2, { stretchMm: 300 }));
  test("the shortest piece that will do goes first, and the rest of it stays as an offcut", () => {
    expect(moves("wire", { kind: "cut", cutMm: 250, count: 1 }, spools())).toEqual({
      moves: [at(WIRE, { stretchMm: 300, quantity: -1 }), at(WIRE, { stretchMm: 50, quantity: 1 })],
    });
  });
  test("a piece that is used up to its end leaves nothing behind", () => {
    expect(moves("wire", { kind: "cut", cutMm: 300, count: 2 }, spools())).toEqual({
      moves: [at(WIRE, { stretchMm: 300, quantity: -2 })],
    });
  });
  test("of one length where that is named, and of nothing that lies elsewhere or is of another lot", () => {
    expect(moves("wire", { kind: "cut", cutMm: 250, count: 1, stretchMm: 1000 }, spools())).toEqual({
      moves: [at(WIRE, { stretchMm: 1000, quantity: -1 }), at(WIRE, { stretchMm: 750, quantity: 1 })],
    });
    const elsewhere = bookOf(
      spot(WIRE, 1, { stretchMm: 1000, place: DRAWER }),
      spot(WIRE, 1, { stretchMm: 1000, lot: "b" }),
      spot(ROUND, 1000),
    );
    expect(moves("wire", { kind: "cut", cutMm: 250, count: 1 }, elsewhere)).toMatchObject({ pointer: "/cutMm" });
    expect(moves("wire", { kind: "cut", cutMm: 250, count: 1, place: DRAWER }, elsewhere)).toMatchObject({
      moves: [
        { place: DRAWER, quantity: -1 },
        { stretchMm: 750, quantity: 1 },
      ],
    });
    expect(moves("wire", { kind: "cut", cutMm: 250, count: 1, lot: "b" }, elsewhere)).toMatchObject({
      moves: [
        { lot: "b", quantity: -1 },
        { lot: "b", quantity: 1 },
      ],
    });
  });
  test("what no piece is long enough for is refused: it, or the last of several", () => {
    expect(moves("wire", { kind: "cut", cutMm: 1001, count: 1 }, spools())).toEqual({
      fault: "No piece there is long enough for it. Join none: take another spool, or fewer.",
      pointer: "/cutMm",
    });
    expect(moves("wire", { kind: "cut", cutMm: 400, count: 3 }, spools())).toMatchObject({
      fault: expect.stringContaining("long enough for the last 1."),
    });
    expect(moves("round", { kind: "cut", cutMm: 10, count: 1 })).toEqual({
      fault: "6 mm round is not kept by length, so nothing can be cut of it.",
      pointer: "/cutMm",
    });
  });
});

describe("made of other stock", () => {
  const made = (from: { component: string; quantity: number }[], spots: Map<string, SpotBalance>) =>
    moves("pin", { kind: "made", quantity: 10, from }, spots);
  const result = at(PIN, { quantity: 10, madeOfBefore: true });
  test("the fullest jar is emptied first, whatever order the book has them in", () => {
    const spots = bookOf(spot(ROUND, 4), spot(ROUND, 9, { place: DRAWER }), spot(ROUND, 0, { lot: "gone" }));
    expect(made([{ component: ROUND, quantity: 11 }], spots)).toEqual({
      moves: [at(ROUND, { place: DRAWER, quantity: -9 }), at(ROUND, { quantity: -2 }), result],
    });
    expect(made([{ component: ROUND, quantity: 9 }], spots)).toEqual({
      moves: [at(ROUND, { place: DRAWER, quantity: -9 }), result],
    });
  });
  test("a length is cut from one piece that is long enough, and the rest of it is kept", () => {
    const spots = bookOf(spot(WIRE, 3, { stretchMm: 200 }), spot(WIRE, 1, { stretchMm: 1000 }));
    expect(made([{ component: WIRE, quantity: 450 }], spots)).toEqual({
      moves: [at(WIRE, { stretchMm: 1000, quantity: -1 }), at(WIRE, { stretchMm: 550, quantity: 1 }), result],
    });
    expect(made([{ component: WIRE, quantity: 200 }], spots)).toEqual({
      moves: [at(WIRE, { stretchMm: 200, quantity: -1 }), result],
    });
    // Three pieces of 200 are no piece of 450.
    const short = bookOf(spot(WIRE, 3, { stretchMm: 200 }));
    expect(made([{ component: WIRE, quantity: 450 }], short)).toMatchObject({ pointer: "/from/0/quantity" });
  });
  test("grams are taken to a thousandth; the place of what is short is named", () => {
    const spots = bookOf(spot(SEED, 0.1), spot(SEED, 0.2, { lot: "b" }), spot(ROUND, 5));
    expect(made([{ component: SEED, quantity: 0.3 }], spots)).toEqual({
      moves: [at(SEED, { lot: "b", quantity: -0.2 }), at(SEED, { quantity: -0.1 }), result],
    });
    const from = [
      { component: ROUND, quantity: 5 },
      { component: SEED, quantity: 0.4 },
    ];
    expect(made(from, spots)).toEqual({
      fault: "Not enough of what it is made of is in the jars.",
      pointer: "/from/1/quantity",
    });
  });
});

describe("posting", () => {
  const total = (t: Partial<Total> = {}): Total => ({
    component: ROUND,
    name: "6 mm round",
    baseUnit: "piece",
    onHand: 0,
    value: "0",
    lastCost: null,
    replacement: null,
    ...t,
  });
  const run = (of: Partial<Total>, list: Move[], spots: SpotBalance[] = []) => {
    const book = bookOf(...spots);
    const totals = new Map([[ROUND, total(of)]]);
    return { ...post(book, totals, list), book, now: totals.get(ROUND)! };
  };
  test("what comes without a price is worth the average, then the last paid, then what it would cost new", () => {
    const move = [at(ROUND, { quantity: 10 })];
    const values = (of: Partial<Total>) => run(of, move, [spot(ROUND, of.onHand ?? 0)]).moved[0]!.value;
    const known = { lastCost: "0.30", replacement: "0.50" };
    expect(values({ ...known, onHand: 4, value: "0.80" })).toBe("2.00000000");
    expect(values(known)).toBe("3.00000000");
    expect(values({ ...known, lastCost: null })).toBe("5.00000000");
    expect(values({})).toBe("0.00000000");
    expect(unitValue(total(known))).toBe("0.30");
    expect(unitValue(total({ ...known, onHand: 4, value: "0" }))).toBe("0.30");
    expect(unitValue(total({ ...known, onHand: 0, value: "1" }))).toBe("0.30");
    expect(unitValue(total({ replacement: "0.50" }))).toBe("0.50");
    expect(unitValue(total())).toBeNull();
  });
  test("what goes is worth the average and nothing is paid; the last piece takes what is left", () => {
    const { moved, now } = run(
      { onHand: 3, value: "1.00" },
      [at(ROUND, { quantity: -1 }), at(ROUND, { quantity: -2 })],
      [spot(ROUND, 3)],
    );
    expect(moved.map((m) => [m.value, m.cost, m.balance])).toEqual([
      ["-0.33333333", null, 2],
      ["-0.66666667", null, 0],
    ]);
    expect(now).toMatchObject({ onHand: 0, value: "0.00000000", lastCost: null });
  });
  test("a price that is told beats the averages, and what goes is never worth more than is there", () => {
    const { moved, now } = run(
      { onHand: 4, value: "0.80" },
      [at(ROUND, { quantity: 2, cost: "9.00" })],
      [spot(ROUND, 4)],
    );
    expect(moved[0]).toMatchObject({ value: "9.00000000", cost: "9.00" });
    expect(now.lastCost).toBe("4.50000000");
    const back = run({ onHand: 4, value: "0.80" }, [at(ROUND, { quantity: -2, value: "-5.00" })], [spot(ROUND, 4)]);
    expect(back.moved[0]!.value).toBe("-0.80000000");
    const told = run({ onHand: 4, value: "0.80" }, [at(ROUND, { quantity: -2, value: "-0.10" })], [spot(ROUND, 4)]);
    expect(told.moved[0]!.value).toBe("-0.10000000");
  });
  test("the doubt of a spot: added up by moves, set anew by a count, put back by a reversal", () => {
    const variance = (move: object) =>
      run({ onHand: 10 }, [at(ROUND, move) as Move], [spot(ROUND, 10, { variance: 4 })]).moved[0]!.varianceAfter;
    expect(variance({ quantity: 5, u: 3 })).toBe(13);
    expect(variance({ quantity: -5 })).toBe(4);
    expect(variance({ counted: 9, u: 1.5 })).toBe(2.25);
    expect(variance({ quantity: -5, varianceAfter: 1 })).toBe(1);
  });
  test("below nothing is refused with what is there, in words of its unit", () => {
    const short = run({ onHand: 1200, value: "1" }, [at(ROUND, { quantity: -1201 })], [spot(ROUND, 1200)]);
    expect(short.moved).toEqual([]);
    expect(short.faults).toEqual([
      {
        move: 0,
        holds: 1200,
        message: "The book holds only 1,200 of 6 mm round there. Count what is in the jar, or take less.",
      },
    ]);
    expect(run({ onHand: 5 }, [at(ROUND, { quantity: 0.5 })]).faults[0]!.message).toBe(
      "6 mm round is kept in pieces: write a whole number.",
    );
    const pieces = run({ baseUnit: "mm" }, [at(ROUND, { quantity: 0.5, stretchMm: 100 })]);
    expect(pieces.faults[0]!.message).toBe("6 mm round is kept in pieces of a length: write a whole number.");
    expect(run({ baseUnit: "g" }, [at(ROUND, { quantity: 0.5 })]).faults).toEqual([]);
    expect(post(new Map(), new Map(), [at(ROUND, { quantity: 1 })]).faults[0]!.message).toBe(
      "There is no such component.",
    );
  });
  test("pieces of a length count for their length in all, and what was entered is kept", () => {
    const { moved, now } = run({ baseUnit: "mm" }, [
      at(ROUND, { quantity: 2, stretchMm: 500, cost: "5.00", entered: "two spools" }),
    ]);
    expect(moved[0]).toMatchObject({ quantity: 2, balance: 1000, entered: "two spools" });
    expect(now).toMatchObject({ onHand: 1000, lastCost: "0.00500000" });
    expect(run({}, [at(ROUND, { quantity: 1 })]).moved[0]!.entered).toBe("");
  });
});

test("freight is shared to the cent by what each weighs; the rest goes to the largest rests, then the first", () => {
  expect(shareCharge("10.00", [1, 1, 1])).toEqual(["3.34", "3.33", "3.33"]);
  expect(shareCharge("10.00", [1, 2, 3])).toEqual(["1.67", "3.33", "5.00"]);
  expect(shareCharge("0.05", [3, 1, 3])).toEqual(["0.02", "0.01", "0.02"]);
  expect(shareCharge("1.00", [0, 0, 0, 0])).toEqual(["0.25", "0.25", "0.25", "0.25"]);
  expect(shareCharge("1.00", [0, 5])).toEqual(["0.00", "1.00"]);
  expect(shareCharge("0.00", [2, 3])).toEqual(["0.00", "0.00"]);
});
