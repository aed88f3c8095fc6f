/** What a pattern says, as a tree. Every node keeps its place in the text, as offsets from its start. */

export interface Span {
  from: number;
  to: number;
}

export type Step =
  | ({ type: "pick"; n: number; key: string } & Span)
  | ({ type: "pass"; step: PickStep | GroupStep; times: number } & Span)
  | GroupStep
  | ({ type: "repeat"; step: Step; times: Times; between: GroupStep | null } & Span)
  | FitStep
  | ({ type: "mirror"; step: GroupStep; around: PickStep | null } & Span)
  | ({ type: "each"; branches: Sequence[] } & Span)
  | ({ type: "fringe"; down: Sequence; turn: Sequence } & Span)
  | ({ type: "loop"; step: GroupStep } & Span)
  | ({ type: "hang"; key: string } & Span)
  | ({ type: "skip"; amount: Amount } & Span)
  | ({ type: "space"; mm: number | null; pick: PickStep | null } & Span)
  | ({ type: "knot"; mm: number; takesMm: number | null } & Span)
  | ({ type: "bysize"; branches: (Sequence & { size: string; sizeAt: Span })[] } & Span);

export type PickStep = Extract<Step, { type: "pick" }>;
export type GroupStep = { type: "group" } & Sequence;
export type FitStep = {
  type: "fit";
  /** The group to repeat; null where links of chain are skipped. */
  group: GroupStep | null;
  /** Millimetres to reach; null where the part's own target length is meant. */
  toMm: number | null;
  between: GroupStep | null;
  fill: ({ keys: ({ key: string } & Span)[] } & Span) | null;
} & Span;

export interface Sequence extends Span {
  steps: Step[];
}
export interface Times extends Span {
  n: number;
}
export type Amount = { links: number } | { mm: number };

export interface Row extends Sequence {
  label: string | null;
}

export interface SyntaxProblem extends Span {
  message: string;
}

export interface Pattern {
  text: string;
  rows: Row[];
  /** Notes after #, with their sign, in their order. */
  comments: (Span & { text: string })[];
  problems: SyntaxProblem[];
}

/** Marks a case that cannot be: a new kind that is not dealt with there is an error of the types. */
export function unreachable(what: never): never {
  throw new Error(`Not dealt with: ${JSON.stringify(what)}`);
}

/** The sequences directly under a step, in order: how one goes down from any step, whatever its kind. */
export function sequencesOf(step: Step): readonly Sequence[] {
  switch (step.type) {
    case "pick":
    case "hang":
    case "skip":
    case "space":
    case "knot":
      return [];
    case "group":
      return [step];
    case "pass":
      return step.step.type === "group" ? [step.step] : [];
    case "repeat": {
      const inner = step.step.type === "group" ? [step.step] : sequencesOf(step.step);
      return step.between ? [...inner, step.between] : inner;
    }
    case "fit":
      return [...(step.group ? [step.group] : []), ...(step.between ? [step.between] : [])];
    case "mirror":
    case "loop":
      return [step.step];
    case "each":
    case "bysize":
      return step.branches;
    case "fringe":
      return [step.down, step.turn];
    default:
      return unreachable(step);
  }
}

/** Reserved words of the shorthand: none of them can be a key. */
export const RESERVED = [
  "to",
  "length",
  "fill",
  "between",
  "mirror",
  "around",
  "each",
  "hang",
  "skip",
  "space",
  "knot",
  "takes",
  "loop",
  "fringe",
  "size",
] as const;

const KEY = /^\p{L}[\p{L}0-9_]*$/u;

/** Says what is wrong with a key, or null for a usable one. */
export function keyFault(key: string): string | null {
  if (!KEY.test(key)) return "A key is a letter followed by letters, digits or _.";
  if ((RESERVED as readonly string[]).includes(key)) return `“${key}” is a word of the shorthand; choose another key.`;
  if (/^x[0-9]*$/.test(key)) return `“${key}” reads as “times”; choose another key.`;
  return key.length > 40 ? "A key has at most 40 characters." : null;
}

/** Where an offset lies: rows count from 1, columns from 0, on the line as typed. */
export function placeOf(text: string, span: Span): { row: number; from: number; to: number } {
  let row = 1;
  let start = 0;
  for (let i = text.indexOf("\n"); i >= 0 && i < span.from; i = text.indexOf("\n", i + 1)) {
    row++;
    start = i + 1;
  }
  let end = text.indexOf("\n", start);
  if (end < 0) end = text.length;
  const from = Math.min(span.from, end) - start;
  return { row, from, to: Math.max(Math.min(span.to, end) - start, from) };
}
