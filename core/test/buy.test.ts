import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  amountOfPacks,
  buyLine,
  type Buying,
  buyList,
  lacksOf,
  letterRows,
  letterTotal,
  orderText,
  packsFor,
} from "../src/buy/index.ts";
import type { Component, Lack, Offer, Shares } from "../src/contract/index.ts";
import { cutFrom } from "../src/cut/index.ts";
import { component, id } from "./things.ts";

const [BEAD, WIRE, GLASS, REEL] = [id(1), id(2), id(71), id(72)];
const offer = (n: number, more: Partial<Offer>): Offer => ({
  id: id(n),
  supplier: GLASS,
  pack: "pack",
  amount: 10,
  unit: "piece",
  price: "1.00",
  steps: [],
  minimum: 1,
  ...more,
});
const buying: Buying = {
  today: "2027-02-01",
  currency: "GBP",
  suppliers: new Map([
    [GLASS, { leadDays: 12 }],
    [REEL, { leadDays: null }],
  ]),
};
const lack = (more: Partial<Lack> = {}): Lack => ({
  component: BEAD,
  need: 85,
  cuts: [],
  by: "2027-02-20",
  boxes: [],
  late: [],
  ...more,
});
const box = (n: number, packBy: string) =>
  ({ id: id(n), theme: `box ${n}`, month: "2027-03", packBy, state: "planned" }) as const;
const shares = (wants: readonly number[], onHand: number): Shares => ({
  today: buying.today,
  boxes: wants.map((_, i) => box(10 + i, `2027-03-${10 + i}`)),
  claims: wants.map((quantity, i) => ({ box: id(10 + i), component: BEAD, from: null, quantity, cuts: [] })),
  supplies: [],
  pools: [{ component: BEAD, onHand, aside: 0, pieces: [], asideCuts: [] }],
});

describe("what boxes lack", () => {
  test("each lacks for itself, who is packed first takes first; what is lacking adds up to need less stock", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 0, max: 120 }),
        (wants, onHand) => {
          const s = shares(wants, onHand);
          const all = lacksOf(s, () => false, new Set(s.boxes.map((b) => b.id)));
          const total = wants.reduce((a, b) => a + b, 0);
          expect(all.reduce((sum, l) => sum + l.need, 0)).toBe(Math.max(0, total - onHand));
          // Of some of them it is their part of that, whoever else is asked for.
          const some = s.boxes.filter((_, i) => i % 2 === 0).map((b) => b.id);
          const part = lacksOf(s, () => false, new Set(some));
          for (const b of some) {
            const of = (list: Lack[]) => list.flatMap((l) => l.boxes).find((x) => x.box === b)?.quantity ?? 0;
            expect(of(part)).toBe(of(all));
          }
        },
      ),
    );
  });
  test("what a box had already, by boxes that are packed, is not lacking", () => {
    const s = shares([30], 0);
    const used = { ...s, claims: [...s.claims, { ...s.claims[0]!, from: "used" as const, quantity: 70 }] };
    expect(lacksOf(used, () => false, new Set([id(10)]))).toMatchObject([{ need: 30 }]);
  });
});

describe("a line of what to buy", () => {
  const bead = component(1, {
    offers: [
      offer(31, { price: "2.00", steps: [{ from: 10, price: "1.79" }] }),
      offer(32, { supplier: REEL, amount: 100, price: "19.00" }),
    ],
  });
  test("the packs that cost least, by when to order, what is over and its worth", () => {
    const line = buyLine(bead, lack(), packsFor(bead, lack(), "GBP")!, buying);
    expect(line).toMatchObject({
      chosen: [{ offer: id(31), packs: 10, amount: 100, price: "17.90", due: "2027-02-13", orderBy: "2027-02-08" }],
      total: "17.90",
      unstepped: "18.00",
      over: 15,
      overWorth: "2.69", // 17.90 × 15 ÷ 100 = 2.685
    });
  });
  test("late where it would come after the day; nobody knows without a lead time", () => {
    const soon = lack({ by: "2027-02-12" });
    expect(buyLine(bead, soon, new Map([[id(31), 9]]), buying).chosen).toMatchObject([
      { late: true, orderBy: "2027-01-31" },
    ]);
    const other = buyLine(bead, soon, new Map([[id(32), 1]]), buying);
    expect(other.chosen).toMatchObject([{ late: false, orderBy: null, due: null }]);
    expect(other.unstepped).toBeNull();
    // By hand less than is needed: nothing is over.
    expect(buyLine(bead, lack(), new Map([[id(31), 2]]), buying)).toMatchObject({ over: -65, overWorth: "0.00" });
  });
  test("packs in another unit are converted, and pieces are whole", () => {
    const seed = component(3, { form: "seed", perGram: 115, offers: [offer(33, { unit: "g", amount: 8.5 })] });
    expect(amountOfPacks(seed, seed.offers[0]!, 1)).toBe(977); // 8.5 × 115 = 977.5
    expect(packsFor(seed, { need: 978, cuts: [] }, "GBP")).toEqual(new Map([[id(33), 2]]));
    const unknown = component(4, { offers: [offer(34, { unit: "g" })] });
    expect(packsFor(unknown, { need: 1, cuts: [] }, "GBP")).toBeNull();
  });
  test("cuts fit on the spools that are bought, each on one piece", () => {
    const lengths = fc.array(
      fc.record({ mm: fc.integer({ min: 50, max: 900 }), count: fc.integer({ min: 1, max: 9 }) }),
      {
        minLength: 1,
        maxLength: 4,
      },
    );
    fc.assert(
      fc.property(lengths, (cuts) => {
        const sorted = [...cuts].sort((a, b) => b.mm - a.mm);
        const wire = component(2, {
          baseUnit: "mm",
          offers: [
            offer(41, { unit: "mm", amount: 1000, price: "1.00" }),
            offer(42, { unit: "mm", amount: 400, price: "0.30" }),
          ],
        });
        const need = cuts.reduce((sum, c) => sum + c.mm * c.count, 0);
        const packs = packsFor(wire, { need, cuts: sorted }, "GBP")!;
        const pieces = [
          { mm: 1000, count: packs.get(id(41)) ?? 0 },
          { mm: 400, count: packs.get(id(42)) ?? 0 },
        ];
        expect(cutFrom(pieces, sorted).missing).toEqual([]);
      }),
    );
    const short = component(2, { baseUnit: "mm", offers: [offer(42, { unit: "mm", amount: 400 })] });
    expect(packsFor(short, { need: 500, cuts: [{ mm: 500, count: 1 }] }, "GBP")).toBeNull();
  });
});

test("a list: late lines first, then by the last day to order; the total is the sum of its lines", () => {
  const things: Component[] = [
    component(1, { name: "b", offers: [offer(31, { leadDays: 3 })] }),
    component(2, { name: "a", offers: [offer(32, { leadDays: 60 })] }),
    component(3, { name: "c", offers: [] }),
    component(4, { name: "d", offers: [offer(34, { leadDays: 9 })] }),
  ];
  const lacks = things.map((c) => lack({ component: c.id, need: 5 }));
  const list = buyList(
    [box(10, "2027-02-20")],
    new Set([id(10)]),
    lacks,
    new Map(things.map((c) => [c.id, c])),
    buying,
  );
  expect(list.lines.map((l) => l.component)).toEqual([id(2), id(4), id(1), id(3)]);
  expect(list).toMatchObject({ total: "3.00", boxes: [id(10)] });
});

test("an order as a letter says what stands in it, and comes to the sum of its lines", () => {
  const letter = {
    order: {
      number: "L-1",
      placedOn: "2027-02-01",
      currency: "KWD",
      note: "Please pack the honey ones apart.",
      lines: [
        { id: id(81), component: BEAD, pack: "pack of 10", packs: 2, quantity: 20, price: "1.5", due: "2027-02-13" },
        { id: id(82), component: WIRE, pack: "spool", packs: 1, quantity: 9144, price: "4.125", due: null },
      ],
    },
    workshop: "Quarry Lane Bead Post",
    supplier: "Lowfold",
    nameOf: (c: string) => ({
      code: c === BEAD ? "B" : "W",
      name: c === BEAD ? "Honey" : "Wire",
      baseUnit: "piece" as const,
    }),
  };
  expect(letterTotal(letter.order)).toBe("5.625");
  expect(letterRows(letter).map((r) => [r.packs, r.code, r.due])).toEqual([
    [2, "B", "2027-02-13"],
    [1, "W", null],
  ]);
  expect(orderText(letter)).toBe(
    [
      "Order L-1, 2027-02-01",
      "To Lowfold",
      "",
      "2 × pack of 10  Honey (B)  1.5 KWD",
      "1 × spool  Wire (W)  4.125 KWD",
      "",
      "In all 5.625 KWD",
      "Please let us know if it can't be here by 2027-02-13.",
      "Please pack the honey ones apart.",
      "",
      "Quarry Lane Bead Post",
      "",
    ].join("\n"),
  );
});

test("of two packs at one price the one is bought that names who sells it", () => {
  const nobody = offer(11, { supplier: null });
  const named = offer(12, {});
  const of = (offers: Offer[]) => packsFor(component(1, { offers }), lack(), "GBP");
  expect(of([nobody, named])).toEqual(new Map([[named.id, 9]]));
  expect(of([named, nobody])).toEqual(new Map([[named.id, 9]]));
  // A cheaper one is bought from whoever sells it.
  expect(of([{ ...nobody, price: "0.99" }, named])).toEqual(new Map([[nobody.id, 9]]));
});
