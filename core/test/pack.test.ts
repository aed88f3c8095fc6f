import fc from "fast-check";
import jStat from "jstat";
import { describe, expect, test } from "vitest";
import type { Packing, PackNeed, Stand } from "../src/contract/index.ts";
import { planCuts } from "../src/cut/index.ts";
import {
  assignLots,
  bagItems,
  cutList,
  dueAfter,
  packedOf,
  pickList,
  progressOf,
  settled,
  stillOpen,
  takenNext,
} from "../src/pack/index.ts";
import { contentsOf, needsOfBill, totalsOfBill } from "../src/run/index.ts";
import { type BagItem, bagWeight, judgeBag, readingU } from "../src/weigh/index.ts";
import { demoArchive } from "./demoBoxes.ts";
import { id } from "./things.ts";

const [BEAD, A, B] = [id(1), id(61), id(62)];
const stand = (lot: string, quantity: number, place = A): Stand => ({
  component: BEAD,
  place,
  lot,
  stretchMm: 0,
  quantity,
  unitMass: null,
});
const need = (n: number, quantity: number, more: Partial<PackNeed> = {}): PackNeed => ({
  id: id(100 + n),
  variant: id(200 + n),
  component: BEAD,
  cutMm: null,
  quantity,
  used: 0,
  swapped: 0,
  held: quantity,
  ordered: [],
  lot: null,
  ...more,
});

describe("what packed boxes have used", () => {
  test("the run's × packed ÷ boxes, rounded up; never less, at most a unit too much, whole at the end", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5000 }),
        fc.integer({ min: 1, max: 200 }),
        fc.boolean(),
        (thousandths, boxes, whole) => {
          const run = whole ? thousandths : thousandths / 1000;
          const step = whole ? 1 : 0.001;
          let before = 0;
          for (let k = 0; k <= boxes; k++) {
            const due = dueAfter(run, k, boxes, whole);
            const exact = (run * k) / boxes;
            expect(due).toBeGreaterThanOrEqual(exact - 1e-9);
            expect(due).toBeLessThan(exact + step);
            expect(due).toBeGreaterThanOrEqual(before);
            before = due;
          }
          expect(before).toBe(run);
        },
      ),
    );
  });
  test("each tap takes the difference, so any order comes to the same; what was swapped is not taken", () => {
    const order = fc.array(fc.boolean(), { maxLength: 40 });
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 12 }), order, (run, boxes, taps) => {
        let [used, packed] = [0, 0];
        for (const more of taps) {
          const next = Math.min(boxes, Math.max(0, packed + (more ? 1 : -1)));
          used += takenNext({ quantity: run, used, swapped: 0 }, next, boxes, true);
          packed = next;
          expect(used).toBe(dueAfter(run, packed, boxes, true));
        }
      }),
    );
    expect(takenNext({ quantity: 10, used: 5, swapped: 2 }, 10, 10, true)).toBe(3);
    expect(stillOpen({ quantity: 10, used: 5, swapped: 2 })).toBe(3);
    expect(dueAfter(10, 0, 0, true)).toBe(0);
  });
});

describe("the pick list", () => {
  test("one lot for one variant where it lasts: the smallest that does; those that need most choose first", () => {
    const { picks, missing } = assignLots(
      [stand("spring", 40), stand("autumn", 90), stand("winter", 300)],
      [need(1, 30), need(2, 80), need(3, 100)],
      [A],
    );
    expect(missing).toEqual([]);
    expect(new Map(picks.map((p) => [p.need, p.lot]))).toEqual(
      new Map([
        [id(103), "winter"],
        [id(102), "autumn"],
        [id(101), "spring"],
      ]),
    );
  });
  test("a begun one goes on with its lot, and takes of others only when that is empty", () => {
    const { picks } = assignLots([stand("a", 10), stand("b", 100)], [need(1, 30, { lot: "a" }), need(2, 60)], [A]);
    expect(picks.map((p) => [p.need, p.lot, p.quantity])).toEqual([
      [id(101), "a", 10],
      [id(101), "b", 20],
      [id(102), "b", 60],
    ]);
  });
  test("laws: no jar gives more than it holds, and each need gets all of it or the jars are empty", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ lot: fc.constantFrom("", "7", "8"), place: fc.constantFrom(A, B), quantity: fc.nat(60) }),
          {
            maxLength: 5,
          },
        ),
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 5 }),
        (jars, wants) => {
          const unique = [...new Map(jars.map((j) => [`${j.lot} ${j.place}`, j])).values()];
          const stands = unique.map((j) => stand(j.lot, j.quantity, j.place));
          const { picks, missing } = assignLots(
            stands,
            wants.map((q, i) => need(i, q)),
            [A, B],
          );
          for (const s of stands) {
            const taken = picks.filter((p) => p.place === s.place && p.lot === s.lot);
            expect(taken.reduce((sum, p) => sum + p.quantity, 0)).toBeLessThanOrEqual(s.quantity);
          }
          wants.forEach((q, i) => {
            const got = picks.filter((p) => p.need === id(100 + i)).reduce((sum, p) => sum + p.quantity, 0);
            const lacks = missing.find((m) => m.need === id(100 + i))?.quantity ?? 0;
            expect(got + lacks).toBe(q);
          });
          const left = stands.reduce((sum, s) => sum + s.quantity, 0) - picks.reduce((sum, p) => sum + p.quantity, 0);
          if (missing.length > 0) expect(left).toBe(0);
        },
      ),
    );
  });
});

describe("the cut list", () => {
  const pieces = fc.array(fc.record({ mm: fc.integer({ min: 50, max: 600 }), count: fc.integer({ min: 1, max: 2 }) }), {
    maxLength: 4,
  });
  const cuts = fc.array(fc.record({ mm: fc.integer({ min: 40, max: 300 }), count: fc.integer({ min: 1, max: 2 }) }), {
    minLength: 1,
    maxLength: 3,
  });
  /** Whether cuts can be laid on single pieces, by trying every piece for every cut. */
  function canBeLaid(left: readonly number[], open: readonly number[]): boolean {
    if (open.length === 0) return true;
    const [first, ...rest] = open as [number, ...number[]];
    return left.some((mm, i) => mm >= first && canBeLaid(left.with(i, mm - first), rest));
  }
  const each = (list: readonly { mm: number; count: number }[]) =>
    list.flatMap((l) => Array.from({ length: l.count }, () => l.mm));
  test("can be cut from its spools, as trying all of it shows; each step adds up, the longest first", () => {
    fc.assert(
      fc.property(pieces, cuts, (have, wanted) => {
        const at = have.map((p, i) => ({ ...p, place: A, lot: String(i) }));
        const { steps, missing } = planCuts(at, wanted);
        const done = steps.flatMap((s) => s.cuts.map((c) => ({ ...c, count: c.count * s.pieces })));
        const ofLot = (lot: string) => steps.reduce((n, s) => (s.lot === lot ? n + s.pieces : n), 0);
        // What is cut and what is missing is what was wanted.
        const count = (list: readonly { mm: number; count: number }[], mm: number) =>
          list.reduce((n, c) => (c.mm === mm ? n + c.count : n), 0);
        for (const mm of new Set(wanted.map((w) => w.mm)))
          expect(count(done, mm) + count(missing, mm)).toBe(count(wanted, mm));
        for (const s of steps) {
          const sum = s.cuts.reduce((n, c) => n + c.mm * c.count, 0);
          expect(s.fromMm).toBeCloseTo(sum + s.leftMm, 6);
          expect(s.cuts.map((c) => c.mm)).toEqual([...s.cuts.map((c) => c.mm)].sort((a, b) => b - a));
        }
        // No piece is cut twice.
        for (const p of at) {
          expect(ofLot(p.lot)).toBeLessThanOrEqual(p.count);
        }
        expect(canBeLaid(each(have), each(done))).toBe(true);
        // Alike pieces together are cut as one after the other would be.
        const apart = each(have).map((mm, i) => ({ mm, count: 1, place: A, lot: String(i) }));
        const said = (list: typeof steps) =>
          list
            .flatMap((s) => Array.from({ length: s.pieces }, () => JSON.stringify([s.fromMm, s.cuts, s.leftMm])))
            .sort();
        expect(said(planCuts(apart, wanted).steps)).toEqual(said(steps));
        // Where it says that one is missing, that one does not fit on anything that is left.
        for (const m of missing) {
          const used = steps.map((s) => s.leftMm);
          const whole = at.flatMap((p) => Array.from({ length: p.count - ofLot(p.lot) }, () => p.mm));
          expect([...used, ...whole].some((mm) => mm >= m.mm)).toBe(false);
        }
      }),
    );
  });
});

test("a million pieces are planned like one", () => {
  const [mm, many] = [333.3333, 1_000_000];
  const { steps, missing } = planCuts([{ mm, count: many, place: A, lot: "" }], [{ mm: 150, count: 2 * many - 1 }]);
  expect(missing).toEqual([]);
  expect(steps).toMatchObject([
    { fromMm: mm, pieces: many - 1, cuts: [{ mm: 150, count: 2 }], leftMm: 33.3333 },
    { fromMm: mm, pieces: 1, cuts: [{ mm: 150, count: 1 }], leftMm: 183.3333 },
  ]);
});

/** April of the demo: half packed. */
function april(): Packing {
  const archive = demoArchive();
  const run = archive.runs.find((r) => r.state === "packing")!;
  const { bill } = run.bills.at(-1)!;
  const used = new Map<string, number>();
  for (const m of archive.ledger) {
    if (m.need == null) continue;
    used.set(m.need, (used.get(m.need) ?? 0) - m.quantity * (m.stretchMm ?? 1));
  }
  const stands = new Map<string, Stand>();
  for (const { component, place, lot, stretchMm, quantity } of archive.ledger) {
    const key = `${component} ${place} ${lot} ${stretchMm ?? 0}`;
    const known = stands.get(key) ?? { component, place, lot, stretchMm: stretchMm ?? 0, quantity: 0, unitMass: null };
    stands.set(key, { ...known, quantity: Math.round((known.quantity + quantity) * 1000) / 1000 });
  }
  return {
    box: run.box,
    state: run.state,
    packBy: bill.packBy,
    bill: { no: 1, at: run.bills[0]!.at, person: null },
    stoppedAt: null,
    closed: null,
    of: bill,
    places: archive.places.map(({ id: place, code, name }) => ({ id: place, code, name })),
    stands: [...stands.values()],
    free: {},
    needs: run.needs.map((n) => ({
      ...need(0, n.quantity),
      id: n.id,
      variant: n.variant!,
      component: n.component,
      cutMm: n.cutMm ?? null,
      used: Math.round(((used.get(n.id) ?? 0) / (n.cutMm ?? 1)) * 1000) / 1000,
    })),
    packed: run.packed.map((p) => ({ ...p, person: null })),
    told: [],
  };
}

describe("a box half packed, as the demo has it", () => {
  const packing = april();
  test("what its ledger used is what the bill says for the boxes that are packed", () => {
    expect([...packedOf(packing).values()].reduce((a, b) => a + b, 0)).toBe(140);
    for (const row of settled(packing)) expect([row.component, row.used]).toEqual([row.component, row.billed]);
  });
  test("needs, pick list, cut list and bags add up to the bill", () => {
    const needed = needsOfBill(packing.of);
    expect(packing.needs.map((n) => n.quantity).sort()).toEqual(needed.map((n) => n.quantity).sort());
    const { rows, missing } = pickList(packing);
    const cut = cutList(packing);
    for (const { component, run } of totalsOfBill(packing.of)) {
      const mine = packing.needs.filter((n) => n.component === component.id);
      const open = mine.reduce((sum, n) => sum + stillOpen(n) * (n.cutMm ?? 1), 0);
      const lacking = missing.find((m) => m.component === component.id)?.quantity ?? 0;
      const listed =
        component.baseUnit === "mm"
          ? (cut.find((c) => c.component === component.id)?.steps ?? [])
              .flatMap((s) => s.cuts.map((c) => c.mm * c.count * s.pieces))
              .reduce((sum, mm) => sum + mm, 0)
          : rows.reduce((sum, r) => (r.component === component.id && "quantity" in r ? sum + r.quantity : sum), 0);
      expect(listed + lacking).toBeCloseTo(open, 2);
      const used = mine.reduce((sum, n) => sum + n.used * (n.cutMm ?? 1), 0);
      expect(used + open).toBeCloseTo(run, 2);
      const bagged = packing.of.variants.reduce((sum, v) => {
        const items = contentsOf(packing.of, v).bags.flatMap((b) => b.items);
        return sum + v.boxes * items.reduce((n, i) => (i.component.id === component.id ? n + i.amount : n), 0);
      }, 0);
      // Grams are rounded to a thousandth in each bag, for the run once.
      const boxes = packing.of.variants.reduce((sum, v) => sum + v.boxes, 0);
      expect(Math.abs(bagged - run)).toBeLessThanOrEqual(component.baseUnit === "g" ? 0.001 * boxes : 1e-6);
    }
  });
  test("what holds up the rest is what the order still brings", () => {
    const held = progressOf({ ...packing, free: Object.fromEntries(packing.of.components.map((c) => [c.id, 0])) });
    expect(held.map((p) => p.packed).sort((a, b) => a - b)).toEqual([5, 20, 45, 70]);
    const smoke = held.find((p) => p.packed === 20)!;
    expect(smoke.can).toBe(25);
    expect(packing.of.components.find((c) => c.id === smoke.heldUpBy?.component)?.name).toBe("8/0 seed, smoke");
  });
});

describe("a bag by weight", () => {
  const item = (name: string, count: number, g: number, u = 0, sd = 0): BagItem => ({
    name,
    count,
    piece: { g, u, sd, estimated: false },
  });
  const scale = { d: 0.01, repeatability: 0 };
  test("mass and ± by the law of propagation: sums of means, of spreads, and of two readings", () => {
    const weight = bagWeight([item("a", 24, 0.67, 0.004, 0.018), item("b", 5, 0.16, 0.001, 0.006)], scale);
    expect(weight.g).toBeCloseTo(24 * 0.67 + 5 * 0.16, 9);
    const variance = (24 * 0.004) ** 2 + 24 * 0.018 ** 2 + (5 * 0.001) ** 2 + 5 * 0.006 ** 2 + (2 * 0.01 ** 2) / 12;
    expect(weight.u).toBeCloseTo(Math.sqrt(variance), 9);
    expect(weight.plusMinus).toBeCloseTo(jStat.normal.inv(0.975, 0, 1) * Math.sqrt(variance), 6);
  });
  test("the detectable shortage is that of the exact normal quantile: 19 of 20 short bags are called light", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.double({ min: 0.01, max: 2, noNaN: true }),
        fc.double({ min: 0.001, max: 0.1, noNaN: true }),
        (count, g, spread) => {
          const weight = bagWeight([item("a", count, g, 0, spread * g)], scale);
          const z = jStat.normal.inv(0.95, 0, 1);
          expect(weight.leastG / weight.u).toBeCloseTo(2 * z, 5);
          // A good bag is called light once in 20; one that lacks just so much, 19 times.
          const called = (missing: number) => jStat.normal.cdf(weight.g - z * weight.u, weight.g - missing, weight.u);
          expect(called(0)).toBeCloseTo(0.05, 6);
          expect(called(weight.leastG)).toBeCloseTo(0.95, 6);
          const [a] = weight.items;
          if (Number.isFinite(a!.from)) {
            expect(called(a!.from * g)).toBeGreaterThanOrEqual(0.95 - 1e-6);
            if (a!.from > 1) expect(called((a!.from - 1) * g)).toBeLessThan(0.95);
          } else expect(called(count * g)).toBeLessThan(0.95);
        },
      ),
    );
  });
  test("a reading fits, or is light or heavy, and says by how many of what", () => {
    const items = [item("round", 24, 0.67, 0.001, 0.005), item("seed", 90, 0.009, 0.00001, 0.0005)];
    const weight = bagWeight(items, scale);
    expect(judgeBag(weight, items, weight.g + 0.01)).toEqual({ is: "fits" });
    expect(judgeBag(weight, items, weight.g - 0.67)).toMatchObject({ is: "light", by: ["1 × round"] });
    expect(judgeBag(weight, items, weight.g + 1.34)).toMatchObject({ is: "heavy", by: ["2 × round"] });
    expect(judgeBag(weight, items, weight.g - 6)).toMatchObject({ is: "light" });
    expect(weight.items).toMatchObject([{ from: 1 }, { name: "seed" }]);
    expect(weight.items[1]!.from).toBeGreaterThan(1);
    expect(readingU(scale)).toBeCloseTo(0.01 / Math.sqrt(12), 12);
  });
  test("what nobody knows the mass of is named, an estimate that brings most of the ± as well", () => {
    const guess: BagItem = { name: "guess", count: 10, piece: { g: 0.5, u: 0.1, sd: 0.02, estimated: true } };
    const weight = bagWeight([item("a", 3, 1), guess, { name: "cord", count: 1, piece: null }], scale);
    expect(weight.unknown).toEqual(["cord"]);
    expect(weight.weighFirst).toBe("guess");
    expect(bagWeight([item("a", 3, 1)], scale).weighFirst).toBeNull();
  });
  test("a piece: as its lot was weighed, by pieces a gram, else by what it is made of, else unknown", () => {
    const packing = april();
    const [variant] = packing.of.variants;
    const items = contentsOf(packing.of, variant!).bags.flatMap((b) => b.items);
    const bead = items.find((i) => i.component.baseUnit === "piece" && i.component.kind === "bead")!;
    const weighed = { ...stand("", 1), component: bead.component.id, unitMass: { g: 0.5, u: 0.01, sd: null } };
    expect(bagItems([bead], [weighed])).toMatchObject([{ count: bead.amount, piece: { g: 0.5, estimated: false } }]);
    expect(bagItems([bead], [])[0]!.piece?.estimated).toBe(true);
    const bare = { ...bead, component: { ...bead.component, material: null, massG: null, perGram: null } };
    expect(bagItems([bare], [])[0]!.piece).toBeNull();
    const seed = items.find((i) => i.component.perGram != null)!;
    expect(bagItems([seed], [])).toMatchObject([
      { count: seed.counted + seed.spare, piece: { g: 1 / seed.component.perGram! } },
    ]);
    const cord = items.find((i) => i.component.baseUnit === "mm")!;
    expect(bagItems([cord], [])[0]!.piece).toBeNull();
  });
});
