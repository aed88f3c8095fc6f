import type { Design } from "../contract/index.ts";
import { everyStep, parsePattern } from "../shorthand/index.ts";

const found = new WeakMap<Design, ReadonlySet<string>>();

/** The keys that close a gap (`fill`) somewhere in a design: the beads that make its size come out. */
export function closingKeys(design: Design): ReadonlySet<string> {
  const known = found.get(design);
  if (known) return known;
  const keys = new Set<string>();
  for (const { steps } of design.parts) {
    if (!steps?.includes("fill")) continue;
    for (const row of parsePattern(steps).rows) {
      everyStep(row, (step) => {
        if (step.type === "fit") for (const { key } of step.fill?.keys ?? []) keys.add(key);
      });
    }
  }
  found.set(design, keys);
  return keys;
}
