import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { billOf } from "../src/bom/index.ts";
import { BoxBill, type BoxDetail, type Pool } from "../src/contract/index.ts";
import { cutFrom } from "../src/cut/index.ts";
import {
  boxBill,
  contentsOf,
  contentsText,
  cover,
  type Line,
  type NeedOf,
  needsOfBill,
  sayHowMuch,
  totalsOfBill,
} from "../src/run/index.ts";
import { demoArchive, demoBoxes } from "./demoBoxes.ts";
import { id } from "./things.ts";

const [BEAD, WIRE] = [id(1), id(2)];
const need = (quantity: number, cutMm: number | null = null): NeedOf => ({
  variant: id(900),
  component: cutMm === null ? BEAD : WIRE,
  cutMm,
  quantity,
  spare: 0,
});
const pool = (onHand: number, more: Partial<Pool> = {}): Pool => ({
  component: BEAD,
  onHand,
  aside: 0,
  pieces: [],
  asideCuts: [],
  ...more,
});
const line = (n: number, quantity: number, due: string, spoken = 0): Line => ({
  line: id(n),
  order: id(50),
  component: BEAD,
  due,
  quantity,
  pieceMm: null,
  spoken: { quantity: spoken, cuts: [] },
});
const said = (covered: readonly { quantity: number; orderLine: string | null }[]) =>
  covered.map((c) => [c.quantity, c.orderLine]);

describe("covering what a run needs", () => {
  test("from stock first, then from orders, the earliest first; what can't be covered is left over", () => {
    const spoken = new Map([[BEAD, { quantity: 30, cuts: [] }]]);
    const lines = [line(32, 40, "2027-03-09"), line(31, 50, "2027-03-01", 45)];
    const { covered, lacking } = cover([need(60), need(50)], [pool(100, { aside: 5 })], spoken, lines);
    // 100 less 5 set aside by hand and 30 spoken for: 65 of stock; then 5 of the first order, then 40 of the next.
    expect(said(covered)).toEqual([
      [60, null],
      [5, null],
      [5, id(31)],
      [40, id(32)],
    ]);
    expect(lacking).toEqual([]);
    expect(said(cover([need(60), need(60)], [pool(100)], new Map(), []).lacking)).toEqual([[20, null]]);
  });
  test("of what is kept by length, all cuts must find a piece together: a sum of offcuts is none", () => {
    const wire = pool(0, { component: WIRE, onHand: 1200, pieces: [{ mm: 400, count: 3 }] });
    const { covered, lacking } = cover([need(2, 300), need(2, 500)], [wire], new Map(), []);
    expect(said(covered)).toEqual([[2, null]]);
    expect(lacking.map((l) => [l.need.cutMm, l.quantity])).toEqual([[500, 2]]);
    const spool: Line = { ...line(31, 1000, "2027-03-01"), component: WIRE, pieceMm: 500 };
    expect(said(cover([need(2, 500)], [wire], new Map(), [spool]).covered)).toEqual([[2, id(31)]]);
  });
  test("cuts of one length that several laid aside or speak for all keep their place", () => {
    // 166 mm gives one 116 and a 50, 514 mm gives four 116 and a 50: nothing is free for a third 50.
    const wire = pool(0, {
      component: WIRE,
      pieces: [
        { mm: 166, count: 1 },
        { mm: 514, count: 1 },
      ],
      asideCuts: [{ mm: 116, count: 1 }],
    });
    const cuts = [
      { mm: 116, count: 4 },
      { mm: 50, count: 2 },
    ];
    const { covered, lacking } = cover([need(1, 50)], [wire], new Map([[WIRE, { quantity: 0, cuts }]]), []);
    expect(covered).toEqual([]);
    expect(said(lacking)).toEqual([[1, null]]);
  });
  test("law: what is spoken for never exceeds what is on hand and ordered, and no need is covered twice", () => {
    const some = (max: number) => fc.array(fc.integer({ min: 1, max }), { maxLength: 5 });
    fc.assert(
      fc.property(
        some(60),
        fc.integer({ min: 0, max: 150 }),
        some(40),
        fc.integer({ min: 0, max: 40 }),
        (n, hand, o, by) => {
          const needs = n.map((q) => need(q));
          const lines = o.map((q, i) => line(60 + i, q, "2027-03-01"));
          const spoken = new Map([[BEAD, { quantity: by, cuts: [] }]]);
          const { covered, lacking } = cover(needs, [pool(hand)], spoken, lines);
          const sum = (list: readonly { quantity: number }[]) => list.reduce((s, c) => s + c.quantity, 0);
          expect(sum(covered.filter((c) => c.orderLine === null))).toBeLessThanOrEqual(Math.max(0, hand - by));
          for (const l of lines) {
            expect(sum(covered.filter((c) => c.orderLine === l.line))).toBeLessThanOrEqual(l.quantity);
          }
          for (const one of needs) {
            expect(sum([...covered, ...lacking].filter((c) => c.need === one))).toBe(one.quantity);
          }
          // Nothing lacks while something is free.
          const free = Math.max(0, hand - by) + sum(lines) - sum(covered);
          if (sum(lacking) > 0) expect(free).toBe(0);
        },
      ),
    );
  });
  test("law: cuts that are covered can all be laid, beside those that lay there", () => {
    const cuts = fc.array(fc.record({ mm: fc.integer({ min: 50, max: 400 }), count: fc.integer({ min: 1, max: 4 }) }), {
      maxLength: 3,
    });
    fc.assert(
      fc.property(
        cuts,
        cuts,
        fc.array(fc.integer({ min: 100, max: 900 }), { maxLength: 6 }),
        (asked, before, lengths) => {
          const pieces = lengths.map((mm) => ({ mm, count: 1 }));
          const lies = cutFrom(pieces, before).missing.length === 0 ? before : [];
          const needs = asked.map((c) => need(c.count, c.mm));
          const spoken = new Map([[WIRE, { quantity: 0, cuts: lies }]]);
          const { covered } = cover(needs, [pool(0, { component: WIRE, pieces })], spoken, []);
          const laid = covered.map((c) => ({ mm: c.need.cutMm!, count: c.quantity }));
          // They find a place together, or else beside what lies there already.
          const together = cutFrom(pieces, [...lies, ...laid]).missing;
          const beside = cutFrom(cutFrom(pieces, lies).left, laid).missing;
          expect(Math.min(together.length, beside.length)).toBe(0);
        },
      ),
    );
  });
});

describe("lists from a bill", () => {
  const bills = demoBoxes().map((detail) => ({ detail, bill: boxBill(detail, billOf(detail)) }));

  test("a bill holds all that its lists need: put away as JSON and read again, it says the same", () => {
    for (const { detail, bill } of bills) {
      const again = BoxBill.parse(JSON.parse(JSON.stringify(bill)));
      for (const [i, variant] of bill.variants.entries()) {
        expect(contentsOf(again, again.variants[i]!)).toEqual(contentsOf(bill, variant));
      }
      const runs = new Map(billOf(detail).totals.map((t) => [t.component.id, t.run]));
      expect(new Map(totalsOfBill(again).map((t) => [t.component.id, t.run]))).toEqual(runs);
    }
  });
  test("contents, key cards and bill add up to each other, in every colourway of every box, however changed", () => {
    fc.assert(
      fc.property(
        fc.nat(bills.length - 1),
        fc.constantFrom("together" as const, "project" as const),
        fc.array(fc.record({ c: fc.nat(119), quantity: fc.integer({ min: 1, max: 9 }) }), { maxLength: 3 }),
        fc.integer({ min: 0, max: 20 }),
        (which, bagging, extras, spare) => {
          const { detail: base } = bills[which]!;
          const contents = extras.map(({ c, quantity }, i) => ({
            id: id(7000 + i),
            component: base.components[c]!.id,
            first: null,
            quantity,
          }));
          const roles = base.box.roles.map((r, i) => (i % 3 === 0 ? { ...r, spare } : r));
          const detail: BoxDetail = { ...base, box: { ...base.box, bagging, contents, roles } };
          const bill = boxBill(detail, billOf(detail));
          for (const variant of bill.variants) {
            const { bags, cards } = contentsOf(bill, variant);
            for (const l of variant.lines) {
              const items = bags.flatMap((b) => b.items.filter((x) => x.component.id === l.component));
              const amount = items.reduce((sum, x) => sum + x.amount, 0);
              expect(amount).toBeCloseTo(l.perBox + l.spare, 2);
              expect(l.run).toBeGreaterThanOrEqual((l.perBox + l.spare) * variant.boxes - 1e-3);
              const onCards = cards.flatMap((c) => c.keys.filter((k) => k.component.id === l.component));
              const fromDesigns = l.from.reduce((sum, f) => sum + f.taken, 0);
              expect(onCards.reduce((sum, k) => sum + k.taken, 0)).toBeCloseTo(fromDesigns, 4);
            }
            expect(needsOfBill(bill).length).toBeGreaterThan(0);
          }
        },
      ),
      { numRuns: 30 },
    );
  });
  test("as text for the web: spares told or left out, cuts in the reader's unit, cautions, what is at hand", () => {
    const { bill } = bills.find((b) => b.bill.theme === "Dye Garden")!;
    const contents = contentsOf(bill, bill.variants[0]!);
    const told = contentsText(contents, { unit: "in", spares: true });
    expect(told).toContain("Dye Garden, Madder\n");
    expect(told).toContain("- Brass disc spacer: 10 and 1 to spare\n");
    expect(told).toMatch(/- Cable chain 3\.5 mm link: .*in/);
    expect(told).toContain("Small parts: not for children under 3.");
    expect(told).toContain("Local rules and your own judgement come first.");
    const untold = contentsText(contents, { unit: "mm", spares: false });
    expect(untold).toContain("- Brass disc spacer: 10\n");
    expect(untold).not.toContain("to spare");
    expect(untold).toMatch(/- Cable chain 3\.5 mm link: .*mm/);
    const atHand = contentsText({ ...contents, atHand: ["round-nose pliers"] }, { unit: "mm", spares: false });
    expect(atHand).toContain("Not in the box; have at hand\n- round-nose pliers\n");
  });
  test("whole packs are named as packs", () => {
    const { bill } = bills.find((b) => b.bill.theme === "Letterpress")!;
    const beside = contentsOf(bill, bill.variants[0]!).bags.find((b) => b.title === "Beside the designs")!;
    const strand = beside.items.find((x) => x.component.code === "R06-INK")!;
    expect(sayHowMuch(strand, "mm", true)).toBe("1 × strand of 25");
  });
});

test("the demo's committed boxes are covered by what its archive says, need by need", () => {
  const archive = demoArchive();
  const committed = archive.runs.filter((r) => r.state === "committed" || r.state === "packing");
  expect(committed).toHaveLength(2);
  const cuts = new Map(archive.runs.flatMap((r) => r.needs.map((n) => [n.id, n.cutMm ?? null] as const)));
  // What is in boxes that are packed is covered as well.
  const used = archive.ledger.flatMap(({ need, component, quantity, stretchMm }) => {
    if (need == null) return [];
    const cutMm = cuts.get(need) ?? null;
    return [{ need, component, cutMm, quantity: (-quantity * (stretchMm ?? 1)) / (cutMm ?? 1) }];
  });
  for (const run of committed) {
    const frozen = needsOfBill(run.bills.at(-1)!.bill);
    const sum = (list: readonly { component: string; quantity: number; cutMm?: number | null | undefined }[]) => {
      const sums: Record<string, number> = {};
      for (const n of list)
        sums[`${n.component} ${n.cutMm ?? ""}`] = (sums[`${n.component} ${n.cutMm ?? ""}`] ?? 0) + n.quantity;
      return Object.fromEntries(Object.entries(sums).map(([k, v]) => [k, Number(v.toFixed(3))]));
    };
    expect(sum(run.needs)).toEqual(sum(frozen));
    const ids = new Set(run.needs.map((n) => n.id));
    const covered = [...archive.setAside, ...used].filter((r) => r.need && ids.has(r.need));
    expect(sum(covered)).toEqual(sum(frozen));
  }
});
