import { readdirSync, readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { billOf, originsOfNeed } from "../src/bom/index.ts";
import { type Answer, Design } from "../src/contract/index.ts";
import { changesBetween, count, countWhole, lengthOrigins, originsOf } from "../src/count/index.ts";
import { demoBoxes } from "./demoBoxes.ts";
import { written } from "./designs.ts";
import { withJoins } from "./patterns.ts";

const sum = (list: { total: number }[]) => list.reduce((s, o) => s + o.total, 0);

function addsUp(design: Design, size: string | null, option: string | null) {
  const counting = countWhole(design, { size, option });
  const { counts, perKit, lengthsMm } = counting.answer;
  for (const { key, kind } of design.key) {
    if (kind === "mix") continue; // shared out: its members carry its number
    expect(sum(originsOf(counting, key)), key).toBe((counts[key] ?? 0) + (perKit[key] ?? 0));
    expect(sum(lengthOrigins(counting, key)), key).toBeCloseTo(lengthsMm[key] ?? 0, 4);
  }
}

describe("what is listed adds up to the count", () => {
  const folder = new URL("./examples/", import.meta.url);
  for (const file of readdirSync(folder)) {
    const { design, answers } = JSON.parse(readFileSync(new URL(file, folder), "utf8")) as {
      design: unknown;
      answers: Answer[];
    };
    test(file, () => answers.forEach(({ size, option }) => addsUp(Design.parse(design), size, option)));
  }
  test("of any pattern", () => {
    fc.assert(
      fc.property(withJoins, (text) => {
        const d = written(text, { makes: 3, stringing: "TH" });
        fc.pre(count(d).problems.length === 0); // what is beyond a billion is left out of the count
        addsUp(d, null, null);
      }),
    );
  });
  test("123 of the worked necklace, place by place", () => {
    const { design } = JSON.parse(readFileSync(new URL("glaze-drip-necklace.json", folder), "utf8")) as {
      design: unknown;
    };
    const counting = countWhole(Design.parse(design));
    expect(
      originsOf(counting, "b").map((o) => [o.part?.name, o.place?.row, o.place?.column, o.text, o.each, o.times]),
    ).toEqual([
      ["Strand", 1, "ends: (X, space 4mm, (P ".length, "4b", 112, 1],
      ["Strand", 1, "ends: (X, space 4mm, (P 4b) x14, 3O ".length, "2b", 4, 1],
      ["Drop", 1, "loop(".length, "7b", 7, 1],
    ]);
  });
});

test("the rows listed for every component of the demo add up to its number, in every colourway of every box", () => {
  const checked = new Set<string>();
  for (const detail of demoBoxes()) {
    for (const variant of billOf(detail).variants) {
      for (const need of variant.needs) {
        const rows = originsOfNeed(detail, variant, need);
        const beside = need.beside.reduce((s, b) => s + b.perBox, 0);
        expect(
          rows.reduce((s, r) => s + r.perBox, beside),
          need.component.name,
        ).toBeCloseTo(need.piecesPerBox ?? need.perBox, 4);
        checked.add(need.component.id);
      }
    }
  }
  expect(checked.size).toBeGreaterThan(70);
});

test("changes between two states of a design follow a renamed role", () => {
  const before = written("3A 2B", { stringing: "TH" });
  const after = {
    ...before,
    key: before.key.map((e) => (e.key === "A" ? { ...e, key: "Z", id: "A" } : e)),
    parts: [{ ...before.parts[0]!, steps: "5Z C" }],
  };
  expect(changesBetween(before, before)).toEqual([]);
  expect(changesBetween(before, after).map((c) => [c.role, c.key, c.from, c.to])).toEqual([
    ["A", "Z", 3, 5],
    ["B", "B", 2, 0],
    ["C", "C", 0, 1],
    ["TH", "TH", 12, 15],
  ]);
});
