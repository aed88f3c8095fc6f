/** Four short worked lessons, each done on a copy of its own: nothing of it is kept unless one says so. */
import { type Design, DESIGN_VERSION, type KeyEntry, type Part } from "@jar-count/core/contract";
import { count } from "@jar-count/core/count";

export interface LessonStep {
  /** What to do, in a sentence or two. */
  say: string;
  /** What is typed, where it is typed. */
  type?: string;
  /** Whether it is done. */
  done: (design: Design) => boolean;
}

export interface Lesson {
  id: string;
  title: string;
  about: string;
  start: Design;
  steps: readonly LessonStep[];
}

const design = (name: string, key: KeyEntry[], parts: Part[], more: Partial<Design> = {}): Design => ({
  format: "jar-count/design",
  version: DESIGN_VERSION,
  name,
  key,
  parts,
  ...more,
});
const countsOf = (d: Design, size: string | null = null) => count(d, { size: size ?? d.sizes?.[0]?.key ?? null });
const has = (d: Design, key: string, n: number) => (countsOf(d).counts[key] ?? 0) === n;
const rowsOf = (d: Design, part = 0) => d.parts[part]?.steps ?? "";
const says = (d: Design, what: RegExp, part = 0) => what.test(rowsOf(d, part));

export const LESSONS: readonly Lesson[] = [
  {
    id: "stretch-bracelet",
    title: "A stretch bracelet that fits",
    about: "Rows, repeats, and as many of them as a wrist takes.",
    start: design(
      "Lesson: a stretch bracelet",
      [
        { key: "A", name: "8 mm round, honey", kind: "bead", shape: "round", alongMm: 8, holeMm: 1 },
        { key: "B", name: "4 mm rondelle, smoke", kind: "bead", shape: "rondelle", alongMm: 3, acrossMm: 4, holeMm: 1 },
        { key: "C", name: "0.8 mm stretch cord", kind: "stringing", diameterMm: 0.8 },
      ],
      [{ id: "band", name: "Band", steps: "", stringing: null }],
    ),
    steps: [
      {
        say: "Click into the rows and write one of each: a number, then the bead’s letter. One needs no number.",
        type: "2A B",
        done: (d) => (countsOf(d).counts["A"] ?? 0) > 0 && (countsOf(d).counts["B"] ?? 0) > 0,
      },
      {
        say: "Put brackets round them and say how often. The count follows at the right while you type.",
        type: "(2A B) x6",
        // It stays done when a later step writes it otherwise.
        done: (d) => says(d, /[x×]\s*\d|to\s+length/) && (countsOf(d).counts["A"] ?? 0) > 2,
      },
      {
        say: "Say what it is strung on: under the rows, “Strung on”, choose C. Now there is a cord to cut.",
        done: (d) => d.parts[0]?.stringing === "C",
      },
      {
        say: "Give the band a target length: 7 1/2 in, or 190 mm, under the rows.",
        done: (d) => typeof d.parts[0]?.targetMm === "number",
      },
      {
        say: "Let it find its own number: write “to length” in place of “x6”, and fill what is left with B.",
        type: "(2A B) to length fill B",
        done: (d) => says(d, /to\s+length/) && (countsOf(d).counts["A"] ?? 0) > 0,
      },
      {
        say: "A stretch cord needs ends to tie. Give each tail 4 in, and look what “to cut” says.",
        done: (d) => (d.parts[0]?.tailMm ?? 0) > 0,
      },
    ],
  },
  {
    id: "bent-wire-earring",
    title: "An earring on one bent wire",
    about: "A pair, a fixed cut, and a wire that passes through beads again.",
    start: design(
      "Lesson: a bent-wire earring",
      [
        { key: "F", name: "10 mm felt ball, red", kind: "bead", shape: "round", alongMm: 10, finish: "matt" },
        { key: "Q", name: "6 mm cube, teal", kind: "bead", shape: "cube", alongMm: 6 },
        { key: "R", name: "6 mm rondelle, amber", kind: "bead", shape: "rondelle", alongMm: 4, acrossMm: 6 },
        { key: "T", name: "2 x 2 mm crimp tube", kind: "finding", form: "crimp tube", alongMm: 2 },
        { key: "E", name: "ear wire", kind: "finding", form: "ear wire" },
        { key: "W", name: "beading wire .019 in", kind: "stringing", form: "beading wire", diameterMm: 0.48 },
      ],
      [{ id: "drop", name: "Drop", steps: "", makes: 1, stringing: "W" }],
    ),
    steps: [
      {
        say:
          "Write the wire from one end to the other: a cube, the ball in the middle, a cube. A mirror turns a side " +
          "round for you.",
        type: "(Q) mirror around F",
        done: (d) => has(d, "F", d.parts[0]?.makes ?? 1) && has(d, "Q", 2 * (d.parts[0]?.makes ?? 1)),
      },
      {
        say: "Both ends cross in one rondelle: string it once, and let the other end pass through it with >.",
        type: "(Q) mirror around F R >R",
        done: (d) => says(d, />\s*R/) && has(d, "R", d.parts[0]?.makes ?? 1),
      },
      {
        say: "Both go through one crimp tube, and one loops back: strung once, passed twice.",
        type: "(Q) mirror around F R >R T >2T",
        done: (d) => says(d, />\s*2T|>\s*T.*>\s*T/) && has(d, "T", d.parts[0]?.makes ?? 1),
      },
      {
        say: "The wire is cut 9 in long however far it runs: under “This part’s strands”, length of each cut.",
        done: (d) => d.parts[0]?.cutMm != null,
      },
      {
        say: "The ear wire is in no row: in the same place, “findings that no row names”, add E.",
        done: (d) => (d.parts[0]?.uses ?? []).some((u) => u.key === "E") || says(d, /\bE\b/),
      },
      {
        say: "A pair is two: an item needs 2 of this part. Everything at the right doubles.",
        done: (d) => d.parts[0]?.makes === 2,
      },
    ],
  },
  {
    id: "unlike-strands",
    title: "A braid of unlike strands",
    about: "Several strands side by side, each with its own beads.",
    start: design(
      "Lesson: a braid",
      [
        { key: "A", name: "8/0 seed, moss", kind: "bead", shape: "seed", alongMm: 1.95, acrossMm: 3 },
        { key: "B", name: "4 mm cube, rust", kind: "bead", shape: "cube", alongMm: 4 },
        { key: "C", name: "8 mm cord end", kind: "finding", form: "end cap", alongMm: 8 },
        { key: "W", name: "1 mm cord, sand", kind: "stringing", form: "cord", diameterMm: 1 },
      ],
      [{ id: "braid", name: "Braid", steps: "", stringing: "W" }],
    ),
    steps: [
      {
        say: "Three strands side by side: under “This part’s strands, thread, cuts”, strands 3.",
        done: (d) => d.parts[0]?.strands === 3,
      },
      {
        say: "What stands plainly sits on all strands at once: a cord end at the beginning.",
        type: "C",
        done: (d) => has(d, "C", 1) || has(d, "C", 2),
      },
      {
        say: "Each strand on its own: each( ), with | between the strands. One may have other beads.",
        type: "C each(20A | 20A | 10B)",
        done: (d) => says(d, /each\s*\([^)]*\|[^)]*\|/),
      },
      {
        say: "All meet again in the second cord end.",
        type: "C each(20A | 20A | 10B) C",
        done: (d) => has(d, "C", 2),
      },
      {
        say:
          "Braiding makes it shorter. In the same place say that it comes out at, say, 80 % of its strands: " +
          "“finished, % of the strand”.",
        done: (d) => (d.parts[0]?.finishedRatio ?? 1) < 1,
      },
    ],
  },
  {
    id: "charm-row",
    title: "A charm row on chain",
    about: "Chain by its links, what hangs from it, and dangles made apart.",
    start: design(
      "Lesson: a charm row",
      [
        { key: "C", name: "6 mm round, plum", kind: "bead", shape: "round", alongMm: 6 },
        { key: "L", name: "leaf charm, brass", kind: "focal", shape: "leaf", alongMm: 12, acrossMm: 7 },
        { key: "P", name: "head pin 40", kind: "finding", form: "head pin", lengthMm: 40 },
        { key: "J", name: "5 mm jump ring", kind: "finding", form: "jump ring", alongMm: 5 },
        { key: "K", name: "3 mm chain, brass", kind: "stringing", form: "chain", linkMm: 3 },
      ],
      [
        { id: "row", name: "Row", steps: "", stringing: "K" },
        { id: "dangle", name: "Dangle", as: "D", steps: "C", uses: [{ key: "P", count: 1 }] },
      ],
    ),
    steps: [
      {
        say: "Some links, then a charm that hangs, then links: skip counts links and hang takes no room.",
        type: "skip 2 hang L skip 2",
        done: (d) => says(d, /skip/) && says(d, /hang\s+L/),
      },
      {
        say: "A dangle on its pin is a part of its own with the letter D: hang it in the same way.",
        type: "skip 2 hang L skip 2 hang D",
        done: (d) => says(d, /hang\s+\(?.*D/) && (countsOf(d).counts["P"] ?? 0) > 0,
      },
      {
        say: "Repeat the two of them, and end with the links that are left.",
        type: "(skip 2 hang L skip 2 hang D) x5 skip 2",
        done: (d) => says(d, /x\s*\d/) && (countsOf(d).counts["L"] ?? 0) > 1,
      },
      {
        say: "The leaf hangs by a jump ring: open L at the right, “L hangs by”, J. Rings are counted from now on.",
        done: (d) => (countsOf(d).counts["J"] ?? 0) > 0,
      },
    ],
  },
];

export const lessonOf = (id: string | undefined): Lesson | undefined => LESSONS.find((l) => l.id === id);
