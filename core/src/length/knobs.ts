/** What of a part's text can be turned to change its length: numbers, closing beads, another spacer. */
import {
  type FitStep,
  parsePattern,
  type Pattern,
  type PickStep,
  type Sequence,
  type Spacer,
  type Step,
  unreachable,
} from "../shorthand/index.ts";
import { type Counting, childrenOf, type Strung, type StrungPartOf } from "../count/index.ts";

/** A number in the text, or beads that close the row: turned up or down by whole steps. */
export interface Knob {
  /** Which: a place in the text, or a key at the ends. */
  id: string;
  /** What the number is now: 0 of closing beads that are not there yet. */
  now: number;
  least: number;
  most: number;
  say: (n: number) => string;
  /** The stretch of the text that it multiplies: what lies in it adds up with it. Null for closing beads. */
  over: { from: number; to: number } | null;
  /** Replaces stretches of the text. */
  edits: (n: number) => Edit[];
}

export interface Edit {
  from: number;
  to: number;
  text: string;
}

/** A text with edits made, which don't overlap. */
export const edited = (text: string, edits: readonly Edit[]) =>
  [...edits]
    .sort((a, b) => b.from - a.from || b.to - a.to)
    .reduce((t, e) => t.slice(0, e.from) + e.text + t.slice(e.to), text);

/** The lengths that a text is made of, as one counting found them. */
export interface Lengths {
  text: string;
  pattern: Pattern;
  size: string | null;
  along: ReadonlyMap<string, number>;
  linkMm: number | null;
}

export function lengthsIn(counting: Counting, { pattern, whole, part }: StrungPartOf): Lengths {
  const along = new Map<string, number>();
  const visit = (node: Strung) => {
    if (node.type === "bead") along.set(node.key, node.alongMm);
    childrenOf(node).forEach(visit);
  };
  visit(whole);
  for (const [key, role] of counting.roles)
    if (!along.has(key) && role.type === "plain" && role.alongMm !== null) along.set(key, role.alongMm);
  const role = part.stringing == null ? undefined : counting.roles.get(part.stringing);
  const linkMm = role?.type === "stringing" ? role.linkMm : null;
  return { text: pattern.text, pattern, size: counting.answer.size, along, linkMm };
}

/** Another text of the same part. */
export const withText = (of: Lengths, text: string): Lengths => ({ ...of, text, pattern: parsePattern(text) });

interface Extent {
  mm: number;
  /** Beads on the strand: what stands between every two of them is counted by it. */
  units: number;
}
const NONE: Extent = { mm: 0, units: 0 };
const plus = (a: Extent, b: Extent): Extent => ({ mm: a.mm + b.mm, units: a.units + b.units });

/**
 * How long a text comes out with some of its numbers turned, mm: the count's own rules for lengths, on the tree of the
 * text. Texts that reach for a length are not measured so: null.
 * @param turned by where a number's step begins in the text: what it is instead
 */
export function measure(of: Lengths, turned: ReadonlyMap<number, number>): number | null {
  const { mm, reaches } = extentOf(of.pattern.rows, of, turned);
  return reaches ? null : mm;
}

/** How long sequences come out one after the other, mm, and how many beads stand on the strand in them. */
export function extentOf(
  sequences: readonly Sequence[],
  of: Pick<Lengths, "along" | "linkMm" | "size">,
  turned: ReadonlyMap<number, number> = new Map(),
): Extent & { reaches: boolean } {
  let reaches = false;
  const sequence = ({ steps }: Sequence): Extent => steps.map(step).reduce(plus, NONE);
  const bracket = (s: Spacer | null): Extent =>
    s === null ? NONE : s.type === "pick" ? pick(s) : spaced(sequence(s), s.spaced);
  const pick = (p: PickStep): Extent => {
    const n = turned.get(p.from) ?? p.n;
    return { mm: n * (of.along.get(p.key) ?? 0), units: n };
  };
  const spaced = (item: Extent, s: Spacer | null): Extent => {
    const gaps = s === null ? 0 : Math.max(item.units - 1, 0);
    if (gaps === 0) return item;
    const one = bracket(s);
    return { mm: item.mm + gaps * one.mm, units: item.units + gaps * one.units };
  };
  const step = (s: Step): Extent => {
    switch (s.type) {
      case "pick":
        return pick(s);
      case "group":
        return spaced(sequence(s), s.spaced);
      case "repeat": {
        const n = turned.get(s.times.from) ?? s.times.n;
        const item = step(s.step);
        const gap = s.between ? sequence(s.between) : NONE;
        const gaps = Math.max(n - 1, 0);
        return spaced({ mm: n * item.mm + gaps * gap.mm, units: n * item.units + gaps * gap.units }, s.spaced);
      }
      case "mirror": {
        const half = spaced(sequence(s.step), s.step.spaced);
        return plus(plus(half, half), bracket(s.around));
      }
      case "each": {
        const branches = s.branches.map(sequence);
        return {
          mm: Math.max(0, ...branches.map((b) => b.mm)),
          units: branches.some((b) => b.units > 0) ? 1 : 0,
        };
      }
      case "hang":
        return { mm: of.linkMm ?? 0, units: 0 };
      case "join": {
        const picks = s.step.type === "pick" ? [s.step] : s.step.steps.filter((x) => x.type === "pick");
        return { mm: picks.reduce((sum, p) => sum + pick(p).mm, 0), units: 0 };
      }
      case "skip": {
        const link = of.linkMm ?? 0;
        const links =
          "links" in s.amount ? (turned.get(s.from) ?? s.amount.links) : Math.ceil(s.amount.mm / (link || 1) - 1e-6);
        return { mm: links * link, units: 0 };
      }
      case "space":
        return { mm: s.pick ? s.pick.n * (of.along.get(s.pick.key) ?? 0) : (s.mm ?? 0), units: 0 };
      case "knot":
        return { mm: s.mm, units: 0 };
      case "bysize": {
        const branch = s.branches.find((b) => b.size === of.size);
        return branch ? sequence(branch) : NONE;
      }
      case "fit":
      case "rest":
        reaches = true;
        return NONE;
      case "fringe":
      case "loop":
      case "pass":
        return NONE;
      default:
        return unreachable(s);
    }
  };
  return { ...sequences.map(sequence).reduce(plus, NONE), reaches };
}

/** The step of a part that reaches for its length in this size. */
export function fitIn(of: Lengths): FitStep | null {
  let found: FitStep | null = null;
  const visit = (steps: readonly Step[]) => {
    for (const s of steps) {
      if (s.type === "fit") found ??= s;
      if (s.type === "mirror") visit(s.step.steps);
      if (s.type === "bysize") visit(s.branches.find((b) => b.size === of.size)?.steps ?? []);
    }
  };
  of.pattern.rows.forEach((row) => visit(row.steps));
  return found;
}

/** How far a number is turned at the most. */
const TURN = { repeat: 40, pick: 5, links: 30, closing: 6 };

/** The numbers on the strand that can be turned: those of this size, and none that is a range. */
export function numbersOf(of: Lengths): Knob[] {
  const knobs: Knob[] = [];
  const number = (
    at: { from: number; to: number },
    now: number,
    most: number,
    put: (n: number) => string,
    say: Knob["say"],
    over: { from: number; to: number } = at,
  ) =>
    knobs.push({
      over,
      id: `${at.from}`,
      now,
      least: Math.max(1, now - most),
      most: now + most,
      say,
      edits: (n) => [{ ...at, text: put(n) }],
    });
  const pick = (p: PickStep, joined = false) => {
    if (p.n !== p.least || p.n === 0) return;
    const hole = p.hole === 1 ? "" : `.${p.hole}`;
    number(
      { from: p.from, to: p.keyAt.to + hole.length },
      p.n,
      TURN.pick,
      (n) => `${n === 1 ? "" : n}${p.key}${hole}`,
      (n) => (joined ? `link in ${n} ${p.key} instead of ${p.n}` : `pick up ${n} ${p.key} instead of ${p.n}`),
    );
  };
  const picksIn = (s: Spacer | null) => (s === null ? undefined : s.type === "pick" ? pick(s) : visit(s.steps));
  const visit = (steps: readonly Step[]): void => {
    for (const s of steps) {
      if (s.type === "pick") pick(s);
      else if (s.type === "group") {
        visit(s.steps);
        picksIn(s.spaced);
      } else if (s.type === "repeat") {
        if (s.times.n === s.times.least)
          number(
            s.times,
            s.times.n,
            TURN.repeat,
            (n) => `x${n}`,
            (n) => `repeat ${n === 1 ? "once" : `${n} times`} instead of ${s.times.n}`,
            s,
          );
        visit([s.step]);
        if (s.between) visit(s.between.steps);
        picksIn(s.spaced);
      } else if (s.type === "mirror") {
        visit(s.step.steps);
        picksIn(s.step.spaced);
        picksIn(s.around);
      } else if (s.type === "each" && s.branches.length === 1) visit(s.branches[0]!.steps);
      else if (s.type === "join") {
        const picks = s.step.type === "pick" ? [s.step] : s.step.steps.filter((x) => x.type === "pick");
        picks.forEach((p) => pick(p, true));
      } else if (s.type === "skip" && "links" in s.amount) {
        const { links } = s.amount;
        number(
          s,
          links,
          TURN.links,
          (n) => `skip ${n}`,
          (n) => `skip ${n} links instead of ${links}`,
        );
      } else if (s.type === "bysize") visit(s.branches.find((b) => b.size === of.size)?.steps ?? []);
    }
  };
  of.pattern.rows.forEach((row) => visit(row.steps));
  return knobs;
}

/** What stands before the beads at an end, and closes it: closing beads go inside. */
const isClosing = (step: Step, findings: ReadonlySet<string>) =>
  step.type === "space" ||
  step.type === "knot" ||
  step.type === "join" ||
  (step.type === "pick" && findings.has(step.key));

/** Where closing beads go, so that both sides stay equal: once inside a mirror, else at both ends of the strand. */
export function endsOf(of: Lengths, findings: ReadonlySet<string>): { at: number[]; copies: number } | null {
  const rows = of.pattern.rows.filter((r) => r.steps.length > 0);
  if (rows.length === 0) return null;
  const inside = (steps: readonly Step[], back: boolean): number | null => {
    const order = back ? [...steps].reverse() : steps;
    const first = order.find((s) => !isClosing(s, findings));
    return first ? (back ? first.to : first.from) : null;
  };
  const [only] = rows[0]!.steps;
  if (rows.length === 1 && rows[0]!.steps.length === 1 && only?.type === "mirror") {
    const at = inside(only.step.steps, false);
    return at === null ? null : { at: [at], copies: 2 };
  }
  const [first, last] = [inside(rows[0]!.steps, false), inside(rows.at(-1)!.steps, true)];
  return first === null || last === null ? null : { at: [first, last], copies: 2 };
}

/** Closing beads of one key at both ends. */
export function closingOf(key: string, ends: { at: number[] }): Knob {
  return {
    id: `ends ${key}`,
    over: null,
    now: 0,
    least: 0,
    most: TURN.closing,
    say: (n) => `add ${n} ${key} at each end`,
    edits: (n) =>
      n === 0 ? [] : ends.at.map((at, i) => ({ from: at, to: at, text: i === 0 ? `${n}${key} ` : ` ${n}${key}` })),
  };
}
