import fc from "fast-check";

/** Texts of the notation, grown by its grammar. */
export const { pattern } = fc.letrec<{ step: string; steps: string; group: string; pattern: string; row: string }>(
  (tie) => ({
    step: fc.oneof(
      { maxDepth: 4, depthIdentifier: "step" },
      fc
        .tuple(fc.integer({ min: 1, max: 9 }), fc.constantFrom("A", "B", "C", "s"))
        .map(([n, k]) => (n === 1 ? k : `${n}${k}`)),
      fc.constantFrom(">A", ">2B", "hang D", "space 4mm", "knot 3mm", "knot 4mm takes 40mm"),
      fc.tuple(tie("group"), fc.integer({ min: 1, max: 5 })).map(([g, n]) => `${g} x${n}`),
      fc.tuple(tie("group"), tie("group")).map(([g, b]) => `${g} x3 between ${b}`),
      tie("group").map((g) => `${g} mirror around B`),
      tie("group").map((g) => `loop${g}`),
      fc.tuple(tie("steps"), tie("steps")).map(([a, b]) => `fringe(${a} | ${b})`),
    ),
    steps: fc.array(tie("step"), { minLength: 1, maxLength: 4 }).map((s) => s.join(" ")),
    group: tie("steps").map((s) => `(${s})`),
    row: fc.tuple(fc.constantFrom("", "row: "), tie("steps")).map((r) => r.join("")),
    pattern: fc.array(tie("row"), { minLength: 1, maxLength: 3 }).map((r) => r.join("\n")),
  }),
);
