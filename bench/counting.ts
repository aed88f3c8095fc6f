/** How fast the core counts, each figure beside a baseline from the same run. One Node thread. */
import { readdirSync, readFileSync } from "node:fs";
import { HyperFormula } from "hyperformula";
import { billOf } from "../core/src/bom/index.ts";
import { type BoxDetail, Design } from "../core/src/contract/index.ts";
import { count, countWhole, type Strung } from "../core/src/count/index.ts";

const root = new URL("../../", import.meta.url);
const ms = (work: () => void) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const median = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const say = (n: number, places = 1) => n.toLocaleString("en", { maximumFractionDigits: places });

function designsASecond() {
  const folder = new URL("core/test/examples/", root);
  const designs = readdirSync(folder).map((f) => {
    const { design, answers } = JSON.parse(readFileSync(new URL(f, folder), "utf8"));
    return { design: Design.parse(design), size: answers[0].size, option: answers[0].option };
  });
  // The baseline writes every repeat out and counts bead by bead, as one would on paper.
  const unroll = (node: Strung, out: string[]): void => {
    switch (node.type) {
      case "bead":
        for (let i = 0; i < node.n; i++) out.push(node.key);
        return;
      case "hang":
        out.push(node.key);
        return;
      case "series":
        node.items.forEach((i) => unroll(i, out));
        return;
      case "times":
        for (let i = 0; i < node.n; i++) {
          unroll(node.item, out);
          if (node.between && i > 0) unroll(node.between, out);
        }
        return;
      case "mirror":
        unroll(node.item, out);
        if (node.around) unroll(node.around, out);
        unroll(node.item, out);
        return;
      case "each":
        for (let s = 0; s < node.strands; s++) unroll(node.branches[s % node.branches.length]!, out);
        return;
      case "fringe":
        unroll(node.down, out);
        unroll(node.turn, out);
        return;
      case "loop":
        unroll(node.item, out);
        return;
    }
  };
  const rate = (work: (d: (typeof designs)[number]) => void) => {
    let n = 0;
    const end = performance.now() + 1500;
    while (performance.now() < end)
      for (const d of designs) {
        work(d);
        n++;
      }
    return n / 1.5;
  };
  const all = (d: (typeof designs)[number]) => count(d.design, d);
  const byHand = (d: (typeof designs)[number]) => {
    const whole = countWhole(d.design, d);
    const counts = new Map<string, number>();
    for (const { part, whole: strung } of whole.parts) {
      const beads: string[] = [];
      for (let i = 0; i < (part.makes ?? 1) * 100; i++) unroll(strung, beads);
      for (const key of beads) counts.set(key, (counts.get(key) ?? 0) + 1);
    }
  };
  designs.forEach(all);
  console.log(
    `designs counted a second: ${say(rate(all), 0)} (baseline, 100 items each written out bead by bead: ` +
      `${say(rate(byHand), 0)})`,
  );
}

const [BOXES, DESIGNS, WAYS, ROLES] = [12, 5, 14, 40];
const id = (...parts: (string | number)[]) => parts.join("-");

function yearOfBoxes(): BoxDetail[] {
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
        parts: [
          {
            id: "p",
            name: "Part",
            steps: Array.from(
              { length: ROLES / 4 },
              (_, r) => `row ${r}: (${1 + (r % 3)}K${4 * r} 2K${4 * r + 1} K${4 * r + 2}) x${3 + d} 2K${4 * r + 3}`,
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
      components: Array.from({ length: 120 }, (_, c) => ({
        id: id("c", b, c),
        code: id("c", b, c),
        name: id("c", b, c),
        kind: "bead" as const,
        colour: "#888888",
        finish: "matt" as const,
        baseUnit: "piece" as const,
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
        ...Array.from(
          { length: WAYS },
          (_, w) =>
            `=SUMIF(${column(3 + w)}$1:${column(3 + w)}$${lines.length},$A${lines.length + 1 + c},$C$1:$C$${lines.length})*50`,
        ),
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
  console.log(
    `a year's plan (${BOXES} boxes × ${DESIGNS} designs × ${WAYS} colourways × ${ROLES} roles), equal bills:`,
  );
  console.log(`  in full: ${say(full)} ms (spreadsheet engine's load: ${say(load)} ms, ${say(load / full)} times)`);
  console.log(
    `  after one change: ${say(change)} ms (spreadsheet engine's one cell: ${say(cell)} ms, ` +
      `${say(cell / change)} times)`,
  );
}

const column = (i: number): string =>
  i < 26 ? String.fromCharCode(65 + i) : column(Math.floor(i / 26) - 1) + column(i % 26);

designsASecond();
yearsPlan();
