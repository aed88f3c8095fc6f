/** Numbers that misled somebody, each worked by hand. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { sharingFor, sharingNow } from "../src/ahead/index.ts";
import { type Bill, billOf, makeable, originsOfNeed, totalsOf } from "../src/bom/index.ts";
import { buyLine, lacksOf, packsFor } from "../src/buy/index.ts";
import type { BoxDetail, Component, Design, Shares } from "../src/contract/index.ts";
import { costOf } from "../src/cost/index.ts";
import { count, countWhole } from "../src/count/index.ts";
import { cutFrom, measuredCut, planCuts } from "../src/cut/index.ts";
import { dayAfter, dayIn, daysBetween, monthAfter, movedTo } from "../src/day/index.ts";
import { endsMm, finishedMm } from "../src/length/index.ts";
import { chooseMethod, dropMethod, linesOf, SHIPPED } from "../src/method/index.ts";
import { exact, sayCut, sayRun } from "../src/units/index.ts";
import { design } from "./designs.ts";
import { component as thing, id } from "./things.ts";

const IN = 25.4;

/** A box of one design, in colourways that take a component each for its first role. */
function boxOf(made: Design, components: readonly Component[], boxes: readonly number[]): BoxDetail {
  const ids = boxes.map((_, i) => id(900 + i));
  const line = { id: id(800), designId: id(600), revision: 1, times: 1, size: null, option: null };
  const roles = made.key.map((e, i) => ({
    id: id(700 + i),
    name: e.name,
    kind: e.kind as "bead",
    follows: i === 0 && boxes.length > 1 ? ("first" as const) : ("none" as const),
  }));
  const pickOf = (role: number, n: number) => components[role === 0 ? n : boxes.length + role - 1]!.id;
  return {
    box: {
      id: id(500),
      version: 1,
      month: "2027-05",
      theme: "Reed",
      lines: [line],
      colourways: ids.map((first, i) => ({ id: first, name: `Reed ${i}` })),
      seconds: [],
      variants: ids.map((first, i) => ({ first, second: null, boxes: boxes[i]! })),
      roles,
      contents: [],
      bagging: "together",
      bindings: made.key.map((e, i) => ({ line: line.id, role: e.key, boxRole: id(700 + i) })),
      prices: [],
      whatIfs: [],
      overrules: [],
      picks: roles.flatMap((role, r): BoxDetail["box"]["picks"] =>
        role.follows === "first"
          ? ids.map((first, n) => ({ boxRole: role.id, first, second: null, component: pickOf(r, n) }))
          : [{ boxRole: role.id, first: null, second: null, component: pickOf(r, 0) }],
      ),
    },
    designs: [{ designId: id(600), revision: 1, newest: 1, design: made }],
    components: [...components],
    spares: [],
    ruler: "in",
  };
}

const wire = (n: number, more: Partial<Component> = {}) =>
  thing(n, { kind: "stringing", baseUnit: "mm", name: `wire ${n}`, ...more });
const cutting = (mm: number, more: object = {}): Design =>
  design({
    key: [{ key: "W", name: "wire", kind: "stringing", ...more }],
    parts: [{ id: "p", name: "p", cuts: [{ key: "W", count: 1, mm }] }],
  });
const canMake = (bill: Bill) => makeable(bill.variants, bill.totals);

describe("cuts, as long as a person measures them", () => {
  test("10 × 11 5/8 in from 32 ft 10 in leaves 23 ft 1 3/4 in, in the bill, the plan and the words", () => {
    // 295 mm is counted; on the ruler that is 11 5/8 in, 295.275 mm.
    const detail = boxOf(cutting(295), [wire(1)], [10]);
    const [need] = billOf(detail).variants[0]!.needs;
    expect(need!.pieces).toEqual([{ mm: 295.275, count: 1 }]);
    expect(sayCut(need!.pieces[0]!.mm, "in")).toBe("11 5/8 in");
    const spool = (32 * 12 + 10) * IN;
    const { steps, missing } = planCuts(
      [{ mm: spool, count: 1, place: id(61), lot: "" }],
      [{ mm: 295.275, count: 10 }],
    );
    expect(missing).toEqual([]);
    expect(steps[0]!.leftMm).toBe(exact(spool - need!.run));
    expect(sayRun(steps[0]!.leftMm, "in")).toBe("23 ft 1 3/4 in");
    // The places that it is of add up to it, with what the ruler puts on.
    const rows = originsOfNeed(detail, billOf(detail).variants[0]!, need!);
    expect(rows.map((r) => r.origin.how)).toEqual(["cut", "measured"]);
    expect(rows.reduce((sum, r) => sum + r.perBox, 0)).toBeCloseTo(295.275, 9);
  });
  test("20 × 3 3/8 in of chain are whole links, and what the run orders is what its cuts take", () => {
    // Links of 3.2 mm: 3 3/8 in is 85.725 mm, 27 links, 86.4 mm.
    const chain = { linkMm: 3.2 };
    const [need] = billOf(boxOf(cutting(3.375 * IN, chain), [wire(1, chain)], [20])).variants[0]!.needs;
    expect(need!.pieces).toEqual([{ mm: 86.4, count: 1 }]);
    expect(need!.run).toBe(20 * 86.4);
    expect(cutFrom([{ mm: need!.run, count: 1 }], [{ mm: 86.4, count: 20 }]).missing).toEqual([]);
    expect(sayCut(86.4, "in", 3.2)).toBe("27 links (~3 3/8 in)");
  });
  test("a bill of before keeps its cuts: without a ruler they are as they were counted", () => {
    const detail = { ...boxOf(cutting(295), [wire(1)], [10]), ruler: null };
    expect(billOf(detail).variants[0]!.needs[0]!.pieces).toEqual([{ mm: 295, count: 1 }]);
    expect(measuredCut(85.725, null, 3.2)).toBe(85.725);
  });
  test("never shorter than counted, never a mark longer; measured again it is the same", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 20_000, noNaN: true }),
        fc.constantFrom("in" as const, "mm" as const),
        fc.option(fc.constantFrom(1.2, 3.2, 6)),
        (mm, ruler, link) => {
          const cut = measuredCut(mm, ruler, link);
          const step = link ?? (ruler === "in" ? IN / 16 : 1);
          expect(cut).toBeGreaterThanOrEqual(mm - 1e-4);
          expect(cut).toBeLessThan(mm + step + 1e-3);
          expect(measuredCut(cut, ruler, link)).toBe(cut);
        },
      ),
    );
  });
});

describe("how many can be made", () => {
  const DESIGN = design({
    key: [
      { key: "C", name: "coral", kind: "bead", alongMm: 4 },
      { key: "E", name: "ear wire", kind: "finding" },
      { key: "W", name: "chain", kind: "stringing" },
    ],
    parts: [
      { id: "p", name: "p", steps: "7C", uses: [{ key: "E", count: 2 }], cuts: [{ key: "W", count: 1, mm: 100 }] },
    ],
  });
  const stocked = (coral: number, earWires: number, chain: number) =>
    billOf(
      boxOf(
        DESIGN,
        [
          thing(1, { name: "coral", onHand: coral }),
          thing(2, { name: "ear wire", kind: "finding", onHand: earWires }),
          wire(3, { name: "chain", onHand: chain }),
        ],
        [10],
      ),
    );
  test("what limits most is named, and what ties", () => {
    // 20 coral at 7 a box allow 2; none of the others allows any.
    const none = canMake(stocked(20, 0, 0));
    expect(none.boxes).toBe(0);
    expect(none.limitedBy.map((l) => [l.component.name, l.boxes])).toEqual([
      ["ear wire", 0],
      ["chain", 0],
    ]);
    expect(canMake(stocked(20, 20, 2000))).toMatchObject({
      boxes: 2,
      limitedBy: [{ component: { name: "coral" }, boxes: 2 }],
    });
    expect(canMake(stocked(70, 20, 2000))).toEqual({ boxes: 10, limitedBy: [] });
  });
  test("what is ordered counts by its day, not now; a sum of offcuts is no piece", () => {
    const bill = stocked(0, 0, 0);
    const own = { id: id(500), packBy: "2027-04-20", month: "2027-05" };
    const shares: Shares = {
      today: "2027-03-01",
      boxes: [{ ...own, theme: "Reed", state: "planned" }],
      claims: [],
      supplies: [
        { line: id(41), order: id(42), component: id(1), due: "2027-04-01", quantity: 70, pieceMm: null },
        { line: id(43), order: id(42), component: id(2), due: "2027-04-21", quantity: 20, pieceMm: null },
      ],
      pools: [
        { component: id(1), onHand: 20, aside: 0, pieces: [], asideCuts: [] },
        { component: id(2), onHand: 8, aside: 0, pieces: [], asideCuts: [] },
        // 1,100 mm in all, of which only 9 pieces are long enough for a cut of 4 in.
        {
          component: id(3),
          onHand: 1100,
          aside: 0,
          pieces: [
            { mm: 110, count: 9 },
            { mm: 55, count: 2 },
          ],
          asideCuts: [],
        },
      ],
    };
    const totals = (sharing: ReturnType<typeof sharingFor>) => totalsOf(bill.variants, sharing);
    const now = makeable(bill.variants, totals(sharingNow(shares, own)));
    expect(now).toMatchObject({ boxes: 2, limitedBy: [{ component: { name: "coral" }, boxes: 2 }] });
    const byDay = makeable(bill.variants, totals(sharingFor(shares, own)));
    expect(byDay).toMatchObject({ boxes: 4, limitedBy: [{ component: { name: "ear wire" }, boxes: 4 }] });
    const chain = totals(sharingNow(shares, own)).find((t) => t.component.id === id(3))!;
    expect(makeable(bill.variants, [chain])).toMatchObject({ boxes: 9 });
  });
});

describe("a late order", () => {
  test("is told beside what it would be bought a second time for, less what others have of it", () => {
    const boxes = [
      { id: id(11), theme: "a", month: "2027-05", packBy: "2027-04-20", state: "committed" as const },
      { id: id(12), theme: "b", month: "2027-06", packBy: "2027-05-20", state: "planned" as const },
    ];
    const claim = { component: id(1), from: null, cuts: [] };
    const shares: Shares = {
      today: "2027-03-01",
      boxes,
      claims: [
        { ...claim, box: id(11), quantity: 580 },
        { ...claim, box: id(12), quantity: 100, from: id(41) },
      ],
      supplies: [{ line: id(41), order: id(42), component: id(1), due: "2027-04-27", quantity: 800, pieceMm: null }],
      pools: [{ component: id(1), onHand: 0, aside: 0, pieces: [], asideCuts: [] }],
    };
    const [lack] = lacksOf(shares, () => false, new Set([id(11), id(12)]));
    expect(lack).toMatchObject({ need: 580, by: "2027-04-20" });
    expect(lack!.late).toEqual([{ order: id(42), line: id(41), due: "2027-04-27", quantity: 700 }]);
    // In time, it is there and nothing is lacking.
    const early = { ...shares, supplies: [{ ...shares.supplies[0]!, due: "2027-04-10" }] };
    expect(lacksOf(early, () => false, new Set([id(11), id(12)]))).toEqual([]);
    // And where no pack is long enough, nothing covers it.
    const reel = {
      id: id(71),
      supplier: null,
      pack: "reel",
      amount: 50,
      unit: "mm" as const,
      price: "1.00",
      steps: [],
      minimum: 1,
    };
    const of = wire(1, { offers: [reel] });
    const cuts = [{ mm: 60, count: 2 }];
    expect(packsFor(of, { need: 120, cuts }, "GBP")).toBeNull();
    const line = buyLine(of, { ...lack!, need: 120, cuts }, new Map(), {
      today: "2027-03-01",
      currency: "GBP",
      suppliers: new Map(),
    });
    expect(line.chosen).toEqual([]);
  });
});

describe("money", () => {
  test("a component of a run is rounded once, and variants bear their shares of it by largest remainder", () => {
    // Three variants of 1 box each take 1 at 0.0344: 0.1032 in all, which is 0.10; each by itself would be 0.03.
    const one = design({
      key: [{ key: "A", name: "a", kind: "bead", alongMm: 4 }],
      parts: [{ id: "p", name: "p", steps: "A" }],
    });
    const detail = boxOf(
      one,
      [1, 2, 3].map((n) => thing(n)),
      [1, 1, 1],
    );
    const same = {
      ...detail,
      box: { ...detail.box, picks: detail.box.picks.map((p) => ({ ...p, component: id(1) })) },
    };
    const priced = { ...same, components: [thing(1, { averageCost: "0.03440000" })] };
    const cost = costOf(billOf(priced));
    expect(cost.run).toBe("0.10");
    expect(cost.variants.map((v) => v.run)).toEqual(["0.04", "0.03", "0.03"]);
    // In a currency without a smaller coin, and in one with thousandths.
    expect(costOf(billOf(priced), 0).run).toBe("0");
    expect(costOf(billOf(priced), 3)).toMatchObject({ run: "0.103" });
  });
});

describe("tails and finished lengths", () => {
  const knot = SHIPPED.find((m) => m.id === "knot-surgeon")!;
  const band = (tailMm: number | null): Design =>
    design({
      key: [
        { key: "R", name: "8 mm round", kind: "bead", alongMm: 8 },
        { key: "S", name: "stretch cord", kind: "stringing" },
      ],
      parts: [{ id: "p", name: "Band", stringing: "S", steps: "21R", tailMm }],
    });
  const cut = (d: Design) => count(d).pieces.S![0]!.mm;
  test("a method's tail takes the place of its part's own, says so, and gives it back", () => {
    // 168 mm of rounds: with tails of 2 1/2 in an end 295 mm, 11 5/8 in; with the knot's 140 mm 448 mm, 17 5/8 in.
    const own = band(63.5);
    expect(cut(own)).toBe(295);
    const tied = chooseMethod(own, "p", knot, { at: "one end" });
    expect(cut(tied)).toBe(168 + 2 * 140);
    const [method] = linesOf(tied, tied.parts[0]!);
    expect(method).toMatchObject({ tailMm: 140, of: { method: { replacesTailMm: 63.5 } } });
    // A longer one is replaced as well: the method knows what its knot takes.
    expect(cut(chooseMethod(band(200), "p", knot, { at: "one end" }))).toBe(448);
    for (const tail of [63.5, 200, null]) {
      const back = dropMethod(chooseMethod(band(tail), "p", knot, { at: "one end" }), "p", {
        id: knot.id,
        at: "one end",
      });
      expect(cut(back)).toBe(cut(band(tail)));
    }
    // Chosen anew, it is still the person's own that it stands for.
    const again = chooseMethod(tied, "p", knot, { at: "one end" });
    expect(linesOf(again, again.parts[0]!)[0]!.of.method.replacesTailMm).toBe(63.5);
    // Written over by hand since, that stays.
    const edited = { ...tied, parts: tied.parts.map((p) => ({ ...p, tailMm: 160 })) };
    expect(cut(dropMethod(edited, "p", { id: knot.id, at: "one end" }))).toBe(168 + 320);
  });
  test("a finished length is the strand and what its ends put on, and says how much that is", () => {
    const clasped = design({
      key: [
        { key: "R", name: "8 mm round", kind: "bead", alongMm: 8 },
        { key: "CL", name: "clasp", kind: "finding", form: "clasp", alongMm: 12.7 },
        { key: "W", name: "wire", kind: "stringing" },
      ],
      parts: [{ id: "p", name: "Strand", stringing: "W", steps: "57R", uses: [{ key: "CL", count: 1 }] }],
    });
    const counting = countWhole(clasped);
    const [strung] = counting.parts;
    expect(strung!.whole.strandMm).toBe(456);
    expect(finishedMm(counting, strung!)).toBeCloseTo(468.7, 9);
    expect(endsMm(counting, strung!)).toBeCloseTo(12.7, 9);
  });
});

describe("on chain", () => {
  test("space to length is refused, and says what to write; skip to length takes links", () => {
    const on = (steps: string) =>
      design({
        key: [
          { key: "CH", name: "chain", kind: "stringing", linkMm: 3 },
          { key: "D", name: "drop", kind: "focal" },
        ],
        parts: [{ id: "p", name: "p", stringing: "CH", targetMm: 180, steps }],
      });
    const refused = count(on("skip 3 hang D space to length"));
    expect(refused.problems.map((p) => [p.level, p.message])).toContainEqual([
      "error",
      expect.stringContaining("skip to length"),
    ]);
    expect(count(on("skip 3 hang D skip to length")).problems).toEqual([]);
    // Bare wire has room to leave.
    const bare = design({
      key: [
        { key: "A", name: "a", kind: "bead", alongMm: 4 },
        { key: "W", name: "wire", kind: "stringing" },
      ],
      parts: [{ id: "p", name: "p", stringing: "W", targetMm: 180, steps: "3A space to length" }],
    });
    expect(count(bare).problems).toEqual([]);
  });
  test("what repeats up to a length wants brackets round it, and is told round what", () => {
    const told = (steps: string) =>
      count(
        design({
          key: ["C", "D"].map((key) => ({ key, name: key, kind: "bead" as const, alongMm: 4 })),
          parts: [{ id: "p", name: "p", steps, targetMm: 100 }],
        }),
      ).problems.filter((p) => p.level === "error");
    expect(told("D, C to length")).toMatchObject([
      { row: 1, from: 3, to: 4, message: expect.stringContaining("Put brackets round C") },
    ]);
    expect(told("3C to length")).toMatchObject([
      { from: 0, to: 2, message: expect.stringContaining("(3C) to length") },
    ]);
    expect(told("D, (C) to length")).toEqual([]);
  });
});

describe("days", () => {
  test("today is that of a time zone", () => {
    const moment = new Date("2027-03-01T23:30:00Z");
    expect(["Europe/London", "Asia/Tokyo", "America/Los_Angeles"].map((zone) => dayIn(moment, zone))).toEqual([
      "2027-03-01",
      "2027-03-02",
      "2027-03-01",
    ]);
    expect(dayIn(new Date("2027-03-01T05:30:00Z"), "America/Los_Angeles")).toBe("2027-02-28");
  });
  test("data moves by whole days, its months by months, and by nothing back again", () => {
    const data = {
      month: "2027-03",
      packBy: "2027-02-20",
      at: "2027-02-22T10:15:00Z",
      name: "2027-03 box",
      n: [1, null],
    };
    expect(movedTo(data, "2027-03-16", "2028-02-29")).toEqual({
      month: "2028-02",
      packBy: "2028-02-05",
      at: "2028-02-07T10:15:00Z",
      name: "2027-03 box",
      n: [1, null],
    });
    fc.assert(
      fc.property(fc.integer({ min: -4000, max: 4000 }), (days) => {
        const to = dayAfter("2027-03-16", days);
        const moved = movedTo(data, "2027-03-16", to);
        expect(daysBetween(data.packBy, moved.packBy)).toBe(days);
        expect(movedTo(moved, to, "2027-03-16")).toEqual(data);
        expect(moved.month).toBe(to.slice(0, 7));
      }),
    );
    expect([monthAfter("2027-12", 1), monthAfter("2027-01", -1), monthAfter("2027-01", -13)]).toEqual([
      "2028-01",
      "2026-12",
      "2025-12",
    ]);
  });
});
