import { readdirSync, readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { Archive } from "../src/contract/index.ts";
import { parsePattern } from "../src/shorthand/index.ts";

test("the demo's eight designs use every construct of the notation together", () => {
  const folder = new URL("../../demo/designs/", import.meta.url);
  const used = new Set<string>();
  const visit = (value: unknown): void => {
    if (typeof value !== "object" || value === null) return;
    const step = value as Record<string, unknown>;
    if (typeof step.type === "string") used.add(step.type);
    if (step.between) used.add("between");
    if (step.fill) used.add("fill");
    if (step.around) used.add("around");
    if (step.type === "fit" && step.group === null) used.add("skip to");
    if (step.type === "fit" && step.toMm === null) used.add("to length");
    if (step.type === "each" && (step.branches as unknown[]).length > 1) used.add("each in branches");
    Object.values(step).forEach(visit);
  };
  for (const file of readdirSync(folder)) {
    const { revisions } = Archive.shape.designs.element.parse(JSON.parse(readFileSync(new URL(file, folder), "utf8")));
    for (const part of revisions.at(-1)!.design.parts) {
      const pattern = parsePattern(part.steps ?? "");
      expect(pattern.problems).toEqual([]);
      visit(pattern.rows);
    }
  }
  const all = [
    "pick",
    "pass",
    "group",
    "repeat",
    "between",
    "fit",
    "fill",
    "skip to",
    "to length",
    "mirror",
    "around",
    "each",
    "each in branches",
    "fringe",
    "loop",
    "hang",
    "skip",
    "space",
    "bysize",
  ];
  expect([...used]).toEqual(expect.arrayContaining(all));
});
