import { describe, expect, test } from "vitest";
import { count } from "../src/count/index.ts";
import { counted, design, KEY, written } from "./designs.ts";

/** Counts, strand and path of one part of a written pattern, by the table of meanings in the notation's description. */
const cases: [string, Record<string, number>, number, number][] = [
  ["3A", { A: 3 }, 6, 6],
  ["A", { A: 1 }, 2, 2],
  ["12 s15", {}, 0, 0], // no such key: told of elsewhere
  ["3A 2B", { A: 3, B: 2 }, 12, 12],
  ["3A, 2B,", { A: 3, B: 2 }, 12, 12],
  ["3A >3A", { A: 3 }, 6, 12],
  ["A >A", { A: 1 }, 2, 4],
  ["2A B >(A B) x2", { A: 2, B: 1 }, 7, 17],
  ["(3A 2B) x4", { A: 12, B: 8 }, 48, 48],
  ["(3A 2B) x 4", { A: 12, B: 8 }, 48, 48],
  ["(3A 2B)×4", { A: 12, B: 8 }, 48, 48],
  ["(3A) x4 between (2s)", { A: 12, s: 6 }, 32.4, 32.4],
  ["(3A) x1 between (2s)", { A: 3 }, 6, 6],
  ["(A (B C))", { A: 1, B: 1, C: 1 }, 10, 10],
  ["((A B) x2 C) x3", { A: 6, B: 6, C: 3 }, 45, 45],
  ["(A 2B) mirror", { A: 2, B: 4 }, 16, 16],
  ["(A 2B) mirror around C", { A: 2, B: 4, C: 1 }, 21, 21],
  ["fringe(3A | C)", { A: 3, C: 1 }, 0, 17],
  ["fringe(3A | C) x2", { A: 6, C: 2 }, 0, 34],
  ["loop(7A)", { A: 7 }, 0, 14],
  ["loop(7A) x2", { A: 14 }, 0, 28],
  ["hang D", { D: 1, JR: 1 }, 0, 0],
  ["hang D x3", { D: 3, JR: 3 }, 0, 0],
  ["A space 6mm A", { A: 2 }, 10, 10],
  ["space 3B", {}, 9, 9],
  ["space 1/2in", {}, 12.7, 12.7],
  ["space 7-1/2in", {}, 190.5, 190.5],
  ['space 7 1/2"', {}, 190.5, 190.5],
  ["space 1,5cm", {}, 15, 15],
  ["space .5cm", {}, 5, 5],
  ["space 1ft", {}, 304.8, 304.8],
  ["A knot 4mm takes 40mm A", { A: 2 }, 8, 44],
  ["knot 1/4in", {}, 6.35, 6.35],
  ["knot 4 mm takes 4 cm", {}, 4, 40],
  ["(A knot 1mm takes 12mm) x3", { A: 3 }, 9, 42],
  ["A >(A knot 2mm takes 9mm)", { A: 1 }, 2, 13],
  ["(A B) to 23mm", { A: 4, B: 4 }, 20, 20],
  ["(A B) to 23 mm fill B", { A: 4, B: 5 }, 23, 23],
  ["C (A B) to 20mm", { A: 3, B: 3, C: 1 }, 20, 20],
  ["(C) to 20mm between (A)", { C: 3, A: 2 }, 19, 19],
  ["(A B) to 3mm", {}, 0, 0],
  ["Row 1: 3A\nback, again: 2B # not 9C\n\n  # only a note\nC", { A: 3, B: 2, C: 1 }, 17, 17],
  ["(A\nB) x2\nC", { A: 2, B: 2, C: 1 }, 15, 15],
  ["(A\r\nB) x2\r\nC", { A: 2, B: 2, C: 1 }, 15, 15],
  ["", {}, 0, 0],
];

describe("what each step means", () => {
  test.each(cases)("%s", (steps, counts, strandMm, pathMm) => {
    const answer = counted(steps);
    expect(answer.counts).toEqual(counts);
    expect(answer.parts[0]!.strandMm).toBeCloseTo(strandMm, 6);
    expect(answer.parts[0]!.pathMm).toBeCloseTo(pathMm, 6);
    if (steps !== "12 s15") expect(answer.problems).toEqual([]);
  });

  test("each: every strand on its own, or one branch a strand", () => {
    expect(counted("each(3A) B", { strands: 3 }).counts).toEqual({ A: 9, B: 1 });
    const branches = counted("each(3A | 2B) C", { strands: 2 });
    expect(branches.counts).toEqual({ A: 3, B: 2, C: 1 });
    expect(branches.parts[0]).toMatchObject({ strandMm: 11, pathMm: 11, passes: { A: 1, B: 1, C: 2 } });
    expect(branches.problems).toEqual([]);
  });

  test("keys may be in any script, and capitals count", () => {
    const key = [
      { key: "Ö", name: "o", kind: "bead", alongMm: 1 },
      { key: "бусина", name: "b", kind: "bead", alongMm: 2 },
      { key: "x4b", name: "x", kind: "bead", alongMm: 3 },
    ];
    const answer = counted("2Ö 3бусина x4b (Ö) x4", {}, { key });
    expect(answer.counts).toEqual({ Ö: 6, бусина: 3, x4b: 1 });
    expect(answer.problems).toEqual([]);
  });

  test("size: the branch of the current size, a fit in it too", () => {
    const sizes = [{ key: "S" }, { key: "L" }];
    const part = { targetMm: { S: 10, L: 20 } };
    const of = (size: string) => counted("size{S: A | L: (B) to length fill A}", part, { sizes }, { size });
    expect(of("S").counts).toEqual({ A: 1 });
    expect(of("L").counts).toEqual({ B: 6, A: 1 });
    expect(of("L").parts[0]).toMatchObject({ repeats: 6, leftoverMm: 0 });
    expect(of("S").parts[0]).toMatchObject({ repeats: null, leftoverMm: null });
  });

  test("a mirror's halves reach for half of what is left, so both sides come out equal", () => {
    const answer = counted("C ((B) to length fill A, C) mirror around C C", { targetMm: 60 });
    // 60 - C C C (15) - 2 C in the halves (10) = 35: each half 17.5 → 5 B = 15, then 1 A = 2 (0.5 short)
    expect(answer.counts).toEqual({ C: 5, B: 10, A: 2 });
    expect(answer.parts[0]).toMatchObject({ strandMm: 59, repeats: 5, leftoverMm: 1 });
  });

  test("chain: links, stretches between beads, and a link lost to each cut", () => {
    const answer = counted("skip 10, (A, skip 5) x3, hang D, 2A, skip 12mm", { stringing: "CH" });
    expect(answer.parts[0]).toMatchObject({ links: 10 + 15 + 1 + 3, strandMm: 29 * 4 + 5 * 2 });
    expect(answer.pieces).toEqual({
      CH: [
        { mm: 44, count: 1 },
        { mm: 28, count: 1 },
        { mm: 24, count: 2 },
        { mm: 16, count: 1 },
      ],
    });
    expect(answer.counts).toEqual({ A: 5, D: 1, JR: 1 });
  });

  test("sub-assemblies count what is in them to any depth, and hang by their own", () => {
    const answer = count(
      design({
        parts: [
          { id: "in", name: "In", as: "IN", steps: "2A", uses: [{ key: "JR", count: 1 }] },
          { id: "out", name: "Out", as: "OUT", alongMm: 10, steps: "IN B IN", hangsBy: [{ key: "JR", count: 2 }] },
          { id: "p", name: "P", makes: 2, steps: "3OUT hang OUT" },
        ],
      }),
    );
    // 4 OUT an item part, twice: 8 OUT = 16 IN; the two that hang bring 2 rings each
    expect(answer.counts).toEqual({ A: 32, B: 8, JR: 16 + 4 });
    expect(answer.parts.find((p) => p.id === "p")).toMatchObject({ strandMm: 30 });
  });

  test("cuts: path, take-up, reinforcing and tails; folded gives two strands", () => {
    expect(counted("10A", { stringing: "TH", tailMm: 50, takeUp: 0.1, reinforce: 1 }).lengthsMm).toEqual({
      TH: 20 * 1.1 * 2 + 100,
    });
    expect(counted("10A", { stringing: "TH", tailMm: 50, strands: 4 }).pieces).toEqual({ TH: [{ mm: 120, count: 4 }] });
    expect(counted("10A", { stringing: "TH", tailMm: 50, strands: 4, folded: true }).pieces).toEqual({
      TH: [{ mm: 140, count: 2 }],
    });
    const short = counted("10A", { stringing: "TH", tailMm: 50, cutMm: 100 });
    expect(short.lengthsMm).toEqual({ TH: 100 });
    expect(short.problems).toMatchObject([{ level: "warning", message: expect.stringContaining("120") }]);
  });

  test("a colourway's measures replace the role's own", () => {
    const answer = counted("(A B) to 23mm", {}, {}, { colourway: { A: { alongMm: 4 } } });
    expect(answer.counts).toEqual({ A: 3, B: 3 });
    expect(answer.parts[0]!.strandMm).toBe(21);
  });
});

describe("problems stand in their place and say the way out", () => {
  const wrong: [string, number, number, number, RegExp][] = [
    ["3A 2Z B", 1, 3, 5, /no Z in the bead key/],
    ["A\n2b", 2, 0, 2, /did you mean B/],
    ["(A B", 1, 0, 1, /never closed/],
    ["A) B", 1, 1, 2, /closes nothing/],
    ["A x4 B", 1, 2, 4, /in brackets/],
    ["(A) x", 1, 4, 5, /no x in the bead key/],
    ["A; B", 1, 1, 2, /not part of the shorthand/],
    ["3.5A", 1, 1, 3, /whole number/],
    ["fringe(A B)", 1, 9, 10, /fringe\(down \| turn\)/],
    ["(A) to B", 1, 6, 7, /180mm/],
    ["hang", 1, 3, 4, /hang L/],
    ["TH", 1, 0, 2, /it is cut, not picked up/],
    ["A skip 2", 1, 2, 8, /chain/],
    ["size{S: A}", 1, 0, 10, /no sizes/],
    ["(A) x1000000000", 1, 4, 15, /100,000/],
    ["each(each(A))", 1, 5, 12, /inside another/],
    ["((A) to 10mm)", 1, 1, 12, /top of a row/],
    ["(A) to 10mm (B) to 20mm", 1, 12, 23, /one “to”/],
    ["(JR) to 10mm", 1, 0, 12, /has a length/],
    ["(A) to length", 1, 0, 13, /target/],
    ["(A) to 200m", 1, 7, 11, /100 m/],
    ["(A) to 0mm", 1, 7, 10, /over 0/],
    ["A knot B", 1, 6, 7, /how long it is along the strand/],
    ["knot 4mm takes", 1, 13, 14, /how much thread the knot takes/],
    ["space 6 mm", 1, 6, 10, /without a space/],
    ["each(A | B | C)", 1, 0, 15, /3 branches/],
    ["(A) x6 mirror", 1, 7, 13, /all that it turns in brackets/],
    ["(A B) x3 to length fill C", 1, 9, 11, /finds its own number/],
    ["A spaced B", 1, 2, 8, /follows a bracket or a repeat/],
    ["A behind", 1, 2, 8, /start of a row/],
    ["8-7A", 1, 0, 3, /backwards/],
    [">A@", 1, 2, 3, /which bead/],
    ["join", 1, 3, 4, /what is linked in/],
    ["(A, join B) x2", 1, 4, 10, /top of a row/],
    ["join (A, hang D)", 1, 9, 15, /Only keys can be joined/],
    ["rest", 1, 3, 4, /takes up what is left/],
    ["(A) spaced", 1, 9, 10, /between every two beads/],
  ];
  test.each(wrong)("%s", (steps, row, from, to, message) => {
    const errors = counted(steps, { strands: steps.includes("C)") ? 2 : 1 }).problems.filter(
      (p) => p.level === "error",
    );
    expect(errors[0]).toMatchObject({ part: "p", row, from, to });
    // One slip is said once.
    expect(errors.filter((p) => p.message === errors[0]!.message)).toHaveLength(1);
    expect(errors[0]!.message).toMatch(message);
  });

  test("a target that nothing reaches for is told, and one that something reaches for is not", () => {
    const told = (steps: string) => counted(steps, { targetMm: 60 }).problems.map((p) => [p.level, p.row, p.message]);
    expect(told("3A B")).toEqual([["warning", null, expect.stringContaining("nothing in its rows reaches for it")]]);
    expect(told("(A) to length")).toEqual([]);
    expect(told("A, space to length")).toEqual([]);
  });
  test("what could be read is counted all the same", () => {
    expect(counted("3A 2Z B\nnext: 4C").counts).toEqual({ A: 3, B: 1, C: 4 });
    expect(counted("one: 3A (B\ntwo: 4C").counts).toEqual({ A: 3, B: 1, C: 4 });
    expect(counted("3A (B) to 9mm fill ()").counts).toEqual({ A: 3, B: 1 });
    expect(counted("3A } B").counts).toEqual({ A: 3, B: 1 });
  });

  test("sizes: each once, none missing, none unknown, and one is chosen", () => {
    const sizes = [{ key: "S" }, { key: "M" }];
    const messages = (steps: string, size: string | null) =>
      counted(steps, {}, { sizes }, { size })
        .problems.map((p) => p.message)
        .join(" ");
    expect(messages("size{S: A}", "S")).toContain("Size M is missing");
    expect(messages("size{S: A | S: B | M: C}", "S")).toContain("twice");
    expect(messages("size{S: A | M: B | XL: C}", "S")).toContain("no size XL");
    expect(messages("size{S: A | M: Q}", "S")).toContain("no Q");
    expect(messages("A", null)).toContain("Choose one of the sizes S, M");
    expect(messages("A", "XXL")).toContain("no size XXL");
  });
});

describe("limits are problems at once, never a crash or a wait", () => {
  test("ten thousand brackets", () => {
    const answer = counted("(".repeat(10_000));
    expect(answer.problems[0]!.message).toContain("64 deep");
    expect(counted(`${"(".repeat(64)}A${")".repeat(64)}`)).toMatchObject({ counts: { A: 1 }, problems: [] });
  });

  test("repeats of repeats beyond a billion", () => {
    const answer = counted("A (((B) x100000) x100000) x10");
    expect(answer.counts).toEqual({ A: 1 });
    expect(answer.problems[0]!.message).toContain("1,000,000,000");
    expect(counted("((A) x100000) x10000").counts).toEqual({ A: 1e9 });
    expect(counted("((A) x100000) x10000", { makes: 2 }).problems[0]!.message).toContain("1,000,000,000");
  });

  test("a circle of sub-assemblies, and a tower of them", () => {
    const circle = count(
      design({
        parts: [
          { id: "a", name: "a", as: "X1", steps: "A X2" },
          { id: "b", name: "b", as: "X2", steps: "B X1" },
          { id: "p", name: "p", steps: "X1" },
        ],
      }),
    );
    expect(circle.problems.some((p) => p.message.includes("in a circle: X1 → X2 → X1"))).toBe(true);
    const tower = Array.from({ length: 40 }, (_, i) => ({
      id: `t${i}`,
      name: `t${i}`,
      as: `T${i}`,
      steps: i === 39 ? "A" : `T${i + 1}`,
    }));
    expect(
      count(design({ parts: [...tower, { id: "p", name: "p", steps: "T0" }] })).problems.some((p) =>
        p.message.includes("32 levels"),
      ),
    ).toBe(true);
    const wide = Array.from({ length: 30 }, (_, i) => ({
      id: `w${i}`,
      name: `w${i}`,
      as: `W${i}`,
      steps: i === 29 ? "A" : `2W${i + 1}`,
    }));
    expect(count(design({ parts: [...wide, { id: "p", name: "p", steps: "W0" }] })).counts).toEqual({ A: 2 ** 29 });
  });

  test("a circle of mixes, and shares that don't add up", () => {
    const key = [
      ...KEY,
      { key: "M1", name: "m", kind: "mix", mix: [{ key: "M2", share: 1 }] },
      {
        key: "M2",
        name: "m",
        kind: "mix",
        mix: [
          { key: "M1", share: 0.5 },
          { key: "A", share: 0.5 },
        ],
      },
      {
        key: "M3",
        name: "m",
        kind: "mix",
        mix: [
          { key: "A", share: 1 },
          { key: "B", share: 1 },
        ],
      },
    ];
    const answer = counted("M1 M2 3M3", {}, { key });
    expect(answer.counts).toEqual({ A: 1 + 2, B: 1 });
    expect(answer.problems.filter((p) => p.level === "error").length).toBeGreaterThan(0);
    expect(answer.problems.some((p) => p.level === "warning" && p.message.includes("add up to 2"))).toBe(true);
  });

  test("a text of over 20,000 characters, and one of just that", () => {
    const key = [{ key: "A", name: "A", kind: "bead", alongMm: 1 }];
    expect(counted("A ".repeat(10_000), {}, { key }).counts).toEqual({ A: 10_000 });
    expect(() => counted("A ".repeat(10_001), {}, { key })).toThrow(/20,000/);
  });

  test("at most 2 m to fill, and a bead without a length can't", () => {
    expect(counted("(C) to 5m fill A", {}, {}).problems).toEqual([]);
    expect(counted("((C) x1000) to 4.9m fill A").problems[0]!.message).toContain("2 m");
    expect(counted("(C) to 52mm fill JR").problems[0]!.message).toContain("no length");
  });
});

describe("a pass before its bead", () => {
  const told = (steps: string, more: object = {}) =>
    count(written(steps, more)).problems.filter((p) => /before any/.test(p.message));
  test("is told at its place, and counted as it is written", () => {
    const [problem, ...rest] = told(">A A 2B");
    expect(problem).toMatchObject({ level: "warning", row: 1, from: 1, to: 2 });
    expect(problem!.message).toContain("before any A is strung");
    expect(rest).toEqual([]);
    expect(count(written(">A A 2B")).counts).toEqual({ A: 1, B: 2 });
    expect(told("B >(A B)\nA")).toHaveLength(1);
  });
  test("is no matter where the bead is strung already, in another part, or nowhere", () => {
    for (const steps of ["2A 2B >A", "(A B) x4 >(A B)", "each(A) >A", "3A\n>A", ">A"]) expect(told(steps)).toEqual([]);
  });
});
