import { parsePattern } from "./parse.ts";
import { everyStep, ownPicksOf, type Span } from "./syntax.ts";

/** A place where a text names a key. */
export interface NamedKey extends Span {
  key: string;
  /** Named by `rest`: it takes up what is left. */
  rest: boolean;
}

/** Every place where a part's text names a key, in order. */
export function keysIn(text: string): NamedKey[] {
  const found: NamedKey[] = [];
  for (const row of parsePattern(text).rows)
    everyStep(row, (step) => {
      for (const { key, keyAt } of ownPicksOf(step)) found.push({ key, ...keyAt, rest: false });
      if (step.type === "rest") found.push({ key: step.key, ...step.keyAt, rest: true });
      if (step.type === "fit")
        for (const { key, from, to } of step.fill?.keys ?? []) found.push({ key, from, to, rest: false });
    });
  return found.sort((a, b) => a.from - b.from);
}
