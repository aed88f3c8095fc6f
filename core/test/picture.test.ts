import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { type Answer, Design } from "../src/contract/index.ts";
import { count, countWhole } from "../src/count/index.ts";
import { appearancesOf, layOut } from "../src/picture/index.ts";

const folder = new URL("./examples/", import.meta.url);

/** A design with all that is not strung taken out: what is left must be drawn, bead for bead. */
const strungOnly = (design: Design): Design => ({
  ...design,
  key: design.key.map((entry) => ({ ...entry, hangsBy: null })),
  parts: design.parts.map((part) => ({ ...part, uses: null, hangsBy: null })),
  uses: null,
});

describe("the marks drawn equal the beads strung", () => {
  for (const file of readdirSync(folder)) {
    const example = JSON.parse(readFileSync(new URL(file, folder), "utf8")) as { design: unknown; answers: Answer[] };
    const design = Design.parse(example.design);
    for (const { size, option } of example.answers) {
      test(`${design.name}, ${size ?? "one size"}, ${option ?? "one way"}`, () => {
        const counting = countWhole(design, { size, option });
        const looks = appearancesOf(design.key);
        const drawn: Record<string, number> = {};
        for (const part of counting.parts) {
          if (part.part.as != null) continue;
          const picture = layOut(counting, part, looks);
          expect(picture.leftOut).toBe(0);
          expect(picture.strandMm).toBeCloseTo(part.whole.strandMm, 6);
          for (const mark of picture.marks) drawn[mark.key] = (drawn[mark.key] ?? 0) + (part.part.makes ?? 1);
        }
        const mixless = {
          ...strungOnly(design),
          key: strungOnly(design).key.map((entry) => (entry.kind === "mix" ? { ...entry, kind: "bead" as const } : entry)),
        };
        expect(drawn).toEqual(count(mixless, { size, option }).counts);
      });
    }
  }
});

test("a billion beads are not drawn one by one, and neither is a billion times nothing", () => {
  const design = Design.parse({
    format: "jar-count/design", version: 1, name: "Many",
    key: [{ key: "A", name: "11/0 seed", kind: "bead", alongMm: 1.4 }],
    parts: [{ id: "p", name: "P", steps: "((A) x10000) x100000, ((>A, space 1mm) x30000) x30000" }],
  });
  const counting = countWhole(design);
  const picture = layOut(counting, counting.parts[0]!, appearancesOf(design.key));
  expect(counting.answer.counts).toEqual({ A: 1e9 });
  expect(picture.marks).toHaveLength(5000);
  expect(picture.leftOut).toBeGreaterThan(0);
});

test("links repeated a billion times are counted, and not gone through one by one", () => {
  const design = Design.parse({
    format: "jar-count/design", version: 1, name: "Links",
    key: [{ key: "CH", name: "chain", kind: "stringing", linkMm: 4 }],
    parts: [{ id: "p", name: "P", stringing: "CH", steps: "((skip 1) x30000) x30000" }],
  });
  const counting = countWhole(design);
  expect(counting.answer.parts[0]!.links).toBe(9e8);
  expect(layOut(counting, counting.parts[0]!, appearancesOf(design.key)).links.length).toBeLessThanOrEqual(5000);
});

test("a sub-assembly that holds itself many times is not followed down for ever", () => {
  const design = Design.parse({
    format: "jar-count/design", version: 1, name: "Circle", key: [{ key: "A", name: "A", kind: "bead", alongMm: 2 }],
    parts: [{ id: "s", name: "S", as: "SUB", steps: "99999SUB A" }, { id: "p", name: "P", steps: "SUB" }],
  });
  const counting = countWhole(design);
  expect(counting.answer.problems.some((p) => p.message.includes("in a circle"))).toBe(true);
  expect(layOut(counting, counting.parts[1]!, appearancesOf(design.key)).marks.length).toBeLessThanOrEqual(5000);
});
