/** Questions about a design that several places of the bench ask. */
import type { Design, Part } from "@jar-count/core/contract";

const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwyz";

/** The first letter that is no key yet; A1, A2 … when all are taken. */
export function freeKey(taken: ReadonlySet<string>): string {
  for (const letter of LETTERS) if (!taken.has(letter)) return letter;
  for (let n = 1; ; n++) if (!taken.has(`A${n}`)) return `A${n}`;
}

export const keysOf = (design: Design) =>
  new Set([...design.key.map((e) => e.key), ...design.parts.flatMap((p) => (p.as ? [p.as] : []))]);

/** Whether two states of a design differ in nothing but the rows of its parts, which is what typing changes. */
export function sameButRows(a: Design, b: Design): boolean {
  return (
    a.name === b.name &&
    a.key === b.key &&
    a.sizes === b.sizes &&
    a.options === b.options &&
    a.uses === b.uses &&
    a.atHand === b.atHand &&
    a.about === b.about &&
    a.minutes === b.minutes &&
    a.parts.length === b.parts.length &&
    a.parts.every((p, i) => sameButSteps(p, b.parts[i]!))
  );
}

export function sameButSteps(a: Part, b: Part): boolean {
  if (a === b) return true;
  const fields = new Set([...Object.keys(a), ...Object.keys(b)]) as Set<keyof Part>;
  return [...fields].every((field) => field === "steps" || a[field] === b[field]);
}
