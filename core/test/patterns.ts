import fc from "fast-check";

/** The rows of such a text as one, without their labels. */
export const inOneRow = (text: string) =>
  text
    .split("\n")
    .map((row) => row.replace(/^(row: |back: )?(behind )?/, ""))
    .join(" ");

const grown = fc.letrec<{ step: string; steps: string; group: string; pattern: string; row: string }>((tie) => ({
  step: fc.oneof(
    { maxDepth: 4, depthIdentifier: "step" },
    fc
      .tuple(fc.integer({ min: 1, max: 9 }), fc.constantFrom("A", "B", "C", "s", "W"))
      .map(([n, k]) => (n === 1 ? k : `${n}${k}`)),
    fc.constantFrom(">A", ">2B", "hang D", "space 4mm", "knot 3mm", "knot 4mm takes 40mm"),
    fc.constantFrom("hang (D | 2B)", "2-4A", "W.2", ">W.2", "hang (2D)", ">(A B) x2"),
    fc.tuple(tie("group"), fc.integer({ min: 1, max: 5 })).map(([g, n]) => `${g} x${n}`),
    fc.tuple(tie("group"), tie("group")).map(([g, b]) => `${g} x3 between ${b}`),
    fc.tuple(tie("group"), tie("group")).map(([g, s]) => `${g} spaced ${s}`),
    tie("group").map((g) => `${g} x2-3 spaced s`),
    fc.tuple(tie("group"), tie("group")).map(([g, m]) => `${g} mirror around ${m}`),
    tie("group").map((g) => `${g} mirror around B`),
    tie("group").map((g) => `loop${g}`),
    fc.tuple(tie("steps"), tie("steps")).map(([a, b]) => `fringe(${a} | ${b})`),
  ),
  steps: fc.array(tie("step"), { minLength: 1, maxLength: 4 }).map((s) => s.join(" ")),
  group: tie("steps").map((s) => `(${s})`),
  row: fc.tuple(fc.constantFrom("", "row: ", "behind ", "back: behind "), tie("steps")).map((r) => r.join("")),
  pattern: fc.array(tie("row"), { minLength: 1, maxLength: 3 }).map((r) => r.join("\n")),
}));

/** Texts of the notation, grown by its grammar; without what can only stand at the top of a row. */
export const { pattern } = grown;

const joined = fc
  .tuple(grown.steps, fc.constantFrom("join C", "join (A 2B)", "join C join A"), grown.steps)
  .map((r) => r.join(" "));
const row = fc.oneof(
  grown.row,
  joined,
  joined.map((j) => `(${j}) mirror around (join C A)`),
);

/** As `pattern`, with joins. */
export const withJoins = fc.array(row, { minLength: 1, maxLength: 3 }).map((r) => r.join("\n"));
