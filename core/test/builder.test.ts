import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  type BeadAt,
  bySizeStretch,
  copyRow,
  describeStretch,
  type Edited,
  fringeStretch,
  insertBeside,
  keyUse,
  lettersApart,
  loopStretch,
  mendsOf,
  mirrorStretch,
  moveStretch,
  passStretch,
  removeStretch,
  renameKey,
  repeatStretch,
  setCount,
  spacedStretch,
} from "../src/builder/index.ts";
import type { KeyEntry } from "../src/contract/index.ts";
import { count, countWhole } from "../src/count/index.ts";
import { appearancesOf, layOut } from "../src/picture/index.ts";
import { CONSTRUCTS, constructOf, findConstructs, keysIn, parsePattern, RESERVED } from "../src/shorthand/index.ts";
import { design, written } from "./designs.ts";
import { pattern } from "./patterns.ts";

/** The written bead that starts at a piece of the text. */
const bead = (text: string, said: string, nth = 0): BeadAt => ({ at: text.indexOf(said), nth });
const after = (edited: Edited) => ("fault" in edited ? edited.fault : edited.text);

describe("edits are small and read as a person would write them", () => {
  const text = "Row 1: 3A 2B, 12s  # the edge\nRow 2: (4A B) x3 s";
  test.each([
    [
      "beads 5 to 8 of a long row, mirrored",
      () => mirrorStretch("12A", { at: 0, nth: 4 }, { at: 0, nth: 7 }),
      "4A (4A) mirror 4A",
    ],
    [
      "a whole pick repeated",
      () => repeatStretch(text, bead(text, "2B"), bead(text, "2B", 1), 4),
      "Row 1: 3A (2B) x4, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "part of one pick to part of another",
      () => repeatStretch(text, bead(text, "3A", 1), bead(text, "2B", 0), 2),
      "Row 1: A (2A B) x2 B, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "inside a repeat",
      () => loopStretch(text, bead(text, "4A", 2), bead(text, "B) x3")),
      "Row 1: 3A 2B, 12s  # the edge\nRow 2: (2A loop(2A B)) x3 s",
    ],
    [
      "from inside a repeat to outside widens to the whole repeat",
      () => mirrorStretch(text, bead(text, "4A", 2), { at: text.length - 1, nth: 0 }),
      "Row 1: 3A 2B, 12s  # the edge\nRow 2: ((4A B) x3 s) mirror",
    ],
    [
      "passed through: the beads stay, and the thread goes through them at the end of their row",
      () => passStretch(text, bead(text, "3A"), bead(text, "3A", 2)),
      "Row 1: 3A 2B, 12s >3A  # the edge\nRow 2: (4A B) x3 s",
    ],
    ["the first of two", () => passStretch("2A 2B", { at: 0, nth: 0 }, { at: 0, nth: 0 }), "2A 2B >A@1"],
    ["the last of two", () => passStretch("2A 2B", { at: 3, nth: 1 }, { at: 3, nth: 1 }), "2A 2B >B@last"],
    ["the only one of its key", () => passStretch("A 2B", { at: 0, nth: 0 }, { at: 0, nth: 0 }), "A 2B >A"],
    [
      "which of many copies, no text tells",
      () => passStretch("(A B) x4", { at: 1, nth: 0 }, { at: 1, nth: 0 }),
      "(A B) x4 >A",
    ],
    ["two kinds at once", () => passStretch("2A 2B", { at: 0, nth: 1 }, { at: 3, nth: 0 }), "2A 2B >(A B)"],
    [
      "what is passed already is no bead to pass",
      () => passStretch("2A >A", { at: 3, nth: 0 }, { at: 4, nth: 0 }),
      "The thread only passes through here. Choose beads where they are strung, and it goes on there.",
    ],
    [
      "a fringe turns round its last bead",
      () => fringeStretch(text, bead(text, "3A", 1), bead(text, "2B", 1)),
      "Row 1: A fringe(2A B | B), 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    ["a fringe of one pick", () => fringeStretch("9A", { at: 0, nth: 2 }, { at: 0, nth: 6 }), "2A fringe(4A | A) 2A"],
    [
      "taken out, with its comma",
      () => removeStretch(text, bead(text, "2B"), { ...bead(text, "2B"), nth: 1 }),
      "Row 1: 3A, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "the first step of a row taken out",
      () => removeStretch(text, bead(text, "3A"), bead(text, "3A", 2)),
      "Row 1: 2B, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "one more of the same kind",
      () => insertBeside(text, bead(text, "3A"), "after", "A"),
      "Row 1: 4A 2B, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "another kind in the middle of a pick",
      () => insertBeside(text, bead(text, "12s", 4), "after", "D"),
      "Row 1: 3A 2B, 5s D 7s  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "beside a neighbour of its kind",
      () => insertBeside(text, bead(text, "3A", 2), "after", "B"),
      "Row 1: 3A 3B, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
    ["at the end", () => insertBeside(text, null, "after", "2s"), "Row 1: 3A 2B, 12s  # the edge\nRow 2: (4A B) x3 3s"],
    ["into nothing", () => insertBeside("", null, "after", "A"), "A"],
    ["a count set", () => setCount(text, bead(text, "12s"), 1), "Row 1: 3A 2B, s  # the edge\nRow 2: (4A B) x3 s"],
    [
      "a count of 0 takes it out",
      () => setCount(text, bead(text, "12s"), 0),
      "Row 1: 3A 2B  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "moved on",
      () => moveStretch(text, bead(text, "3A"), bead(text, "3A", 2), bead(text, "12s", 11), "after"),
      "Row 1: 2B, 12s 3A  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "moved back",
      () => moveStretch(text, bead(text, "12s"), bead(text, "12s", 11), bead(text, "3A"), "before"),
      "Row 1: 12s 3A 2B  # the edge\nRow 2: (4A B) x3 s",
    ],
    [
      "by size",
      () => bySizeStretch("5A 2c", bead("5A 2c", "2c"), bead("5A 2c", "2c", 1), ["S", "L"]),
      "5A size{S: 2c | L: 2c}",
    ],
    [
      "a row copied",
      () => copyRow(text, 8),
      "Row 1: 3A 2B, 12s  # the edge\nRow 1: 3A 2B, 12s  # the edge\nRow 2: (4A B) x3 s",
    ],
  ])("%s", (_, edit, expected) => {
    expect(after(edit())).toBe(expected);
  });
  test("beads of two rows are no stretch, and a fringe needs a bead to turn round", () => {
    expect(after(mirrorStretch(text, bead(text, "3A"), { at: text.length - 1, nth: 0 }))).toContain("one row");
    expect(after(fringeStretch(text, bead(text, "4A"), bead(text, "B) x3")))).toBe(
      "Row 1: 3A 2B, 12s  # the edge\nRow 2: (fringe(4A | B)) x3 s",
    );
    expect(after(fringeStretch("s (A) x3", { at: 0, nth: 0 }, { at: 3, nth: 0 }))).toContain("single bead");
    expect(describeStretch(text, bead(text, "3A", 1), bead(text, "2B", 0))).toMatchObject({ text: "2A B" });
  });
});

describe("laws of building", () => {
  const edit = fc.record({
    a: fc.nat(),
    b: fc.nat(),
    act: fc.constantFrom("repeat", "mirror", "loop", "fringe", "pass", "remove", "insert", "set", "move", "copy"),
    n: fc.integer({ min: 1, max: 4 }),
  });
  test("after any actions the text reads without a fault, and the beads drawn are the beads counted", () => {
    fc.assert(
      fc.property(pattern, fc.array(edit, { minLength: 1, maxLength: 6 }), (start, acts) => {
        let text = start;
        for (const { a, b, act, n } of acts) {
          const d = written(text);
          const counting = countWhole(d);
          const { marks } = layOut(counting, counting.parts[0]!, appearancesOf(d.key), 400);
          if (marks.length === 0) break;
          const [x, y] = [marks[a % marks.length]!, marks[b % marks.length]!].map((m): BeadAt => ({
            at: m.from,
            nth: m.nth,
          })) as [BeadAt, BeadAt];
          const done =
            act === "repeat"
              ? repeatStretch(text, x, y, n)
              : act === "mirror"
                ? mirrorStretch(text, x, y)
                : act === "loop"
                  ? loopStretch(text, x, y)
                  : act === "fringe"
                    ? fringeStretch(text, x, y)
                    : act === "pass"
                      ? passStretch(text, x, y)
                      : act === "remove"
                        ? removeStretch(text, x, y)
                        : act === "insert"
                          ? insertBeside(text, x, n % 2 ? "after" : "before", ["A", "2B", "D"][n % 3]!)
                          : act === "set"
                            ? setCount(text, x, n)
                            : act === "move"
                              ? moveStretch(text, x, x, y, "after")
                              : copyRow(text, x.at);
          if ("fault" in done) continue;
          if (done.text.length > 5000) break;
          expect(parsePattern(done.text).problems, `${act}: ${text} → ${done.text}`).toEqual([]);
          text = done.text;
        }
        const d = written(text, { uses: null });
        const counting = countWhole(d);
        const picture = layOut(counting, counting.parts[0]!, appearancesOf(d.key), 20_000);
        if (picture.leftOut > 0 || counting.answer.problems.length > 0) return;
        const drawn: Record<string, number> = {};
        for (const m of picture.marks) drawn[m.key] = (drawn[m.key] ?? 0) + 1;
        const counted: Record<string, number> = {};
        for (const p of counting.parts[0]!.placings)
          if (p.picked > 0) counted[p.key] = (counted[p.key] ?? 0) + p.picked;
        expect(drawn).toEqual(counted);
      }),
      { numRuns: 150 },
    );
  });
  test("wrapped: a mirror doubles it, a repeat multiplies it, a pass counts nothing", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 12 }),
        fc.nat(11),
        fc.nat(11),
        fc.integer({ min: 1, max: 9 }),
        (n, i, j, times) => {
          const text = n === 1 ? "A" : `${n}A`;
          const [a, b] = [Math.min(i, j) % n, Math.max(i, j) % n].sort((x, y) => x - y) as [number, number];
          const inside = b - a + 1;
          const of = (edited: Edited) => written(after(edited)) && (count(written(after(edited))).counts.A ?? 0);
          expect(of(mirrorStretch(text, { at: 0, nth: a }, { at: 0, nth: b }))).toBe(n + inside);
          expect(of(repeatStretch(text, { at: 0, nth: a }, { at: 0, nth: b }, times))).toBe(n + inside * (times - 1));
          expect(of(passStretch(text, { at: 0, nth: a }, { at: 0, nth: b }))).toBe(n);
          expect(of(fringeStretch(text, { at: 0, nth: a }, { at: 0, nth: b }))).toBe(n);
          expect(of(removeStretch(text, { at: 0, nth: a }, { at: 0, nth: b }))).toBe(n - inside);
        },
      ),
    );
  });
});

describe("what is wrong in a text offers its mend", () => {
  const of = (steps: string, more: Partial<Parameters<typeof design>[0]> = {}) =>
    design({
      key: [
        { key: "A", name: "a", kind: "bead", alongMm: 2 },
        { key: "B", name: "b", kind: "bead", alongMm: 2 },
      ],
      parts: [{ id: "p", name: "p", steps }],
      ...more,
    });
  /** The text after the first mend of the first problem, as the bench takes it over. */
  const mended = (steps: string, more: Partial<Parameters<typeof design>[0]> = {}) => {
    const d = of(steps, more);
    const size = d.sizes?.[0]?.key ?? null;
    const [mend] = count(d, { size }).problems.flatMap((p) => mendsOf(d, p));
    if (!mend) return null;
    if ("usePart" in mend) return `${mend.usePart.part} as ${mend.usePart.key}`;
    return "addKey" in mend
      ? `+${mend.addKey}`
      : steps.slice(0, mend.change.from) + mend.change.insert + steps.slice(mend.change.to);
  };
  test.each([
    ["(2A B x4", "(2A B) x4"],
    ["(2A B", "(2A B)"],
    ["(2A B # the edge", "(2A B) # the edge"],
    ["2A B) x2", "2A B x2"],
    ["2A b", "2A B"],
    ["2A Q", "+Q"],
    ["2A 3Q", "+Q"],
    ["2A 3b", "2A 3B"],
    ["(A B) miror", "(A B) mirror"],
    ["(A B) repeat", "(A B) x2"],
    ["Row 1: 2A B x3", "Row 1: (2A B) x3"],
    ["A & B", "A # & B"],
    // A note would hide the bracket that closes what this stands in.
    ["(A & B) x2", "(A  B) x2"],
    ["A space 0mm B", "A space 6mm B"],
    ["0A B", " B"],
  ])("%s", (steps, expected) => {
    expect(mended(steps)).toBe(expected);
  });

  test("a part that is called so is hung, and used by that key; no bead is made of its name", () => {
    const parts = [
      { id: "p", name: "p", steps: "A hang Drop" },
      { id: "d", name: "Drop", makes: 2, steps: "2B" },
    ];
    const d = of("", { parts });
    const [problem] = count(d).problems;
    const mends = mendsOf(d, problem!);
    expect(mends).toEqual([{ say: "Hang the part Drop?", usePart: { part: "d", key: "Drop" } }]);
    const used = of("", { parts: [parts[0]!, { id: "d", name: "Drop", as: "Drop", steps: "2B" }] });
    expect(count(used).problems).toEqual([]);
    expect(count(used).counts).toMatchObject({ A: 1, B: 2 });
    // Strung and not hung, it is used; the part itself is never its own.
    const strung = of("", { parts: [{ ...parts[0]!, steps: "A Drop" }, parts[1]!] });
    expect(mendsOf(strung, count(strung).problems[0]!)[0]!.say).toBe("Use the part Drop?");
    const own = of("", { parts: [{ id: "d", name: "Drop", steps: "A Drop" }] });
    expect(mendsOf(own, count(own).problems[0]!)[0]).toMatchObject({ addKey: "Drop" });
  });

  test("a size that a branch lacks is added, empty", () => {
    const sizes = [{ key: "S" }, { key: "M" }];
    expect(mended("size{S: 2A}", { sizes })).toBe("size{S: 2A | M:}");
  });

  test("every mend of the text mends what it was offered for", () => {
    const slip = fc.constantFrom(
      "(2A B x4",
      "2A B)",
      "2A b",
      "A B x3",
      "(A) miror",
      "A & B",
      "2A hang",
      "((A)",
      "A x2 B",
    );
    fc.assert(
      fc.property(fc.array(slip, { minLength: 1, maxLength: 4 }), (lines) => {
        const steps = lines.join("\n");
        const d = of(steps);
        for (const problem of count(d).problems) {
          for (const mend of mendsOf(d, problem)) {
            if (!("change" in mend)) continue;
            const { from, to, insert } = mend.change;
            // What an open bracket hid may come to light: this one problem is gone.
            const told = (text: string) => count(of(text)).problems.filter((p) => p.message === problem.message).length;
            const after = steps.slice(0, from) + insert + steps.slice(to);
            expect(told(after), `${mend.say}: ${after}`).toBeLessThan(told(steps));
          }
        }
      }),
    );
  });

  test("letters apart: as Damerau counts them", () => {
    // Damerau 1964: one letter put in, left out, replaced, or two neighbours swapped each count one.
    expect(["mirror", "miror", "mirrror", "mirrur", "mirorr", "mirro"].map((w) => lettersApart(w, "mirror"))).toEqual([
      0, 1, 1, 1, 1, 1,
    ]);
  });
});

describe("the notation, construct by construct", () => {
  const keys = { beads: ["A", "B", "C"], hung: "D", finding: "R", sub: "CH", sizes: ["S", "M"] } as const;
  const entries: KeyEntry[] = [
    ...["A", "B", "C"].map((key) => ({ key, name: key, kind: "bead" as const, alongMm: 4, holes: 2 })),
    { key: "D", name: "drop", kind: "focal", alongMm: 10 },
    { key: "R", name: "jump ring", kind: "finding", alongMm: 4 },
    { key: "W", name: "chain", kind: "stringing", linkMm: 3 },
  ];
  test.each(CONSTRUCTS.map((c) => [c.title, c] as const))("%s: its example counts without a problem", (_, c) => {
    const { strands = 1, chain, targetMm = null } = c.on ?? {};
    const d = design({
      key: entries,
      ...(c.id === "size" ? { sizes: [{ key: "S" }, { key: "M" }] } : {}),
      parts: [
        {
          id: "p",
          name: "p",
          steps: c.example(keys),
          strands,
          stringing: chain ? "W" : null,
          targetMm: c.id === "rest" ? 300 : targetMm,
        },
        ...(c.id === "rest" ? [{ id: "ch", name: "chain", as: "CH", stringing: "W", steps: "skip to length" }] : []),
      ],
    });
    const { problems, counts } = count(d, { size: c.id === "size" ? "S" : null });
    expect(problems).toEqual([]);
    expect(Object.keys(counts).length).toBeGreaterThan(0);
  });

  test("every word of the notation is explained by one of them, and found by plain words", () => {
    for (const word of RESERVED) expect(constructOf(word)?.title, word).toBeDefined();
    for (const said of ["repeat", "length", "help", "clasp", "knot", "dangle", "through again"])
      expect(findConstructs(said).length, said).toBeGreaterThan(0);
    expect(findConstructs("repeat")[0]!.id).toBe("repeat");
    expect(findConstructs("help")).toHaveLength(CONSTRUCTS.length);
    expect(findConstructs("nothing of the kind")).toEqual([]);
  });
});

describe("keys", () => {
  test("a renamed key is renamed wherever it is used, and nothing else changes", () => {
    const d = design({
      key: [
        { key: "A", name: "a", kind: "bead", alongMm: 2 },
        { key: "AB", name: "ab", kind: "bead", alongMm: 2 },
        { key: "D", name: "d", kind: "focal", hangsBy: [{ key: "A", count: 1 }] },
        { key: "M", name: "m", kind: "mix", mix: [{ key: "A", share: 1 }] },
      ],
      parts: [
        {
          id: "p",
          name: "p",
          steps: "A: 3A  (2AB >A) x4 between (A), # A stays\nhang D ((A) to 50mm fill (A AB)) mirror around A",
          uses: [{ key: "A", count: 2 }],
        },
      ],
      uses: [{ key: "A", count: 1 }],
    });
    const renamed = renameKey(d, "A", "seed_1");
    expect(renamed.parts[0]!.steps).toBe(
      "A: 3seed_1  (2AB >seed_1) x4 between (seed_1), # A stays\nhang D ((seed_1) to 50mm fill (seed_1 AB)) " +
        "mirror around seed_1",
    );
    expect(renamed.key[0]).toMatchObject({ key: "seed_1", id: "A" });
    const [then, now] = [count(d), count(renamed)];
    expect(now.counts.seed_1).toBe(then.counts.A);
    expect({ ...now.counts, seed_1: undefined }).toEqual({ ...then.counts, A: undefined, seed_1: undefined });
  });
  test("renaming there and back is the identity on the text", () => {
    fc.assert(
      fc.property(pattern, (text) => {
        const there = renameKey(written(text), "A", "Zq");
        expect(renameKey(there, "Zq", "A").parts[0]!.steps).toBe(text);
        expect(keysIn(there.parts[0]!.steps!).filter((k) => k.key === "A")).toEqual([]);
      }),
    );
  });
  test("keys that nothing uses, and keys that nobody has, are told", () => {
    const d = design({
      key: [
        { key: "A", name: "a", kind: "bead" },
        { key: "B", name: "b", kind: "bead" },
        { key: "M", name: "m", kind: "mix", mix: [{ key: "A", share: 1 }] },
      ],
      parts: [{ id: "p", name: "p", steps: "2M Zz", stringing: "TH" }],
    });
    expect(keyUse(d)).toEqual({ unused: ["B"], undefined: ["TH", "Zz"] });
  });
});

describe("building a whole piece", () => {
  test("what is hung where something hangs already hangs beside it", () => {
    expect(after(insertBeside("A hang D", null, "after", "hang L"))).toBe("A hang (D | L)");
    expect(after(insertBeside("hang (D | 2L) A", bead("hang (D | 2L) A", "D"), "before", "hang K"))).toBe(
      "hang (K | D | 2L) A",
    );
    expect(after(insertBeside("hang (D | 2L)", bead("hang (D | 2L)", "D"), "after", "hang (K | 2D)"))).toBe(
      "hang (D | 2L | K | 2D)",
    );
    expect(after(insertBeside("A", null, "after", "hang L"))).toBe("A hang L");
  });
  test("joined and taken up the rest at the end, one after the other", () => {
    expect(after(insertBeside("join B", null, "after", "rest SC"))).toBe("join B rest SC");
    expect(after(insertBeside("join B rest SC", null, "after", "join B"))).toBe("join B rest SC join B");
  });
  test("a stretch spaced by something else; a repeat keeps its own bracket", () => {
    expect(after(spacedStretch("2A B C", bead("2A B C", "2A"), bead("2A B C", "C"), "s"))).toBe("(2A B C) spaced s");
    const repeat = "A (B C) x3 A";
    expect(after(spacedStretch(repeat, bead(repeat, "(B C) x3"), bead(repeat, "(B C) x3"), "s"))).toContain("spaced s");
  });
  test("a bead's hole stays with it when its pick is cut in two", () => {
    expect(after(insertBeside("3W.2", { at: 0, nth: 0 }, "after", "A"))).toBe("W.2 A 2W.2");
    expect(after(setCount("W.2 A", { at: 0, nth: 0 }, 4))).toBe("4W.2 A");
  });
});
