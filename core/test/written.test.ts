import fc from "fast-check";
import { expect, test } from "vitest";
import { count } from "../src/count/index.ts";
import { written } from "./designs.ts";
import { withJoins } from "./patterns.ts";
import { writtenOut } from "./writtenOut.ts";

const inOrder = (counts: Record<string, number>) => Object.fromEntries(Object.entries(counts).sort());

/** The counting, which multiplies, against a reference that writes every bead out and multiplies nothing. */
function agrees(text: string, strands: number) {
  const d = written(text, { strands, stringing: "TH", tailMm: 7 });
  const answer = count(d);
  // What a person could still write out.
  fc.pre(answer.parts[0]!.pathMm < 20_000);
  const out = writtenOut(d);
  expect(inOrder(answer.counts)).toEqual(inOrder(out.counts));
  expect(answer.parts[0]!.strandMm).toBeCloseTo(out.strandMm, 4);
  expect(answer.parts[0]!.pathMm).toBeCloseTo(out.pathMm, 4);
  expect(answer.parts[0]!.passes).toEqual(out.passes);
  expect((answer.pieces.TH ?? []).reduce((n, p) => n + p.count, 0)).toBe(out.segments.length * strands);
  const longest = Math.max(0, ...out.segments);
  expect(answer.pieces.TH?.[0]?.mm ?? 0).toBeCloseTo(out.segments.length > 0 ? longest + 14 : 0, 3);
}

test("every construct comes to what it comes to written out bead by bead", () => {
  fc.assert(fc.property(withJoins, fc.integer({ min: 1, max: 3 }), agrees));
});

test.each([
  "(A (s A) x3 spaced B) mirror around (join C, 2B) A",
  "((A, loop(3B), fringe(2s | B), hang D) x3 between (>A, space 5mm, B) spaced (c W.2)".replace("c ", "s ") + ")",
  "(((A B) x2 spaced s) mirror, >2A) x2 spaced (W (s) x2)",
  "join C, (2A knot 3mm takes 9mm) x2 spaced s, join (A B), hang D, join C, 3W >W.2",
  "(2A, join C, B) spaced s mirror around (join A, >A)",
])("%s: by hand and by the count the same", (text) => agrees(text, 2));
