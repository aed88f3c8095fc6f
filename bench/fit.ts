/**
 * How fast the bench judges and finds ways to a length: beside a fresh walk for each rule, and beside trying
 * everything. One Node thread.
 */
import { Design } from "../core/src/contract/index.ts";
import { countWhole } from "../core/src/count/index.ts";
import { checkFit } from "../core/src/fit/index.ts";
import { edited, knobsOf, lengthsIn, waysToLength } from "../core/src/length/index.ts";
import { waysOut } from "../core/src/ways/index.ts";
import { seeded } from "../core/src/weigh/index.ts";
import { makeReport } from "./report.mjs";

/** Aims that are known to be missed: said with their figure each time. */
const report = makeReport(new Set(["ways to a length, about 1,000 beads in 86 rows of about 390 numbers"]));
const ms = (work: () => void) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const at = (list: number[], share: number) =>
  [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))]!;
const say = (n: number) => n.toLocaleString("en", { maximumFractionDigits: n < 10 ? 2 : 0 });

const KEY = [..."ABCDEFGH"].map((key, i) => ({
  key,
  name: `bead ${key}`,
  kind: "bead" as const,
  alongMm: 1.4 + 0.37 * i,
  acrossMm: 2 + 0.5 * i,
  holeMm: 0.8 + 0.1 * i,
  massG: 0.01 * (i + 1),
}));
const WIRE = {
  key: "BW",
  name: "beading wire",
  kind: "stringing" as const,
  form: "beading wire",
  diameterMm: 0.3,
  breakKg: 9,
};
const designOf = (steps: string, part: object = {}) =>
  Design.parse({
    format: "jar-count/design",
    version: 2,
    name: "Bench",
    key: [...KEY, WIRE],
    parts: [{ id: "p", name: "P", stringing: "BW", tailMm: 50, steps, ...part }],
  });

/** Rows of picks and short repeats, as a person would write them; each repeated so often as a whole. */
function written(rows: number, times: number): string {
  const random = seeded(7);
  const int = (from: number, to: number) => from + Math.floor(random() * (to - from + 1));
  const bead = () => "ABCDEFGH"[int(0, 7)]!;
  const row = () =>
    int(0, 2) === 0
      ? `(${int(1, 3)}${bead()} ${bead()}) x${int(2, 5)}`
      : `${int(1, 4)}${bead()} ${int(1, 3)}${bead()}, (${bead()} ${int(1, 2)}${bead()}) x${int(2, 4)} >${bead()}`;
  return Array.from({ length: rows }, () => (times === 1 ? row() : `(${row()}) x${times}`)).join("\n");
}

const large = designOf(written(86, 1));
const beads = Object.values(countWhole(large).answer.counts).reduce((sum, n) => sum + n, 0);
report.note(`a design of ${beads} beads in 86 rows`);

{
  const counting = countWhole(large);
  const rules = 14;
  const times = Array.from({ length: 60 }, () => ms(() => void checkFit(counting)));
  const fresh = Array.from({ length: 10 }, () =>
    ms(() => {
      for (let i = 0; i < rules; i++) checkFit(countWhole(designOf(large.parts[0]!.steps!)));
    }),
  );
  report.line(
    "fit checks of a keystroke, beside the walk that is there anyway",
    `${say(at(times, 0.5))} / ${say(at(times, 0.95))} ms for ${checkFit(counting).checks.length} checks; ` +
      `a fresh walk for each rule ${say(at(fresh, 0.5))} ms`,
    [
      [at(times, 0.5), 8],
      [at(times, 0.95), 16],
    ],
  );
}

{
  // As one writes a long strand, and as a long tapestry of rows.
  for (const [name, design] of [
    ["in 12 rows", designOf(written(12, 7))],
    ["in 86 rows of about 390 numbers", large],
  ] as const) {
    const { answer } = countWhole(design);
    const many = Object.values(answer.counts).reduce((sum, n) => sum + n, 0);
    const times = [3, 11, -17, 42, 96, -55, 27, -8].map((off) =>
      ms(() => void waysToLength(design, { part: "p", targetMm: answer.parts[0]!.strandMm + off + 0.13 })),
    );
    report.line(
      `ways to a length, about 1,000 beads ${name}`,
      `${say(many)} beads: ${say(at(times, 0.5))} / ${say(at(times, 0.95))} ms`,
      [[at(times, 0.95), 200]],
    );
  }
}

/** Every turn of one knob or two, each text counted from scratch: what is closest of all. */
function exhaustive(design: Design, targetMm: number): { off: number; tried: number } {
  const counting = countWhole(design);
  const of = lengthsIn(counting, counting.parts[0]!);
  const { knobs } = knobsOf(counting, counting.parts[0]!, of);
  let [off, tried] = [Infinity, 0];
  const look = (steps: string) => {
    tried++;
    const parts = [{ ...design.parts[0]!, steps }];
    off = Math.min(off, Math.abs(countWhole({ ...design, parts }).answer.parts[0]!.strandMm - targetMm));
  };
  knobs.forEach((knob, i) => {
    for (let n = knob.least; n <= knob.most; n++) {
      look(edited(of.text, knob.edits(n)));
      for (const other of knobs.slice(i + 1))
        for (let m = other.least; m <= other.most; m++) look(edited(of.text, [...knob.edits(n), ...other.edits(m)]));
    }
  });
  return { off, tried };
}

{
  const small = ["(2A B) x4 C", "3A (B C) x3", "(A 2D) x3 E", "2A 3B (C A) x2", "(A B) x2 (C D) x3"];
  let [ours, theirs, tried, worse] = [0, 0, 0, 0];
  for (const steps of small) {
    const design = { ...designOf(steps), key: [...KEY.slice(0, 5), WIRE] } as Design;
    const targetMm = countWhole(design).answer.parts[0]!.strandMm + 6.3;
    let best = Infinity;
    ours += ms(() => void (best = Math.abs(waysToLength(design, { part: "p", targetMm })[0]!.offMm)));
    theirs += ms(() => {
      const found = exhaustive(design, targetMm);
      tried += found.tried;
      if (best > found.off + 1e-6) worse++;
    });
  }
  report.line(
    "ways to a length, five small cases",
    `${say(ours)} ms, as close as trying all ${say(tried)} in ${say(theirs)} ms ` +
      `in ${small.length - worse} of ${small.length}`,
    [[worse, 0.5]],
  );
}

{
  const tight = designOf("6A 3B (A C) x20, >26A, >26A, >26A", {});
  const counting = countWhole(tight);
  const [wrong] = checkFit(counting).checks.filter((c) => c.level !== "fine");
  if (!wrong) throw new Error("nothing is wrong in a design that is made to be");
  const times = Array.from({ length: 12 }, () => ms(() => void waysOut(tight, {}, wrong)));
  report.line(
    "ways out of one finding, each tried, in the worker",
    `${say(at(times, 0.5))} / ${say(at(times, 0.95))} ms`,
    [[at(times, 0.95), 200]],
  );
}
process.exitCode = report.missed > 0 ? 1 : 0;
