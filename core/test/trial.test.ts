import { expect, test } from "vitest";
import type { Trial } from "../src/contract/index.ts";
import { count } from "../src/count/index.ts";
import { correctionsOf, usedBeside } from "../src/trial/index.ts";
import { written } from "./designs.ts";

const trial = (t: Partial<Trial>): Trial => ({
  id: "6f1c2f2e-0000-4000-8000-000000000001",
  revision: 1,
  size: null,
  option: null,
  madeOn: "2027-02-10",
  used: {},
  note: "",
  verdict: "good",
  ...t,
});

test("what was used stands beside what was counted", () => {
  const d = written("(4A 2B) x10", { stringing: "TH", tailMm: 100 });
  expect(
    usedBeside(d, trial({ used: { A: 41, TH: 400, gone: 3 } })).map((u) => [u.entry.key, u.unit, u.computed, u.used]),
  ).toEqual([
    ["A", "piece", 40, 41],
    ["TH", "mm", 340, 400],
  ]);
});

test("a strand that came out longer corrects the bead that makes most of it, and then measures the same", () => {
  // 40 × 2 + 20 × 3 = 140 mm
  const d = written("(4A 2B) x10", { stringing: "TH", tailMm: 100 });
  const corrections = correctionsOf(d, trial({ finished: { part: "p", mm: 144 } }));
  expect(corrections.map((c) => c.id)).toEqual(["along A", "along B"]);
  expect(corrections[0]!.design.key[0]!.alongMm).toBe(2.1);
  for (const c of corrections) expect(count(c.design).parts[0]!.strandMm).toBeCloseTo(144, 1);
  expect(correctionsOf(d, trial({ finished: { part: "p", mm: 140.2 } }))).toEqual([]);
});

test("more thread than computed corrects the take-up, with the tails left as they are", () => {
  const d = written("(4A 2B) x10", { stringing: "TH", tailMm: 100, takeUp: 0.1 });
  expect(count(d).lengthsMm.TH).toBeCloseTo(354, 6);
  const [c] = correctionsOf(d, trial({ used: { TH: 382 } }));
  expect(c!.design.parts[0]!.takeUp).toBeCloseTo(0.3, 6);
  expect(count(c!.design).lengthsMm.TH).toBeCloseTo(382, 6);
  expect(c!.reason).toContain("382\u00a0mm of thread");
});

test("minutes that differ are taken over, and a trial that agrees asks for nothing", () => {
  const d = written("4A", {}, {});
  expect(correctionsOf({ ...d, minutes: 30 }, trial({ minutes: 45 }))).toMatchObject([
    { id: "minutes", design: { minutes: 45 } },
  ]);
  expect(correctionsOf({ ...d, minutes: 45 }, trial({ minutes: 45 }))).toEqual([]);
});

test("a braid that comes out shorter than its strand is put right by its ratio, never by its beads", () => {
  // Eight strands of 175 × 2 = 350 mm, braided to 189 mm.
  const d = written("each(175A)", { strands: 8, stringing: "TH" }, { about: { technique: "braided" } });
  const corrections = correctionsOf(d, trial({ finished: { part: "p", mm: 189 } }));
  expect(corrections.map((c) => c.id)).toEqual(["ratio p"]);
  const { design } = corrections[0]!;
  expect(design.parts[0]!.finishedRatio).toBe(0.54);
  expect(design.key).toEqual(d.key);
  // The strand stays the strand; what agrees with the ratio asks for nothing more.
  expect(count(design).parts[0]!.strandMm).toBe(350);
  expect(correctionsOf(design, trial({ finished: { part: "p", mm: 189 } }))).toEqual([]);
  // Three strands and more that run apart all along are a braid too, though nobody said so.
  const unsaid = written("each(175A)", { strands: 3 });
  expect(correctionsOf(unsaid, trial({ finished: { part: "p", mm: 189 } })).map((c) => c.id)).toEqual(["ratio p"]);
});

test("of strands side by side only one adds to the length: a bead is not corrected by all of them", () => {
  // Two strands: 10 B on all, 20 A on each: 30 + 40 = 70 mm. 76 mm asks for 0.3 mm more of each A along one strand.
  const d = written("(each(2A) B) x10", { strands: 2 });
  const corrections = correctionsOf(d, trial({ finished: { part: "p", mm: 76 } }));
  expect(corrections[0]).toMatchObject({ id: "along A" });
  expect(corrections[0]!.design.key[0]!.alongMm).toBeCloseTo(2.3, 9);
  for (const c of corrections) expect(count(c.design).parts[0]!.strandMm).toBeCloseTo(76, 6);
});
