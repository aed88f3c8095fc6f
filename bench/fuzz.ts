/**
 * Counts a million texts of every kind: pieces of the notation thrown together, damaged patterns, and plain noise. None
 * may throw, take longer than a second or answer a number that is none. `npm run fuzz -- 10000 7`: how many, and the
 * seed.
 */
import { Design } from "../core/src/contract/index.ts";
import { countWhole } from "../core/src/count/index.ts";
import { seeded } from "../core/src/weigh/index.ts";
import { appearancesOf, layOut, layWorn } from "../core/src/picture/index.ts";

const [many = 1_000_000, seed = 1] = process.argv.slice(2).map(Number);
const random = seeded(seed);
const below = (n: number) => Math.floor(random() * n);
const PIECES = (
  "( ) { } | > , : # × ½ 0 1 3 99999 99999999999 x x4 x100000 A B s D M S L TH CH SUB Zz " +
  "to length fill between mirror around each hang skip space knot takes loop fringe size behind spaced join " +
  "rest @last @2 .2 W.2 7-8 x1-3 ! " +
  'size{S: 12in 7-1/2in 6mm .5cm 200m 0mm " \n \r\n \u{1d54f} é'
).split(" ");
const WHOLE = [
  "(3A 2B) x4 between (s)",
  "((A) to length fill B, D) mirror around B",
  "each(3A | 2B | s) fringe(A | 3s)",
  "skip 3in, (A, skip 12) x4, hang D, skip to 31in",
  "size{S: A | L: (B) to length fill (A s)}",
  "2M SUB loop(7A) x2 >(A B) x3 space 3B",
  "left: behind (A, (s A s) x3 spaced B) mirror around (join D, hang (D | 2A)) ! sideways",
  "join B, rest SUB, 7-8A, W.2 >W.2@last, join (A B), rest SUB",
  "2A, space to length, (A B) spaced (s 2B) x1-3",
];
const text = (): string => {
  const kind = random();
  if (kind < 0.5)
    return Array.from({ length: 1 + below(40) }, () => PIECES[below(PIECES.length)]).join(random() < 0.5 ? " " : "");
  if (kind < 0.8) {
    const chars = [...Array.from({ length: 1 + below(3) }, () => WHOLE[below(WHOLE.length)]).join("\n")];
    for (let i = below(6); i >= 0; i--) chars.splice(below(chars.length), below(3), PIECES[below(PIECES.length)]!);
    return chars.join("");
  }
  return String.fromCharCode(
    ...Array.from({ length: below(80) }, () => (random() < 0.8 ? 32 + below(95) : below(65536))),
  );
};

const base = {
  format: "jar-count/design" as const,
  version: 2 as const,
  name: "F",
  sizes: [{ key: "S" }, { key: "L" }],
  key: [
    { key: "A", name: "A", kind: "bead" as const, alongMm: 2 },
    { key: "B", name: "B", kind: "bead" as const, alongMm: 3.3 },
    { key: "s", name: "s", kind: "bead" as const, alongMm: 1.41 },
    { key: "W", name: "W", kind: "bead" as const, alongMm: 4, holes: 2 },
    { key: "D", name: "D", kind: "focal" as const, hangsBy: [{ key: "A", count: 1 }] },
    {
      key: "M",
      name: "M",
      kind: "mix" as const,
      mix: [
        { key: "A", share: 0.6 },
        { key: "B", share: 0.4 },
      ],
    },
    { key: "TH", name: "TH", kind: "stringing" as const },
    { key: "CH", name: "CH", kind: "stringing" as const, linkMm: 4, lossLinks: 1 },
  ],
};
const looks = appearancesOf(Design.parse({ ...base, parts: [] }).key);
let slowest = 0;
let slowestText = "";
let clean = 0;
const started = performance.now();
for (let i = 0; i < many; i++) {
  const steps = text();
  const design: Design = {
    ...base,
    parts: [
      { id: "p", name: "P", steps, stringing: i % 2 ? "TH" : "CH", strands: 1 + (i % 3), targetMm: { S: 50, L: 180 } },
      { id: "q", name: "Q", as: "SUB", steps: i % 5 === 0 ? steps : i % 5 === 1 ? "(A) to length" : "A B" },
    ],
  };
  const start = performance.now();
  const counting = countWhole(design, { size: i % 4 < 2 ? "S" : "L" });
  if (i % 20 === 0) layOut(counting, counting.parts[0]!, looks, 500);
  if (i % 20 === 10) layWorn(counting, looks, 500);
  const took = performance.now() - start;
  if (took > slowest) [slowest, slowestText] = [took, steps];
  const { answer } = counting;
  if (answer.problems.length === 0) clean++;
  const numbers = [
    answer.counts,
    answer.lengthsMm,
    ...answer.parts.map((p) => ({ ...p.passes, strand: p.strandMm, path: p.pathMm, links: p.links, hang: p.hangMm })),
  ].flatMap((o) => Object.values(o));
  if (!numbers.every((n) => Number.isFinite(n) && n >= 0))
    throw new Error(`a number that is none, of seed ${seed}, text ${i}: ${JSON.stringify(steps)}`);
}
const seconds = (performance.now() - started) / 1000;
console.log(
  `${many.toLocaleString("en")} texts of seed ${seed} in ${seconds.toFixed(0)} s ` +
    `(${(many / seconds).toFixed(0)} a second): none threw, none answered a number that is none; ` +
    `${clean.toLocaleString("en")} without a problem; the slowest took ${slowest.toFixed(1)} ms: ` +
    `${JSON.stringify(slowestText.slice(0, 120))}`,
);
if (slowest > 1000) process.exitCode = 1;
