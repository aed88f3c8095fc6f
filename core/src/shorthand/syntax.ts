/** What a pattern says, as a tree. Every node keeps its place in the text, as offsets from its start. */

export interface Span {
  from: number;
  to: number;
}

export type Step =
  | PickStep
  | ({ type: "pass"; step: PickStep | GroupStep; times: Times | null; which: Which | null } & Span)
  | GroupStep
  | ({ type: "repeat"; step: Step; times: Times; between: GroupStep | null; spaced: Spacer | null } & Span)
  | FitStep
  | ({ type: "mirror"; step: GroupStep; around: PickStep | GroupStep | null } & Span)
  | ({ type: "each"; branches: Sequence[] } & Span)
  | ({ type: "fringe"; down: Sequence; turn: Sequence } & Span)
  | ({ type: "loop"; step: GroupStep } & Span)
  | ({ type: "hang"; picks: PickStep[] } & Span)
  | ({ type: "skip"; amount: Amount } & Span)
  | ({ type: "space"; mm: number | null; pick: PickStep | null } & Span)
  | ({ type: "knot"; mm: number; takesMm: number | null } & Span)
  | ({ type: "join"; step: PickStep | GroupStep } & Span)
  | RestStep
  | ({ type: "bysize"; branches: (Sequence & { size: string; sizeAt: Span })[] } & Span);

export type PickStep = {
  type: "pick";
  /** How many; `least` differs where a range is written: 7-8s. */
  n: number;
  least: number;
  key: string;
  keyAt: Span;
  /** Which of the bead's holes is strung, from 1. */
  hole: number;
} & Span;
export type GroupStep = { type: "group"; spaced: Spacer | null } & Sequence;
export type FitStep = {
  type: "fit";
  /** What reaches the length: repeats of a bracket, links of chain, or bare room. */
  of: "repeats" | "links" | "room";
  /** The bracket to repeat; null for links and room. */
  group: GroupStep | null;
  /** Millimetres to reach; null where the part's own target length is meant. */
  toMm: number | null;
  between: GroupStep | null;
  fill: ({ keys: ({ key: string } & Span)[] } & Span) | null;
} & Span;
/** The member that takes up what is left of the part's target. */
export type RestStep = { type: "rest"; key: string; keyAt: Span } & Span;
/** What stands between every two beads of a bracket. */
export type Spacer = PickStep | GroupStep;
/** Which of a part's beads of a key is passed: the second, the last. */
export type Which = number | "first" | "last";

export interface Sequence extends Span {
  steps: Step[];
}
export interface Times extends Span {
  n: number;
  least: number;
}
export type Amount = { links: number } | { mm: number };

export interface Row extends Sequence {
  label: string | null;
  /** Drawn under what is there. */
  behind: boolean;
}

export interface SyntaxProblem extends Span {
  message: string;
}

export interface Pattern {
  text: string;
  rows: Row[];
  /** What stands after # (comments) and ! (notes for the maker), with its sign, in its order. */
  comments: (Span & { text: string })[];
  problems: SyntaxProblem[];
  /** Whether a number in it is a range, 7-8. */
  ranged: boolean;
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
    case "rest":
      return [];
    case "group":
      return [step, ...bracketOf(step.spaced)];
    case "pass":
    case "join":
      return bracketOf(step.step);
    case "repeat": {
      const inner = step.step.type === "group" ? bracketOf(step.step) : sequencesOf(step.step);
      return [...inner, ...bracketOf(step.between), ...bracketOf(step.spaced)];
    }
    case "fit":
      return [...bracketOf(step.group), ...bracketOf(step.between)];
    case "mirror":
      return [...bracketOf(step.step), ...bracketOf(step.around)];
    case "loop":
      return bracketOf(step.step);
    case "each":
    case "bysize":
      return step.branches;
    case "fringe":
      return [step.down, step.turn];
    default:
      return unreachable(step);
  }
}

/** A bracket and the bracket between its beads, where it is one. */
function bracketOf(step: PickStep | GroupStep | null): readonly Sequence[] {
  return step?.type === "group" ? [step, ...bracketOf(step.spaced)] : [];
}

/** The picks that a step names itself, beside those of the sequences under it. */
export function ownPicksOf(step: Step): readonly PickStep[] {
  const pickOf = (x: PickStep | GroupStep | null): readonly PickStep[] =>
    x === null ? [] : x.type === "pick" ? [x] : pickOf(x.spaced);
  switch (step.type) {
    case "pick":
      return [step];
    case "hang":
      return step.picks;
    case "pass":
    case "join":
    case "loop":
      return pickOf(step.step);
    case "group":
      return pickOf(step.spaced);
    case "repeat":
      return [...ownPicksOf(step.step), ...pickOf(step.between), ...pickOf(step.spaced)];
    case "fit":
      return [...pickOf(step.group), ...pickOf(step.between)];
    case "mirror":
      return [...pickOf(step.step), ...pickOf(step.around)];
    case "space":
      return step.pick ? [step.pick] : [];
    case "each":
    case "bysize":
    case "fringe":
    case "skip":
    case "knot":
    case "rest":
      return [];
    default:
      return unreachable(step);
  }
}

/** Goes through every step of a sequence, outer ones first. */
export function everyStep(sequence: Sequence, visit: (step: Step) => void) {
  for (const step of sequence.steps) {
    visit(step);
    for (const inner of sequencesOf(step)) everyStep(inner, visit);
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
  "behind",
  "rest",
  "spaced",
  "join",
] as const;

/** The words that version 1 of the design file had no use for: there they may be keys. */
export const NEW_WORDS: readonly string[] = ["behind", "rest", "spaced", "knot", "takes", "join"];

const KEY = /^\p{L}[\p{L}0-9_]*$/u;

/** Says what is wrong with a key, or null for a usable one. */
export function keyFault(key: string): string | null {
  if (!KEY.test(key)) return "A key is a letter followed by letters, digits or _.";
  const isWord = (RESERVED as readonly string[]).includes(key);
  if (isWord) return `“${key}” is a word of the shorthand; choose another key.`;
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
