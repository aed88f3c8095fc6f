/** How fast the core counts, each figure beside a baseline from the same run. One Node thread. */
import { readdirSync, readFileSync } from "node:fs";
import { HyperFormula } from "hyperformula";
import { billOf } from "../core/src/bom/index.ts";
import { type BoxDetail, Design } from "../core/src/contract/index.ts";
import { count } from "../core/src/count/index.ts";
import { seeded } from "../core/src/weigh/index.ts";
import { makeReport } from "./report.mjs";

const root = new URL("../../", import.meta.url);
const ms = (work: () => void) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const report = makeReport();
const at = (list: number[], share: number) =>
  [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))]!;
const median = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const say = (n: number, places = 1) => n.toLocaleString("en", { maximumFractionDigits: places });

/**
 * Texts of picks, brackets, repeats and mirrors, each another one: what the notation is mostly used for, and what can
 * be counted without it.
 */
function texts(many: number, seed: number): string[] {
  const random = seeded(seed);
  const int = (from: number, to: number) => from + Math.floor(random() * (to - from + 1));
  const pick = () => `${int(1, 9)}${"ABCDEF"[int(0, 5)]}`;
  const picks = () => Array.from({ length: int(2, 5) }, pick).join(" ");
  const step = () => {
    const kind = int(0, 3);
    if (kind === 0) return picks();
    if (kind === 1) return `(${picks()}) x${int(2, 20)}`;
    if (kind === 2) return `(${picks()}) mirror`;
    return `((${picks()}) x${int(2, 4)} ${pick()}) x${int(2, 6)}`;
  };
  return Array.from({ length: many }, () =>
    Array.from({ length: 6 }, () => Array.from({ length: 4 }, step).join(" ")).join("\n"),
  );
}

/** Counts such a text without a grammar: brackets are written out from the inside by replacing text, then counted. */
function writtenOut(text: string): Map<string, number> {
  let flat = text;
  for (let before = ""; flat !== before;) {
    before = flat;
    flat = flat
      .replace(/\(([^()]*)\) x(\d+)/g, (_, inner: string, n: string) => `${inner} `.repeat(Number(n)))
      .replace(/\(([^()]*)\) mirror/g, (_, inner: string) => `${inner} ${inner}`);
  }
  const counts = new Map<string, number>();
  for (const [, n, key] of flat.matchAll(/(\d+)([A-F])/g)) counts.set(key!, (counts.get(key!) ?? 0) + Number(n));
  return counts;
}

const LETTERS = [..."ABCDEF"].map((key) => ({ key, name: key, kind: "bead" as const, alongMm: 2 }));
const designOf = (steps: string): Design => ({
  format: "jar-count/design",
  version: 1,
  name: "bench",
  key: LETTERS,
  parts: [{ id: "p", name: "Piece", steps }],
});

/** Texts never seen before, each counted once: what opening a design costs. And the same ones again. */
function designsASecond() {
  const many = 2000;
  texts(300, 1).forEach((text) => count(designOf(text))); // warm, with other texts
  const list = texts(many, 2);
  const designs = list.map(designOf);
  const cold = designs.map((design) => ms(() => count(design)));
  const inAll = cold.reduce((a, b) => a + b, 0);
  const again = ms(() => designs.forEach((design) => count(design)));
  const baseline = ms(() => list.forEach(writtenOut));
  for (const [i, text] of list.entries()) {
    const [ours, theirs] = [count(designs[i]!).counts, Object.fromEntries(writtenOut(text))];
    if (Object.keys(ours).some((key) => ours[key] !== theirs[key])) throw new Error(`two counts differ of ${text}`);
  }
  const rate = (took: number) => (many / took) * 1000;
  report.line(
    "a text never seen, of 24 steps",
    `${say(rate(inAll), 0)} a second, median ${say(median(cold), 2)} ms, p95 ${say(at(cold, 0.95), 2)} ms`,
    [[at(cold, 0.95), 8]],
  );
  report.note(`the same again: ${say(rate(again), 0)} a second`);
  report.note(
    `baseline, brackets written out by replacing text and counted, without problems, lengths or places: ` +
      `${say(rate(baseline), 0)} a second`,
  );
  const folder = new URL("core/test/examples/", root);
  const worked = readdirSync(folder).map((f) => {
    const { design, answers } = JSON.parse(readFileSync(new URL(f, folder), "utf8"));
    return { text: JSON.stringify(design), ...answers[0] } as { text: string; size: string; option: string };
  });
  // Read anew each time, as a file that comes in is.
  const times = worked.map(({ text, ...asked }) =>
    median(Array.from({ length: 15 }, () => ms(() => count(Design.parse(JSON.parse(text)), asked)))),
  );
  const checked = worked.map(({ text }) =>
    median(Array.from({ length: 15 }, () => ms(() => Design.parse(JSON.parse(text))))),
  );
  report.note(
    `the ${worked.length} worked designs, read from their files, checked and counted: median ` +
      `${say(median(times), 2)} ms (read and checked alone: ${say(median(checked), 2)} ms)`,
  );
}

/** Three roles that are repeated together; how long a component is; how long a group of a design is strung. */
const groupOf = (r: number) => `${1 + (r % 3)}K${4 * r} 2K${4 * r + 1} K${4 * r + 2}`;
const alongOf = (c: number) => 2 + (c % 13) * 0.5;
const lengthOf = (d: number) => 150 + 20 * d;

const [BOXES, DESIGNS, WAYS, ROLES] = [12, 5, 14, 40];
const id = (...parts: (string | number)[]) => parts.join("-");

/**
 * A year of boxes. `sized`: the components of each colourway have their own length along the thread, and each group of
 * roles is strung to a length, so that every colourway comes out in other numbers.
 */
function yearOfBoxes(sized = false): BoxDetail[] {
  return Array.from({ length: BOXES }, (_, b): BoxDetail => {
    const designs = Array.from({ length: DESIGNS }, (_, d) =>
      Design.parse({
        format: "jar-count/design",
        version: 1,
        name: id("design", b, d),
        key: Array.from({ length: ROLES }, (_, r) => ({
          key: `K${r}`,
          name: `role ${r}`,
          kind: "bead",
          alongMm: 1 + (r % 7) * 0.7,
        })),
        parts: sized
          ? Array.from({ length: ROLES / 4 }, (_, r) => [
              { id: `p${r}`, name: `Part ${r}`, steps: `(${groupOf(r)}) to ${lengthOf(d)}mm` },
              { id: `q${r}`, name: `Ends ${r}`, steps: `2K${4 * r + 3}` },
            ]).flat()
          : [
              {
                id: "p",
                name: "Part",
                steps: Array.from(
                  { length: ROLES / 4 },
                  (_, r) => `row ${r}: (${groupOf(r)}) x${3 + d} 2K${4 * r + 3}`,
                ).join("\n"),
              },
            ],
      }),
    );
    const colourways = Array.from({ length: WAYS }, (_, w) => ({ id: id("way", b, w), name: `way ${w}` }));
    const roles = Array.from({ length: ROLES }, (_, r) => ({
      id: id("role", b, r),
      name: `role ${r}`,
      kind: "bead" as const,
      follows: "first" as const,
    }));
    const component = (w: number, r: number) => id("c", b, (w * 3 + r) % 120);
    return {
      box: {
        id: id("box", b),
        version: 1,
        month: "2027-01",
        theme: id("box", b),
        seconds: [],
        colourways,
        roles,
        lines: designs.map((_, d) => ({
          id: id("line", b, d),
          designId: id("design", b, d),
          revision: 1,
          times: 1,
          size: null,
          option: null,
        })),
        variants: colourways.map((c) => ({ first: c.id, second: null, boxes: 50 })),
        bindings: designs.flatMap((_, d) =>
          roles.map((role, r) => ({ line: id("line", b, d), role: `K${r}`, boxRole: role.id })),
        ),
        picks: colourways.flatMap((c, w) =>
          roles.map((role, r) => ({ boxRole: role.id, first: c.id, second: null, component: component(w, r) })),
        ),
      },
      designs: designs.map((design, d) => ({ designId: id("design", b, d), revision: 1, newest: 1, design })),
      ruler: "in" as const,
      components: Array.from({ length: 120 }, (_, c) => ({
        id: id("c", b, c),
        code: id("c", b, c),
        name: id("c", b, c),
        kind: "bead" as const,
        colour: "#888888",
        finish: "matt" as const,
        baseUnit: "piece" as const,
        ...(sized ? { alongMm: alongOf(c) } : {}),
        cautions: [],
        notes: "",
        offers: [],
        version: 1,
        onHand: 1000,
        u: 0,
        spokenFor: 0,
        onTheWay: 0,
        averageCost: null,
        lastCost: null,
        moved: true,
      })),
    };
  });
}

function yearsPlan() {
  const year = yearOfBoxes();
  year.forEach((b) => billOf(b)); // warm
  // Every time a year of new designs, so that nothing counted before is found again.
  const full = median(Array.from({ length: 5 }, yearOfBoxes).map((fresh) => ms(() => fresh.forEach((b) => billOf(b)))));
  // One change: a row of one design is written anew, and its box is counted and summed again in every colourway.
  let turn = 0;
  const change = median(
    Array.from({ length: 9 }, () => {
      const box = year[0]!;
      const { design, ...pinned } = box.designs[0]!;
      const steps = design.parts[0]!.steps!.replace(/x\d+/, `x${10 + ++turn}`);
      const changed = {
        ...box,
        designs: [
          { ...pinned, design: { ...design, parts: [{ ...design.parts[0]!, steps }] } },
          ...box.designs.slice(1),
        ],
      };
      return ms(() => billOf(changed));
    }),
  );

  // The same bill as a workbook: a sheet a box, a line for each design's role with its repeats and count by formula,
  // and a table of components by colourways, each cell the sum over the lines times the boxes.
  const workbook = Object.fromEntries(
    year.map((detail, b) => {
      const lines = detail.designs.flatMap(({ design }, d) =>
        design.key.map((_, r) => {
          const row = d * ROLES + r + 1;
          const inRow = r % 4;
          const each = inRow === 0 ? 1 + (Math.floor(r / 4) % 3) : inRow === 2 ? 1 : 2;
          const ways = Array.from({ length: WAYS }, (_, w) => `c-${b}-${(w * 3 + r) % 120}`);
          return [each, inRow === 3 ? 1 : 3 + d, `=A${row}*B${row}`, ...ways];
        }),
      );
      const used = Array.from({ length: 120 }, (_, c) => [
        `c-${b}-${c}`,
        ...Array.from({ length: WAYS }, (_, w) => {
          const [way, last] = [column(3 + w), lines.length];
          return `=SUMIF(${way}$1:${way}$${last},$A${last + 1 + c},$C$1:$C$${last})*50`;
        }),
      ]);
      return [`Box${b}`, [...lines, ...used]];
    }),
  );
  let engine!: HyperFormula;
  const load = ms(() => (engine = HyperFormula.buildFromSheets(workbook, { licenseKey: "gpl-v3" })));
  const cell = median(
    Array.from({ length: 9 }, (_, i) => ms(() => engine.setCellContents({ sheet: 0, row: 0, col: 1 }, [[10 + i]]))),
  );

  // Both must say the same before their times mean anything.
  engine.setCellContents({ sheet: 0, row: 0, col: 1 }, [[3]]);
  const ours = billOf(year[0]!).variants[0]!.needs.reduce((sum, n) => sum + n.run, 0);
  let theirs = 0;
  for (let c = 0; c < 120; c++) theirs += Number(engine.getCellValue({ sheet: 0, row: DESIGNS * ROLES + c, col: 1 }));
  if (ours !== theirs) throw new Error(`the two bills differ: ${ours} and ${theirs}`);
  report.note(
    `a year's plan (${BOXES} boxes × ${DESIGNS} designs × ${WAYS} colourways × ${ROLES} roles), equal bills:`,
  );
  report.note(`  in full: ${say(full)} ms; baseline, a spreadsheet engine's load: ${say(load)} ms`);
  report.line("a year's plan after one change", `${say(change)} ms; baseline, the engine's one cell: ${say(cell)} ms`, [
    [change, 20],
  ]);
}

/** The same year where every colourway's beads have their own length and groups are strung to a length. */
function yearsPlanInSizes() {
  yearOfBoxes(true).forEach((b) => billOf(b));
  const full = median(
    Array.from({ length: 3 }, () => yearOfBoxes(true)).map((fresh) => ms(() => fresh.forEach((b) => billOf(b)))),
  );
  // As a workbook: lengths in a column, and each count from the repeats that fit, by formula.
  const year = yearOfBoxes(true);
  const workbook = Object.fromEntries(
    year.map((_, b) => {
      const lengths = Array.from({ length: 120 }, (_, c) => [alongOf(c)]);
      const cellOf = (w: number, r: number) => `$A$${1 + ((w * 3 + r) % 120)}`;
      const lines = Array.from({ length: DESIGNS * ROLES }, (_, row) => {
        const [d, r] = [Math.floor(row / ROLES), row % ROLES];
        const first = r - (r % 4);
        return Array.from({ length: WAYS }, (_, w) => {
          if (r % 4 === 3) return 2;
          const each = [1 + (Math.floor(r / 4) % 3), 2, 1];
          const mm = [0, 1, 2].map((i) => `${each[i]}*${cellOf(w, first + i)}`).join("+");
          return `=${each[r % 4]}*INT((${lengthOf(d)}+0.000001)/(${mm}))`;
        });
      });
      return [
        `Box${b}`,
        [...lengths.map((l, i) => [...l, ...(lines[i] ?? [])]), ...lines.slice(120).map((l) => [null, ...l])],
      ];
    }),
  );
  let engine!: HyperFormula;
  const load = ms(() => (engine = HyperFormula.buildFromSheets(workbook, { licenseKey: "gpl-v3" })));
  const ours = billOf(year[0]!).variants[1]!.needs.reduce((sum, n) => sum + n.run, 0);
  let theirs = 0;
  for (let row = 0; row < DESIGNS * ROLES; row++) {
    theirs += 50 * Number(engine.getCellValue({ sheet: 0, row, col: 2 }));
  }
  if (ours !== theirs) throw new Error(`the two bills in sizes differ: ${ours} and ${theirs}`);
  report.line(
    "a year's plan whose beads differ in length from colourway to colourway, in full",
    `${say(full)} ms; baseline, a spreadsheet engine's load of the counts alone: ${say(load)} ms`,
    [[full, 2000]],
  );
}

/** Whether a bill gets dearer by a step where it has more variants than a round number. */
function moreVariants() {
  const box = yearOfBoxes(true)[0]!;
  const withWays = (many: number): BoxDetail => {
    const colourways = Array.from({ length: many }, (_, w) => ({ id: id("more", w), name: `way ${w}` }));
    return {
      ...box,
      designs: box.designs.map((d) => ({ ...d, design: { ...d.design } })),
      box: {
        ...box.box,
        colourways,
        variants: colourways.map((c) => ({ first: c.id, second: null, boxes: 50 })),
        picks: colourways.flatMap((c, w) =>
          box.box.roles.map((role, r) => ({
            boxRole: role.id,
            first: c.id,
            second: null,
            component: id("c", 0, (w * 7 + r) % 120),
          })),
        ),
      },
    };
  };
  const aVariant = (many: number) => {
    const detail = withWays(many);
    billOf(detail);
    // Once more with all of them counted before, as after any change of a number.
    return median(Array.from({ length: 7 }, () => ms(() => billOf(detail)))) / many;
  };
  const [few, atHundred, beyond, far] = [50, 100, 101, 400].map(aVariant) as [number, number, number, number];
  report.line(
    "the 101st variant of a bill counted again, a variant beside that of 50",
    `50: ${say(few, 3)} ms a variant, 100: ${say(atHundred, 3)}, 101: ${say(beyond, 3)}, 400: ${say(far, 3)}`,
    [
      [beyond / few, 2],
      [far / few, 2],
    ],
  );
}

const column = (i: number): string =>
  i < 26 ? String.fromCharCode(65 + i) : column(Math.floor(i / 26) - 1) + column(i % 26);

designsASecond();
yearsPlan();
yearsPlanInSizes();
moreVariants();
if (report.missed > 0) process.exitCode = 1;
