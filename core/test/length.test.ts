/** Lengths of finished pieces, and ways to bring a part to one. */
import * as fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Design, Design as Contract } from "../src/contract/index.ts";
import { countWhole } from "../src/count/index.ts";
import {
  countedWays,
  edited,
  equalStrands,
  finishedMm,
  insideMm,
  knobsOf,
  lengthsIn,
  rowSpread,
  seriesOf,
  strandFor,
  strandOf,
  waysToLength,
} from "../src/length/index.ts";
import { chooseMethod, SHIPPED } from "../src/method/index.ts";
import { gaugeMm } from "../src/units/index.ts";
import { DEMO, EXAMPLES } from "./kept.ts";
import { written } from "./designs.ts";

const INCH = 25.4;
const strandMm = (d: Design, part: string, steps: string, size: string | null) =>
  countWhole({ ...d, parts: d.parts.map((p) => (p.id === part ? { ...p, steps } : p)) }, { size }).answer.parts.find(
    (p) => p.id === part,
  )!.strandMm;

describe("a row of beads", () => {
  it("is uncertain by s√n at random and by n times the error of the mean (JCGM 100:2008, 5.1.2)", () => {
    expect(rowSpread([{ n: 100, s: 0.05, meanU: 0 }])).toBeCloseTo(0.5, 12);
    expect(rowSpread([{ n: 100, s: 0, meanU: 0.01 }])).toBeCloseTo(1, 12);
    expect(rowSpread([{ n: 100, s: 0.05, meanU: 0.01 }])).toBeCloseTo(Math.hypot(0.5, 1), 12);
    // Kinds are independent: their variances add up.
    const two = [
      { n: 16, s: 0.1, meanU: 0 },
      { n: 9, s: 0.1, meanU: 0 },
    ];
    expect(rowSpread(two)).toBeCloseTo(0.5, 12);
  });

  it("goes by a measured spread, and by a trade default, marked, where there is none", () => {
    const with_ = (spreadMm: number | null) => {
      const d = written("100A", {}, { key: [{ key: "A", name: "round", kind: "bead", alongMm: 2, spreadMm }] });
      const counting = countWhole(d);
      return strandOf(counting, counting.parts[0]!);
    };
    expect(with_(0.05)).toMatchObject({ mm: 200, isDefault: false });
    expect(with_(0.05).u).toBeCloseTo(Math.hypot(0.5, 1), 9);
    expect(with_(null).isDefault).toBe(true);
  });
});

describe("round a wrist (geometry)", () => {
  it("thickness counts: what touches the wrist is shorter than the strand by π × thickness", () => {
    // A ring of beads 8 mm thick whose holes lie on a circle of 60 mm across is 52 mm wide inside.
    expect(insideMm(Math.PI * 60, 8)).toBeCloseTo(Math.PI * 52, 9);
    expect(strandFor(178, 13, 8)).toBeCloseTo(178 + 13 + 25.132741, 5);
    fc.assert(
      fc.property(
        fc.double({ min: 100, max: 300, noNaN: true }),
        fc.double({ min: 1, max: 20, noNaN: true }),
        (wrist, t) => {
          expect(insideMm(strandFor(wrist, 0, t), t)).toBeCloseTo(wrist, 9);
        },
      ),
    );
  });
  it("wire is as thick as its gauge says (ASTM B258): a loop on a 2.3 mm mandrel takes π (d + w)", () => {
    for (const [gauge, mm] of [
      [20, 0.812],
      [22, 0.644],
      [24, 0.511],
      [26, 0.405],
    ] as const)
      expect(gaugeMm(gauge)).toBeCloseTo(mm, 3);
    expect(Math.PI * (2.3 + gaugeMm(20))).toBeLessThan(10); // 10 mm above the bead: common practice
  });
});

/** Cords that are glued into ends, and what closes them. */
function cords(strands: number, visibleMm: number, endMm: number, claspMm: number, hiddenMm: number) {
  const d = Contract.parse({
    format: "jar-count/design",
    version: 2,
    name: "Cords",
    key: [
      { key: "C", name: "cord", kind: "stringing", form: "cord", diameterMm: 1 },
      { key: "E", name: "cord end", kind: "finding", form: "end cap", alongMm: endMm },
      { key: "CL", name: "clasp", kind: "finding", form: "clasp", alongMm: claspMm },
    ],
    parts: [
      {
        id: "p",
        name: "Cords",
        stringing: "C",
        strands,
        steps: `space ${visibleMm}mm`,
        uses: [{ key: "CL", count: 1 }],
      },
    ],
  });
  const glued = SHIPPED.find((m) => m.id === "glued-cord-end")!;
  return chooseMethod(d, "p", glued, { at: "both ends", numbers: { hiddenMm } });
}

describe("everything in series to the finished piece (common practice)", () => {
  it("six 6 in cords and a deep clasp make 7 1/2 in", () => {
    const counting = countWhole(cords(6, 6 * INCH - 12, 8, 1.5 * INCH + 12 - 16, 6));
    expect(counting.answer.pieces).toEqual({ C: [{ mm: 152.4, count: 6 }] });
    expect(finishedMm(counting, counting.parts[0]!)).toBeCloseTo(7.5 * INCH, 6);
  });
  it("five 15 1/2 in cords with ends and a clasp make 16 in", () => {
    const counting = countWhole(cords(5, 15.5 * INCH - 12, 7, 0.5 * INCH + 12 - 14, 6));
    expect(counting.answer.pieces).toEqual({ C: [{ mm: 393.7, count: 5 }] });
    expect(finishedMm(counting, counting.parts[0]!)).toBeCloseTo(16 * INCH, 6);
    expect(seriesOf(counting, counting.parts[0]!).map((m) => m.say)).toEqual([
      "Cords",
      "Glued cord end, both ends",
      "clasp",
    ]);
  });
  it("a stretch bracelet of 7 1/2 in takes 18 to 20 in of cord", () => {
    const d = written(
      "space 190.5mm",
      { stringing: "SC" },
      { key: [{ key: "SC", name: "stretch cord", kind: "stringing" }] },
    );
    const knotted = chooseMethod(
      d,
      "p",
      SHIPPED.find((m) => m.id === "knot-surgeon")!,
      { at: "one end" },
    );
    const mm = countWhole(knotted).answer.lengthsMm.SC!;
    expect(mm / INCH).toBeGreaterThanOrEqual(18);
    expect(mm / INCH).toBeLessThanOrEqual(20);
  });
  it("the chain is the remainder of a necklace: its members add up to the target", () => {
    const { design } = EXAMPLES.find((e) => e.name === "Sluice Gate Necklace")!;
    const counting = countWhole(design);
    const whole = counting.parts.find((p) => p.part.id === "whole")!;
    const members = seriesOf(counting, whole);
    expect(members.filter((m) => m.isRest)).toHaveLength(2);
    expect(finishedMm(counting, whole)).toBeCloseTo(whole.whole.strandMm, 6);
  });
});

describe("ways to a length", () => {
  it("repeats, beads, closing beads on both sides: each counts to what it says", () => {
    const d = written("(3A 2B) x8, C", { stringing: "TH", tailMm: 50 });
    const ways = waysToLength(d, { part: "p", targetMm: 7.5 * INCH });
    expect(ways.length).toBeGreaterThan(4);
    for (const way of ways) {
      expect(strandMm(d, "p", way.steps, null)).toBe(way.strandMm);
      expect(way.offMm).toBeCloseTo(way.strandMm - 190.5, 6);
    }
    const offs = ways.map((w) => Math.abs(w.offMm));
    expect(offs).toEqual([...offs].sort((a, b) => a - b));
    const counts = (steps: string) => countWhole(written(steps)).answer.counts;
    for (const way of ways) {
      const [was, now] = [counts("(3A 2B) x8, C"), counts(way.steps)];
      for (const key of new Set([...Object.keys(was), ...Object.keys(now)]))
        expect(way.adds[key] ?? 0, `${way.say}: ${key}`).toBe((now[key] ?? 0) - (was[key] ?? 0));
    }
  });
  it("finds the one way of one repeat more, and says it", () => {
    const [best] = waysToLength(written("(A B) x4"), { part: "p", targetMm: 25 });
    expect(best).toEqual({
      say: "Repeat 5 times instead of 4",
      steps: "(A B) x5",
      strandMm: 25,
      offMm: 0,
      adds: { A: 1, B: 1 },
    });
  });
  it("keeps both sides equal: closing beads of a mirror stand inside it, inside the crimps", () => {
    const d = written(
      "(X, space 2mm, 4C, 3B) mirror around C",
      {},
      {
        key: [
          { key: "X", name: "crimp", kind: "finding", alongMm: 2 },
          { key: "B", name: "B", kind: "bead", alongMm: 10 },
          { key: "C", name: "C", kind: "bead", alongMm: 20 },
          { key: "s", name: "seed", kind: "bead", alongMm: 1.5 },
        ],
      },
    );
    const ways = waysToLength(d, { part: "p", targetMm: 254 });
    const closed = ways.find((w) => w.adds.s === 4);
    expect(closed?.steps).toBe("(X, space 2mm, 2s 4C, 3B) mirror around C");
  });
  it("takes a ring or a link fewer", () => {
    const chain = waysToLength(written("skip 12, hang D, skip 12", { stringing: "CH" }), { part: "p", targetMm: 96 });
    expect(chain[0]).toMatchObject({ offMm: 0, strandMm: 96 });
    const joined = written("join (3JR)", {}, { key: [{ key: "JR", name: "jump ring", kind: "finding", alongMm: 5 }] });
    expect(waysToLength(joined, { part: "p", targetMm: 10 })[0]).toMatchObject({
      steps: "join (2JR)",
      adds: { JR: -1 },
    });
  });
  it("gives a row that reaches for a length the new one, for this size alone, and other beads to close with", () => {
    const d = written(
      "(A B) to length fill A",
      { targetMm: { S: 100, L: 120 } },
      { sizes: [{ key: "S" }, { key: "L" }] },
    );
    const [best] = waysToLength(d, { part: "p", size: "S", targetMm: 112 });
    expect(best!.offMm).toBe(0);
    expect(strandMm(d, "p", best!.steps, "S")).toBe(112);
    expect(strandMm(d, "p", best!.steps, "L")).toBe(120);
  });
  it("finds as close a way as trying everything does, on every small case", () => {
    const beads = fc.constantFrom("A", "B", "C", "s");
    const pick = fc.tuple(fc.integer({ min: 1, max: 4 }), beads).map(([n, k]) => `${n}${k}`);
    const text = fc
      .tuple(
        fc.array(pick, { minLength: 1, maxLength: 2 }),
        fc.integer({ min: 2, max: 3 }),
        fc.array(pick, { maxLength: 1 }),
      )
      .map(([inside, n, after]) => `(${inside.join(" ")}) x${n} ${after.join(" ")}`.trim());
    fc.assert(
      fc.property(text, fc.integer({ min: 60, max: 2400 }), (steps, tenths) => {
        const d = written(steps);
        const targetMm = tenths / 10;
        const [best] = waysToLength(d, { part: "p", targetMm });
        expect(Math.abs(best!.offMm)).toBeLessThanOrEqual(leastOff(d, targetMm) + 1e-6);
      }),
      { numRuns: 6 },
    );
  });
  it("works on every worked and every demo design, whatever its parts are", () => {
    for (const { design } of [...EXAMPLES, ...DEMO])
      for (const part of design.parts) {
        const size = design.sizes?.[0]?.key ?? null;
        const now = countWhole(design, { size }).answer.parts.find((p) => p.id === part.id)?.strandMm ?? 0;
        for (const way of waysToLength(design, { part: part.id, size, targetMm: now + 12.7 }))
          expect(strandMm(design, part.id, way.steps, size), `${design.name}: ${way.say}`).toBe(way.strandMm);
      }
  });
});

/** The closest of everything that one knob or two can do, each text counted from scratch. */
function leastOff(d: Design, targetMm: number): number {
  const counting = countWhole(d);
  const strung = counting.parts[0]!;
  const of = lengthsIn(counting, strung);
  const { knobs } = knobsOf(counting, strung, of);
  let least = Infinity;
  const look = (text: string) => {
    least = Math.min(least, Math.abs(strandMm(d, "p", text, null) - targetMm));
  };
  for (let i = 0; i < knobs.length; i++)
    for (let n = knobs[i]!.least; n <= knobs[i]!.most; n++) {
      look(edited(of.text, knobs[i]!.edits(n)));
      for (let j = i + 1; j < knobs.length; j++)
        for (let m = knobs[j]!.least; m <= knobs[j]!.most; m++)
          look(edited(of.text, [...knobs[i]!.edits(n), ...knobs[j]!.edits(m)]));
    }
  return least;
}

describe("strands made equal", () => {
  it("16 and 14 seeds: two more, two fewer, or both met half way", () => {
    const d = written("each(16s | 14s)", { strands: 2 });
    const { lengths, ways } = equalStrands(d, "p", {})!;
    expect(lengths.map((mm) => Number(mm.toFixed(6)))).toEqual([22.4, 19.6]);
    expect(ways.map((w) => [w.steps, w.adds, w.offMm])).toEqual([
      ["each(15s | 15s)", {}, 0],
      ["each(16s | 16s)", { s: 2 }, 0],
      ["each(14s | 14s)", { s: -2 }, 0],
    ]);
  });
  it("says nothing of strands that are equal", () => {
    expect(equalStrands(written("each(15s | 15s)", { strands: 2 }), "p", {})).toBeNull();
    expect(equalStrands(written("each(15s)", { strands: 2 }), "p", {})).toBeNull();
  });
});

it("edits of a text don't disturb one another", () => {
  expect(
    edited("3A 2B", [
      { from: 3, to: 5, text: "9B" },
      { from: 0, to: 2, text: "12A" },
    ]),
  ).toBe("12A 9B");
  expect(countedWays(written("A"), { part: "p", targetMm: 2 }, countWhole(written("A")), [])).toEqual([]);
});
