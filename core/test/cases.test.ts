import { describe, expect, test } from "vitest";
import type { Answer } from "../src/contract/index.ts";
import { count, countKit } from "../src/count/index.ts";
import { counted, design, written } from "./designs.ts";

/**
 * Worked by hand, one for each construct, with the sum beside each. Beads are those of `KEY`: A 2, B 3, C 5, W 4 mm;
 * D 4 mm hangs by a jump ring; chain CH has links of 4 mm and loses one to each cut.
 */
const part = (answer: Answer, id = "p") => answer.parts.find((p) => p.id === id)!;
const thread = { stringing: "TH", tailMm: 10 };
const clean = (answer: Answer) => expect(answer.problems).toEqual([]);

describe("joined, not strung", () => {
  test("1: a join ends the cut: 3A | C | 2B gives two lengths, each with its own tails", () => {
    const answer = counted("3A, join C, 2B", thread);
    clean(answer);
    expect(answer.counts).toEqual({ A: 3, C: 1, B: 2 });
    // Strand 6 + 5 + 6 = 17; thread 6 and 6, with 2 × 10 each: twice 26.
    expect(part(answer)).toMatchObject({ strandMm: 17, pathMm: 12 });
    expect(answer.pieces).toEqual({ TH: [{ mm: 26, count: 2 }] });
  });
  test("2: between two joins with nothing strung there is no cut; a hang is nothing strung", () => {
    const answer = counted("join C, hang D, join (2C), 4A", thread);
    clean(answer);
    // Only behind the last join: 8 + 20 = 28. Strand 5 + 0 + 10 + 8 = 23.
    expect(answer.pieces).toEqual({ TH: [{ mm: 28, count: 1 }] });
    expect(part(answer)).toMatchObject({ strandMm: 23, hangMm: 4 });
    expect(answer.counts).toEqual({ C: 3, D: 1, JR: 1, A: 4 });
  });
  test("3: on chain a join divides like a bead", () => {
    const answer = counted("skip 6, join C, skip 4", { stringing: "CH" });
    clean(answer);
    // Pieces of 6 and 4 links, each with one lost: (6 + 1) × 4 = 28 and (4 + 1) × 4 = 20; strand 24 + 5 + 16.
    expect(answer.pieces).toEqual({
      CH: [
        { mm: 28, count: 1 },
        { mm: 20, count: 1 },
      ],
    });
    expect(part(answer)).toMatchObject({ strandMm: 45, links: 10 });
  });
});

describe("what takes up the rest", () => {
  const side = { id: "s", name: "Side", as: "SD", stringing: "TH", tailMm: 10, steps: "(B) to length fill A" };
  test("4: one member on one side only gets all of what is left", () => {
    const answer = count(design({ parts: [side, { id: "p", name: "P", targetMm: 60, steps: "join 2C, rest SD" }] }));
    clean(answer);
    // 60 − 10 = 50: 16 B = 48, then 1 A = 2: just 50.
    expect(part(answer, "s")).toMatchObject({ strandMm: 50, repeats: 16, leftoverMm: 0 });
    expect(part(answer)).toMatchObject({ strandMm: 60, leftoverMm: 0, pathMm: 0 });
    expect(answer.counts).toEqual({ C: 2, B: 16, A: 1 });
    expect(answer.pieces).toEqual({ TH: [{ mm: 70, count: 1 }] });
  });
  test("5: by size, the same member comes out shorter and longer", () => {
    const d = design({
      sizes: [{ key: "S" }, { key: "L" }],
      parts: [side, { id: "p", name: "P", targetMm: { S: 41, L: 53 }, steps: "rest SD, C, rest SD" }],
    });
    // S: (41 − 5) ÷ 2 = 18 = 6 B. L: (53 − 5) ÷ 2 = 24 = 8 B.
    expect(count(d, { size: "S" }).counts).toEqual({ C: 1, B: 12 });
    expect(count(d, { size: "L" }).counts).toEqual({ C: 1, B: 16 });
    // The kit has the longer lengths: 24 + 20 twice.
    expect(countKit(d, null, null, null).pieces).toEqual({ TH: [{ mm: 44, count: 2 }] });
  });
  test("6: bare room as the rest, and nothing where the rest is too long already", () => {
    const cord = { id: "s", name: "Cord", as: "SD", stringing: "TH", steps: "A, space to length" };
    const of = (targetMm: number) =>
      count(design({ parts: [cord, { id: "p", name: "P", targetMm, steps: "join 4C, rest SD" }] }));
    // 50 − 20 = 30: 2 of bead and 28 of bare cord.
    expect(part(of(50), "s")).toMatchObject({ strandMm: 30, pathMm: 30, leftoverMm: 0, repeats: null });
    expect(of(15).problems.map((p) => [p.level, p.part])).toContainEqual(["warning", "p"]);
    expect(part(of(15)).strandMm).toBe(22);
  });
  test("7: what it can't be is said once, in its place", () => {
    const wrong = (steps: string, extra: object[] = [side], more: object = {}) =>
      count(design({ parts: [...extra, { id: "p", name: "P", targetMm: 60, steps, ...more }] }))
        .problems.filter((p) => p.level === "error")
        .map((p) => p.message);
    expect(wrong("rest A", [])).toEqual([expect.stringContaining("must be a sub-assembly")]);
    expect(wrong("rest SD SD")).toEqual([expect.stringContaining("can't stand in P too")]);
    expect(wrong("rest SD (A) to length")).toEqual([expect.stringContaining("one length only")]);
    expect(wrong("rest SD", [{ ...side, targetMm: 30 }])).toEqual([expect.stringContaining("target of its own")]);
    expect(wrong("rest SD", [{ ...side, steps: "3B" }])).toEqual([expect.stringContaining("reaches for a length")]);
    expect(wrong("skip 2 rest SD", [side], { stringing: "CH" })).toEqual([expect.stringContaining("on chain")]);
    expect(wrong("rest SD", [side], { targetMm: null })).toEqual([expect.stringContaining("target length")]);
    expect(wrong("(rest SD) x2")).toEqual([expect.stringContaining("top of a row")]);
  });
});

test("8: side by side from one place: each with what it hangs by, on chain one link for all", () => {
  const answer = counted("skip 3, hang (D | 2B), skip 3", { stringing: "CH" });
  clean(answer);
  expect(answer.counts).toEqual({ D: 1, JR: 1, B: 2 });
  // 3 + 1 + 3 links in one piece, and one lost: 8 × 4.
  expect(part(answer)).toMatchObject({ links: 7, strandMm: 28, hangMm: 4, passes: {} });
  expect(answer.pieces).toEqual({ CH: [{ mm: 32, count: 1 }] });
});

describe("spaced", () => {
  test("9: of nothing and of one bead nothing comes between", () => {
    expect(counted("(C) spaced A").counts).toEqual({ C: 1 });
    expect(counted("(hang D) x3 spaced A").counts).toEqual({ D: 3, JR: 3 });
    expect(counted("(3C) spaced A").counts).toEqual({ C: 3, A: 2 });
  });
  test("10: within one another: five beads with their spacers are seven, so six more", () => {
    const answer = counted("(((C) x3 spaced A), 2B) spaced s");
    clean(answer);
    // C A C A C, B, B are 7 beads: 6 s. Strand 15 + 4 + 6 + 6 × 1.4 = 33.4.
    expect(answer.counts).toEqual({ C: 3, A: 2, B: 2, s: 6 });
    expect(part(answer)).toMatchObject({ strandMm: 33.4, pathMm: 33.4 });
  });
  test("11: on chain the spacer's own links go between its beads and the next", () => {
    const answer = counted("(A, skip 5) x3 spaced (B skip 1)", { stringing: "CH" });
    clean(answer);
    // A 5 B 1 A 5 B 1 A 5: pieces of 5, 1, 5, 1, 5 links, each and one more: 24 × 3, 8 × 2.
    expect(answer.counts).toEqual({ A: 3, B: 2 });
    expect(answer.pieces).toEqual({
      CH: [
        { mm: 24, count: 3 },
        { mm: 8, count: 2 },
      ],
    });
  });
});

test("12: seven or eight: the most is counted, the least told, also of what is shared out", () => {
  const key = [
    { key: "A", name: "A", kind: "bead", alongMm: 2 },
    { key: "B", name: "B", kind: "bead", alongMm: 3 },
    {
      key: "M",
      name: "mix",
      kind: "mix",
      mix: [
        { key: "A", share: 0.5 },
        { key: "B", share: 0.5 },
      ],
    },
  ];
  const answer = counted("7-8A, (B) x1-3, 4-6M", {}, { key });
  clean(answer);
  // Most: A 8 + 3, B 3 + 3. Least: A 7 + 2, B 1 + 2. Strand by the most: 16 + 9 + 6 × 2.5.
  expect(answer.counts).toEqual({ A: 11, B: 6 });
  expect(answer.countsLeast).toEqual({ A: 9, B: 3 });
  expect(part(answer).strandMm).toBe(40);
});

describe("which bead, which hole", () => {
  test("13: without a number passes are spread, with one they fall on that bead", () => {
    // 4 picks and 4 passes over 4 beads: 2. All 4 through the second: its own and 4.
    expect(part(counted("4A >4A")).passes).toEqual({ A: 2 });
    expect(part(counted("4A >A@2 >A@2 >A@2 >A@2")).passes).toEqual({ A: 5 });
    // The last of a mirror's four is its first again: own and 2.
    expect(part(counted("(A B) mirror >A@last >A@last")).passes).toEqual({ A: 3, B: 1 });
    expect(counted("2A >A@3").problems[0]).toMatchObject({ level: "error", message: /fewer than 3 A/ });
  });
  test("14: another hole of the same bead: each hole by itself", () => {
    // First holes: 4 picks over 4 beads. Second holes: 8 passes over 4 beads.
    expect(part(counted("4W, >(W.2) x8")).passes).toEqual({ W: 2 });
    expect(part(counted("4W, >W.2 >W.2")).passes).toEqual({ W: 1 });
    expect(counted("4W, >W.3").problems).toMatchObject([{ level: "warning", message: /2 holes/ }]);
  });
});

describe("stringing", () => {
  test("15: what runs along: as the path asks, or as long as is said", () => {
    const key = [
      { key: "A", name: "A", kind: "bead", alongMm: 2 },
      { key: "TH", name: "thread", kind: "stringing" },
      { key: "RB", name: "ribbon", kind: "stringing" },
      { key: "MW", name: "memory wire", kind: "stringing", coilMm: 180 },
    ];
    const also = [
      { key: "RB", tailMm: 5, takeUp: 0.5 },
      { key: "MW", coils: 1.5 },
    ];
    const answer = counted("10A", { stringing: "TH", tailMm: 10, strands: 2, also }, { key });
    clean(answer);
    // Thread 20 + 20; ribbon 20 × 1.5 + 10; wire 270; two strands of each. Holes: 3 threads times 2 strands.
    expect(answer.pieces).toEqual({
      TH: [{ mm: 40, count: 2 }],
      RB: [{ mm: 40, count: 2 }],
      MW: [{ mm: 270, count: 2 }],
    });
    expect(part(answer).passes).toEqual({ A: 6 });
  });
  test("16: a fixed cut of chain is one piece, divided: enough, and too short by both numbers", () => {
    const of = (cutMm: number) => counted("skip 6, A, skip 4", { stringing: "CH", cutMm });
    // 6 + 4 links and one lost at the bead: 11 links, 44 mm. 43 mm is 10.75: 11 links up.
    expect(of(43)).toMatchObject({ pieces: { CH: [{ mm: 44, count: 1 }] }, problems: [] });
    const short = of(40);
    expect(short.pieces).toEqual({ CH: [{ mm: 40, count: 1 }] });
    expect(short.problems).toMatchObject([{ level: "error", message: /has 10 links, but the rows need 11/ }]);
  });
  test("17: millimetres of chain are whole links, up, and the link lost to the cut", () => {
    const answer = counted("", { cuts: [{ key: "CH", mm: 30, count: 2 }] });
    clean(answer);
    // 30 ÷ 4 = 7.5: 8 links and one: 36.
    expect(answer.pieces).toEqual({ CH: [{ mm: 36, count: 2 }] });
    expect(answer.lengthsMm).toEqual({ CH: 72 });
  });
  test("18: for each bead that the rows take, by size, and from what another cut leaves", () => {
    const d = written(
      "3A, hang D, join 2D",
      {
        uses: [{ key: "JR", count: { S: 1, L: 2 }, forEach: "A" }],
        cuts: [
          { key: "TH", mm: { S: 50, L: 60 }, count: 1, forEach: "D" },
          { key: "TH", mm: 15, count: 4, from: "offcut" },
        ],
      },
      { sizes: [{ key: "S" }, { key: "L" }] },
    );
    // Rings: 1 for the drop that hangs, and 3 × 1 or 3 × 2. Cuts: one for each of 3 drops.
    const [small, large] = [count(d, { size: "S" }), count(d, { size: "L" })];
    expect(small.counts.JR).toBe(4);
    expect(large.counts.JR).toBe(7);
    expect(small.pieces).toEqual({ TH: [{ mm: 50, count: 3 }] });
    expect(large.pieces).toEqual({ TH: [{ mm: 60, count: 3 }] });
    expect(large.offcuts).toEqual({ TH: [{ mm: 15, count: 4 }] });
    expect(countKit(d, null, null, null).lengthsMm).toEqual({ TH: 180 });
  });
  test("19: a braid's target is its finished length: the strand is longer by its ratio", () => {
    const answer = counted("(B) to length", { ...thread, targetMm: 60, finishedRatio: 0.5, strands: 3 });
    // 60 ÷ 0.5 = 120 of strand: 40 B on each of 3 strands would be `each`; here one bead sits on all three.
    expect(part(answer)).toMatchObject({ strandMm: 120, repeats: 40, leftoverMm: 0 });
    expect(part(counted("(B) to 60mm", { finishedRatio: 0.5 })).repeats).toBe(20);
  });
  test("20: a knot takes more thread than it is long, and may stand between joins", () => {
    const answer = counted("join C, knot 4mm takes 40mm, join C", thread);
    clean(answer);
    // 40 + 20; strand 5 + 4 + 5.
    expect(answer.pieces).toEqual({ TH: [{ mm: 60, count: 1 }] });
    expect(part(answer)).toMatchObject({ strandMm: 14, pathMm: 40 });
  });
});

describe("mixes", () => {
  const key = (mix: object[]) => [
    { key: "A", name: "A", kind: "bead", alongMm: 2 },
    { key: "B", name: "B", kind: "bead", alongMm: 3 },
    { key: "M", name: "mix", kind: "mix", mix },
  ];
  test("21: exact members first, the rest by shares; a sub-assembly brings what is in it", () => {
    const bundle = { id: "b", name: "Bundle", as: "BN", steps: "3A", uses: [{ key: "B", count: 1 }] };
    const mix = [
      { key: "BN", count: 2 },
      { key: "A", share: 1 },
      { key: "B", share: 1 },
    ];
    const answer = count(design({ key: key(mix), parts: [bundle, { id: "p", name: "P", makes: 2, steps: "4M" }] }));
    // 8 in all: 2 bundles, then 3 A and 3 B. Bundles: 6 A and 2 B.
    expect(answer.counts).toEqual({ A: 9, B: 5 });
  });
  test("22: more exact members than there are is an error with both numbers", () => {
    const answer = counted("3M", {}, { key: key([{ key: "A", count: 4 }]) });
    expect(answer.problems).toMatchObject([
      { level: "error", message: /taken 3 times, but its members are exactly 4/ },
    ]);
    expect(
      part(
        counted(
          "2M",
          {},
          {
            key: key([
              { key: "A", count: 1 },
              { key: "B", count: 1 },
            ]),
          },
        ),
      ).strandMm,
    ).toBe(5);
  });
  test("23: a mix that holds itself through its members ends as a problem", () => {
    const d = design({
      key: key([
        { key: "A", share: 0.5 },
        { key: "BN", share: 0.5 },
      ]),
      parts: [
        { id: "b", name: "Bundle", as: "BN", alongMm: 3, steps: "2M" },
        { id: "p", name: "P", steps: "4M" },
      ],
    });
    expect(count(d).problems.some((p) => p.level === "error" && p.message.includes("holds itself"))).toBe(true);
  });
});

describe("version 1", () => {
  const old = {
    format: "jar-count/design",
    version: 1,
    name: "Old",
    key: [
      { key: "rest", name: "a bead called rest", kind: "bead", alongMm: 2 },
      {
        key: "join",
        id: "j",
        name: "a bead called join",
        kind: "bead",
        alongMm: 3,
        hangsBy: [{ key: "rest", count: 1 }],
      },
    ],
    parts: [
      {
        id: "p",
        name: "P",
        steps: "Stop!: 2rest (join rest) x3 # join here",
        uses: [{ key: "join", count: 1 }],
      },
    ],
  };
  test("a key that has become a word since is renamed everywhere, and known by its old name outside", () => {
    const read = design(old as never);
    expect(read.version).toBe(1); // kept until it is saved
    expect(read.key.map((e) => [e.key, e.id])).toEqual([
      ["rest1", "rest"],
      ["join1", "j"],
    ]);
    expect(read.parts[0]!.steps).toBe("Stop.: 2rest1 (join1 rest1) x3 # join here");
    expect(count(read).counts).toEqual({ rest1: 5, join1: 4 });
    expect(count(read).problems).toEqual([]);
  });
});
