/** A sheet's sentences, read back by a second reader that sees the sentences alone. */
import * as fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Design, READING_LEVELS, type ReadingLevel } from "../src/contract/index.ts";
import { countWhole } from "../src/count/index.ts";
import { sentencesOf } from "../src/sheet/index.ts";
import { written } from "./designs.ts";
import { DEMO, EXAMPLES } from "./kept.ts";
import { withJoins } from "./patterns.ts";
import { lettersFor, readBack } from "./sentenceReader.ts";

/** Beads that are called by their letters. */
const lettered = (d: Design): Design => ({
  ...d,
  key: d.key.map((e) => (e.kind === "stringing" ? e : { ...e, name: e.key })),
});
const told = (steps: string, level: ReadingLevel = "plain", part: object = {}, rest = {}) => {
  const made = written(steps, part, rest);
  const d = "key" in rest ? made : lettered(made);
  return sentencesOf(d, d.parts[0]!, level);
};
const text = (...args: Parameters<typeof told>) => told(...args).map((r) => r.text);

/** What the rows of one part take, as the count has it. */
function counted(d: Design, partId: string, size: string | null): Record<string, number> {
  const option = d.parts.find((p) => p.id === partId)!.options?.[0] ?? d.options?.[0]?.key ?? null;
  const sums: Record<string, number> = {};
  for (const p of countWhole(d, { size, option }).parts.find((p) => p.part.id === partId)!.placings)
    if (p.picked > 0) sums[p.key] = (sums[p.key] ?? 0) + p.picked;
  return sums;
}

const SHORTHAND = /[>×@|#{}()]|\bx\d|\d[A-Za-z]\b(?<!\d(st|nd|rd|th))/;

describe("rows in sentences", () => {
  it("says a row as one says it at the bench", () => {
    expect(text("(3A >W) x6")).toEqual(["Pick up 3 A. Pass through W again. Do this 6 times."]);
    expect(text("2B (3A) x4, C")).toEqual(["Pick up 2 B. Begin a repeat. Pick up 3 A. Do this 4 times. Pick up 1 C."]);
    expect(text("(A) x3 between (2s)")).toEqual([
      "Pick up 1 A. Do this 3 times. Begin what comes between two repeats. Pick up 2 s. That is 2 times in all.",
    ]);
    expect(text("(A 2B) mirror around C")).toEqual([
      "Begin one side. Pick up 1 A and 2 B. That is one side. Pick up 1 C. " +
        "Make the other side the same, the last step first.",
    ]);
    expect(text("2A (B) x0 C")).toEqual(["Pick up 2 A and 1 C."]);
    expect(text("W.2 >W.2@2 >C@last")).toEqual([
      "Pick up 1 W through the 2nd hole. Pass through the 2nd hole of the 2nd W again. Pass through the last C again.",
    ]);
    expect(text("7-8s, hang (D | 2B), join C")).toEqual([
      "Pick up 7 or 8 s. Hang 1 D and 2 B side by side. Link in 1 C.",
    ]);
    expect(text("knot 4mm, space 6mm, fringe(3A | s)")).toEqual([
      "Tie a knot of 4\u00a0mm. Leave 6\u00a0mm bare. Begin a fringe. Pick up 3 A. Turn round the next beads. " +
        "Pick up 1 s. Go back up through the fringe, past the turn.",
    ]);
  });

  it("keeps labels, and notes for the maker in their places", () => {
    const rows = told(
      "! Work at a table.\nedge: 3A  ! Pull firmly\nback: behind B  # not for the maker\n! Let it rest",
    );
    expect(rows).toEqual([
      { label: null, text: "Note: Work at a table." },
      { label: "edge", text: "Pick up 3 A. Note: Pull firmly." },
      { label: "back", text: "Work this row behind what is there. Pick up 1 B." },
      { label: null, text: "Note: Let it rest." },
    ]);
  });

  it("tells the same steps at three levels", () => {
    const steps = "(3A >W) x6, hang D";
    expect(text(steps, "short")).toEqual(["3 A. Through W again. Do this 6 times. Hang 1 D."]);
    const [every] = text(steps, "every move", { stringing: "TH" });
    expect(every).toContain("Pick up 3 A with the needle, and slide what you picked up down to the work.");
    expect(every).toContain("Pass the needle through W again, and pull it snug.");
    const d = lettered(written(steps));
    for (const level of READING_LEVELS)
      expect(readBack(sentencesOf(d, d.parts[0]!, level), null, d)).toEqual({ A: 18, D: 1 });
  });

  it("names a bead at its first mention in each row, and calls it by its letter from there", () => {
    const key = [
      { key: "g", name: "6 mm round, ink black", kind: "bead" as const, alongMm: 6 },
      { key: "s", name: "11/0 seed", kind: "bead" as const, alongMm: 1.4 },
      { key: "DR", name: "DR", kind: "bead" as const },
    ];
    expect(text("g, 2s g\n3g >g, hang DR", "plain", {}, { key })).toEqual([
      "Pick up one 6 mm round, ink black (g), 2 of 11/0 seed (s) and 1 g.",
      "Pick up 3 of 6 mm round, ink black (g). Pass through g again. Hang 1 DR.",
    ]);
    expect(text("size{S: g | L: 2g}, g", "plain", {}, { key, sizes: [{ key: "S" }, { key: "L" }] })).toEqual([
      "In size S only. Pick up one 6 mm round, ink black (g). In size L only. " +
        "Pick up 2 of 6 mm round, ink black (g). In every size again. Pick up one 6 mm round, ink black (g).",
    ]);
  });

  it("says what each size has of its own, or one size alone", () => {
    const sizes = { sizes: [{ key: "S" }, { key: "L" }] };
    const d = lettered(written("(A B) to length fill A, size{S: | L: 2C}", { targetMm: { S: 26, L: 37 } }, sizes));
    const all = sentencesOf(d, d.parts[0]!, "plain");
    expect(all[0]!.text).toBe(
      "Pick up 1 A and 1 B. Do this 5 times. In size S only. Nothing here. In size L only. Pick up 1 A. " +
        "In every size again. In size S only. Nothing here. In size L only. Pick up 2 C. In every size again.",
    );
    expect(readBack(all, "S", d)).toEqual(counted(d, "p", "S"));
    expect(readBack(all, "L", d)).toEqual(counted(d, "p", "L"));
    expect(sentencesOf(d, d.parts[0]!, "plain", "L")[0]!.text).toBe(
      "Pick up 1 A and 1 B. Do this 5 times. Pick up 1 A and 2 C.",
    );
  });
});

describe("read back, they give the same count", () => {
  it.each([...EXAMPLES, ...DEMO])("of $name", ({ design: d }) => {
    const sizes = d.sizes?.length ? d.sizes.map((s) => s.key) : [null];
    for (const part of d.parts)
      for (const level of READING_LEVELS)
        for (const size of sizes) {
          const want = counted(d, part.id, size);
          const all = sentencesOf(d, part, level);
          expect(readBack(all, size, d), `${part.name}, ${level}, all sizes`).toEqual(want);
          expect(readBack(sentencesOf(d, part, level, size), size, d), `${part.name}, ${level}, ${size}`).toEqual(want);
          for (const { text } of all) expect(lettersFor(text, d).split("Note: ")[0]).not.toMatch(SHORTHAND);
        }
  });

  it("of random designs", () => {
    fc.assert(
      fc.property(
        withJoins,
        fc.integer({ min: 1, max: 4 }),
        fc.constantFrom(...READING_LEVELS),
        (steps, strands, level) => {
          const d = written(steps, { stringing: "TH", strands });
          // Past its limits the count leaves steps out, and says so.
          fc.pre(countWhole(d).answer.problems.every((p) => p.level !== "error"));
          const rows = sentencesOf(d, d.parts[0]!, level);
          expect(readBack(rows, null, d)).toEqual(counted(d, "p", null));
          for (const row of rows) expect(lettersFor(row.text, d)).not.toMatch(SHORTHAND);
        },
      ),
      { numRuns: 400 },
    );
  });

  it("of strands side by side, each on its own", () => {
    for (const [steps, strands] of [
      ["each(10A 7B (2C) x3)", 8],
      ["A each(2B | C s) A", 2],
      ["(A each(2s) B) x5 spaced s", 3],
    ] as const) {
      const d = written(steps, { strands, stringing: "TH" });
      expect(readBack(sentencesOf(d, d.parts[0]!, "plain"), null, d)).toEqual(counted(d, "p", null));
    }
  });
});
