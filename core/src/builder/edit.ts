import {
  ownPicksOf,
  parsePattern,
  type PickStep,
  type Row,
  type Sequence,
  sequencesOf,
  type Span,
  type Step,
} from "../shorthand/index.ts";

/**
 * One written bead: the pick that it stands in, by where that begins in the text, and which of its beads it is, from
 * 0.
 */
export interface BeadAt {
  at: number;
  nth: number;
}

/** The result of an edit: the new text and the stretch in it that was worked on; or why it can't be done. */
export type Edited = { text: string; from: number; to: number } | { fault: string };

interface Found {
  /** The steps of one sequence from the first to the last that is touched. */
  steps: Step[];
  /** Beads of the first pick that stand before the stretch, and of the last that stand after it. */
  before: number;
  after: number;
}

/** The way down to the pick at an offset: each sequence with the step of it that leads on, the innermost last. */
function wayTo(sequence: Sequence, at: number): { sequence: Sequence; step: Step }[] | null {
  for (const step of sequence.steps) {
    if (at < step.from || at >= step.to) continue;
    for (const child of sequencesOf(step)) {
      const way = wayTo(child, at);
      if (way) return [{ sequence, step }, ...way];
    }
    return [{ sequence, step }];
  }
  return null;
}

/** The stretch between two written beads: widened to whole steps of the innermost sequence that holds both. */
function stretch(text: string, a: BeadAt, b: BeadAt): Found | { fault: string } {
  const rows: Row[] = parsePattern(text).rows;
  const rowOf = (x: BeadAt) => rows.findIndex((r) => x.at >= r.from && x.at < r.to);
  const [first, last] = a.at < b.at || (a.at === b.at && a.nth <= b.nth) ? [a, b] : [b, a];
  const row = rowOf(first);
  if (row < 0 || rowOf(last) < 0) return { fault: "Choose beads on the strand first." };
  if (row !== rowOf(last)) return { fault: "A stretch lies within one row. Choose beads of one row." };
  const [from, to] = [wayTo(rows[row]!, first.at), wayTo(rows[row]!, last.at)];
  if (!from || !to) return { fault: "Choose beads on the strand first." };
  let depth = 0;
  while (
    depth + 1 < Math.min(from.length, to.length) &&
    from[depth]!.step === to[depth]!.step &&
    from[depth + 1]!.sequence === to[depth + 1]!.sequence
  )
    depth++;
  const { sequence } = from[depth]!;
  const [i, j] = [sequence.steps.indexOf(from[depth]!.step), sequence.steps.indexOf(to[depth]!.step)];
  const steps = sequence.steps.slice(Math.min(i, j), Math.max(i, j) + 1);
  const [head, tail] = [steps[0]!, steps.at(-1)!];
  return {
    steps,
    before: head.type === "pick" && head.from === first.at ? first.nth : 0,
    after: tail.type === "pick" && tail.from === last.at ? Math.max(0, tail.n - 1 - last.nth) : 0,
  };
}

/** A number of a written pick's beads, through the hole that it says. */
const sayPick = (n: number, { key, hole }: Pick<PickStep, "key" | "hole">) =>
  `${n === 1 ? "" : n}${key}${hole === 1 ? "" : `.${hole}`}`;

/** The stretch as text of its own, and what stays before and after it of picks that are cut in two. */
function cutOut(
  text: string,
  { steps, before, after }: Found,
): { span: Span; head: string; middle: string; tail: string } {
  const [first, last] = [steps[0]!, steps.at(-1)!];
  const span = { from: first.from, to: last.to };
  const head = before > 0 ? sayPick(before, first as PickStep) : "";
  const tail = after > 0 ? sayPick(after, last as PickStep) : "";
  if (first === last && first.type === "pick")
    return {
      span,
      head,
      tail,
      middle: before + after === 0 ? text.slice(first.from, first.to) : sayPick(first.n - before - after, first),
    };
  if (first === last) return { span, head, tail, middle: text.slice(first.from, first.to) };
  const opening =
    before > 0 ? sayPick((first as PickStep).n - before, first as PickStep) : text.slice(first.from, first.to);
  const closing = after > 0 ? sayPick((last as PickStep).n - after, last as PickStep) : text.slice(last.from, last.to);
  return { span, head, tail, middle: `${opening}${text.slice(first.to, last.from)}${closing}` };
}

const join = (...parts: string[]) => parts.filter(Boolean).join(" ");

function wrapped(
  text: string,
  a: BeadAt,
  b: BeadAt,
  wrap: (middle: string, found: Found) => string | { fault: string },
): Edited {
  const found = stretch(text, a, b);
  if ("fault" in found) return found;
  const { span, head, middle, tail } = cutOut(text, found);
  const put = wrap(middle, found);
  if (typeof put !== "string") return put;
  const from = span.from + (head ? head.length + 1 : 0);
  return { text: text.slice(0, span.from) + join(head, put, tail) + text.slice(span.to), from, to: from + put.length };
}

/** Whether a text is one bracket already, so that a second one round it says nothing. */
const onlyGroup = ({ steps, before, after }: Found) =>
  steps.length === 1 && steps[0]!.type === "group" && before === 0 && after === 0;
const bracketed = (middle: string, found: Found) => (onlyGroup(found) ? middle : `(${middle})`);

export const repeatStretch = (text: string, a: BeadAt, b: BeadAt, n: number) =>
  wrapped(text, a, b, (m, f) => `${bracketed(m, f)} x${n}`);
export const mirrorStretch = (text: string, a: BeadAt, b: BeadAt) =>
  wrapped(text, a, b, (m, f) => `${bracketed(m, f)} mirror`);
/** A repeat takes what stands between its beads itself; anything else goes into a bracket of its own. */
export const spacedStretch = (text: string, a: BeadAt, b: BeadAt, by: string) =>
  wrapped(text, a, b, (m, f) => {
    const [only] = f.steps;
    const bare = f.steps.length === 1 && (only!.type === "repeat" || only!.type === "group") && only!.spaced === null;
    return `${bare ? m : `(${m})`} spaced ${by}`;
  });
export const loopStretch = (text: string, a: BeadAt, b: BeadAt) =>
  wrapped(text, a, b, (m, f) => `loop${bracketed(m, f)}`);
/**
 * The thread goes through the stretch once more: the pass stands at the end of its row, and the beads stay where they
 * are strung. Of a single bead it says which one, where the text tells.
 */
export function passStretch(text: string, a: BeadAt, b: BeadAt): Edited {
  const found = stretch(text, a, b);
  if ("fault" in found) return found;
  const [first, last] = a.at < b.at || (a.at === b.at && a.nth <= b.nth) ? [a, b] : [b, a];
  const { rows } = parsePattern(text);
  const row = rows.find((r) => first.at >= r.from && first.at < r.to)!;
  if ([first, last].some((x) => wayTo(row, x.at)!.some(({ step }) => step.type === "pass")))
    return { fault: "The thread only passes through here. Choose beads where they are strung, and it goes on there." };
  const { middle } = cutOut(text, found);
  const [only] = found.steps;
  const single = found.steps.length === 1 && only!.type === "pick";
  const one = single && (only as PickStep).n - found.before - found.after === 1;
  const which = one ? whichBead(rows, only as PickStep, found.before) : "";
  const what = `>${single ? middle.replace(/^\d+\s*-\s*/, "") : bracketed(middle, found)}${which}`;
  const end = row.steps.at(-1)!.to;
  return { text: `${text.slice(0, end)} ${what}${text.slice(end)}`, from: end + 1, to: end + 1 + what.length };
}

/** `@2` for the second bead of its key in the part; nothing where it is the only one or the text does not tell. */
function whichBead(rows: readonly Row[], pick: PickStep, before: number): string {
  let [place, all, plain] = [0, 0, true];
  const visit = (sequence: Sequence, once: boolean): void =>
    sequence.steps.forEach((step) => {
      if (step.type === "pass") return;
      if (step.type === "pick" && step.key === pick.key) {
        if (!once || step.least !== step.n) plain = false;
        if (step.from === pick.from) place = all + before + 1;
        all += step.n;
      } else if (step.type !== "pick" && ownPicksOf(step).some((p) => p.key === pick.key)) plain = false;
      sequencesOf(step).forEach((s) => visit(s, once && step.type === "group"));
    });
  rows.forEach((r) => visit(r, true));
  if (!plain || all < 2) return "";
  return place === all ? "@last" : `@${place}`;
}

export const bySizeStretch = (text: string, a: BeadAt, b: BeadAt, sizes: readonly string[]) =>
  sizes.length === 0
    ? { fault: "The design has one size only. Add sizes first, below." }
    : wrapped(text, a, b, (m) => `size{${sizes.map((s) => `${s}: ${m}`).join(" | ")}}`);
export const removeStretch = (text: string, a: BeadAt, b: BeadAt): Edited => tidied(wrapped(text, a, b, () => ""));

/** Down through the stretch, round its last bead, back up. */
export const fringeStretch = (text: string, a: BeadAt, b: BeadAt): Edited =>
  wrapped(text, a, b, (middle, { steps, before, after }) => {
    const last = steps.at(-1)!;
    if (last.type !== "pick")
      return { fault: "A fringe turns round its last bead: end the stretch with a single bead." };
    const n = last.n - after - (steps.length === 1 ? before : 0);
    const upTo =
      steps.length === 1
        ? ""
        : middle.slice(
            0,
            middle.length -
              (after > 0 ? sayPick(last.n - after, last) : middle.slice(middle.length - (last.to - last.from))).length,
          );
    const down = join(upTo.replace(/[\s,]+$/, ""), n > 1 ? sayPick(n - 1, last) : "");
    return `fringe(${down} | ${sayPick(1, last)})`;
  });

/** A gap left by taking something out is closed: no two spaces, no comma before nothing. */
function tidied(edited: Edited): Edited {
  if ("fault" in edited) return edited;
  const { text, from } = edited;
  const before = /(?:,?[ \t]+|,)$/.exec(text.slice(0, from))?.[0] ?? "";
  const after = /^[ \t]*,?[ \t]*/.exec(text.slice(from))?.[0] ?? "";
  const [left, right] = [text.slice(0, from - before.length), text.slice(from + after.length)];
  if (right.startsWith("#"))
    return { text: left + (after.replace(",", "") || " ") + right, from: left.length, to: left.length };
  const atEdge = left === "" || /[\n(|:{]$/.test(left) || right === "" || /^[\n)|}]/.test(right);
  const gap = atEdge
    ? /:$/.test(left) && right !== "" && !/^\n/.test(right)
      ? " "
      : ""
    : before.includes(",") || after.includes(",")
      ? ", "
      : " ";
  return { text: left + gap + right, from: left.length + gap.length, to: left.length + gap.length };
}

/**
 * Puts something before or after a written bead, or at the end where none is named: a bead beside one of its own kind
 * makes that one more, anything else stands as a step of its own.
 */
export function insertBeside(text: string, bead: BeadAt | null, side: "before" | "after", what: string): Edited {
  const key = /^(\d*)(\p{L}[\p{L}0-9_]*)$/u.exec(what);
  if (!bead) {
    const rows = parsePattern(text).rows;
    const last = rows.at(-1);
    const end = last ? (last.steps.at(-1)?.to ?? last.to) : text.length;
    const step = last?.steps.at(-1);
    const hung = besideHung(text, step, what, "after");
    if (hung) return hung;
    if (key && step?.type === "pick" && step.key === key[2]) return setPick(text, step, step.n + Number(key[1] || 1));
    const gap = end === 0 || /[\s]$/.test(text.slice(0, end)) ? "" : " ";
    return {
      text: text.slice(0, end) + gap + what + text.slice(end),
      from: end + gap.length,
      to: end + gap.length + what.length,
    };
  }
  const row = parsePattern(text).rows.find((r) => bead.at >= r.from && bead.at < r.to);
  const way = row && wayTo(row, bead.at);
  const last = way?.at(-1);
  if (!last) return { fault: "Choose a bead on the strand first." };
  const { step, sequence } = last;
  const hung = besideHung(text, step, what, side);
  if (hung) return hung;
  if (step.type !== "pick")
    return splice(text, side === "before" ? step.from : step.to, side === "before" ? `${what} ` : ` ${what}`);
  if (key && key[2] === step.key) return setPick(text, step, step.n + Number(key[1] || 1));
  // Between two beads of one pick: it is cut in two.
  const left = side === "before" ? bead.nth : bead.nth + 1;
  if (left > 0 && left < step.n) {
    const [a, b] = [sayPick(left, step), sayPick(step.n - left, step)];
    return {
      text: text.slice(0, step.from) + join(a, what, b) + text.slice(step.to),
      from: step.from + a.length + 1,
      to: step.from + a.length + 1 + what.length,
    };
  }
  const next = sequence.steps[sequence.steps.indexOf(step) + (side === "before" ? -1 : 1)];
  if (key && next?.type === "pick" && next.key === key[2]) return setPick(text, next, next.n + Number(key[1] || 1));
  return splice(text, side === "before" ? step.from : step.to, side === "before" ? `${what} ` : ` ${what}`);
}

/** Something to hang beside what hangs there already, from the same place; null where either is no hang. */
function besideHung(text: string, step: Step | undefined, what: string, side: "before" | "after"): Edited | null {
  const [only, ...others] = parsePattern(what).rows[0]?.steps ?? [];
  if (step?.type !== "hang" || only?.type !== "hang" || others.length > 0) return null;
  const hung = (from: string, picks: readonly PickStep[]) => picks.map((p) => from.slice(p.from, p.to));
  const [beside, there] = [hung(what, only.picks), hung(text, step.picks)];
  const put = `hang (${(side === "before" ? [...beside, ...there] : [...there, ...beside]).join(" | ")})`;
  return { text: text.slice(0, step.from) + put + text.slice(step.to), from: step.from, to: step.from + put.length };
}

function splice(text: string, at: number, put: string): Edited {
  const from = at + (put.startsWith(" ") ? 1 : 0);
  return { text: text.slice(0, at) + put + text.slice(at), from, to: from + put.trim().length };
}

function setPick(text: string, step: PickStep, n: number): Edited {
  const put = sayPick(n, step);
  return { text: text.slice(0, step.from) + put + text.slice(step.to), from: step.from, to: step.from + put.length };
}

/** Sets how many a written pick, or the repeat that stands at an offset, is: 0 takes a pick out. */
export function setCount(text: string, bead: BeadAt, n: number): Edited {
  const row = parsePattern(text).rows.find((r) => bead.at >= r.from && bead.at < r.to);
  const step = row && wayTo(row, bead.at)?.at(-1)?.step;
  if (step?.type !== "pick") return { fault: "Choose a bead on the strand first." };
  return n === 0
    ? removeStretch(text, { at: step.from, nth: 0 }, { at: step.from, nth: step.n - 1 })
    : setPick(text, step, n);
}

/** Moves a stretch to stand before or after another written bead, which must not lie in it. */
export function moveStretch(text: string, a: BeadAt, b: BeadAt, target: BeadAt, side: "before" | "after"): Edited {
  const found = stretch(text, a, b);
  if ("fault" in found) return found;
  const { span, head, middle, tail } = cutOut(text, found);
  if (target.at >= span.from && target.at < span.to) return { fault: "It is there already." };
  const what = found.steps.length === 1 && found.steps[0]!.type === "pick" ? middle : middle.trim();
  // The later place first, so that the offsets of the earlier one still hold.
  const rest = join(head, tail);
  const cut = (from: string): Edited =>
    rest
      ? { text: from.slice(0, span.from) + rest + from.slice(span.to), from: span.from, to: span.from + rest.length }
      : removeAt(from, span);
  if (target.at > span.from) {
    const put = insertBeside(text, target, side, what);
    if ("fault" in put) return put;
    const taken = cut(put.text);
    if ("fault" in taken) return taken;
    const shift = taken.text.length - put.text.length;
    return { text: taken.text, from: put.from + shift, to: put.to + shift };
  }
  const taken = cut(text);
  return "fault" in taken ? taken : insertBeside(taken.text, target, side, what);
}

const removeAt = (text: string, span: Span): Edited =>
  tidied({ text: text.slice(0, span.from) + text.slice(span.to), from: span.from, to: span.from });

/** The row a place stands in, written once more under itself. */
export function copyRow(text: string, at: number): Edited {
  const row = parsePattern(text).rows.find((r) => at >= r.from && at <= r.to) ?? parsePattern(text).rows.at(-1);
  if (!row) return { fault: "There is no row to copy yet." };
  const start = text.lastIndexOf("\n", row.from - 1) + 1;
  const end = text.indexOf("\n", row.to) < 0 ? text.length : text.indexOf("\n", row.to);
  const line = text.slice(start, end);
  return { text: `${text.slice(0, end)}\n${line}${text.slice(end)}`, from: end + 1, to: end + 1 + line.length };
}

/** The first and the last written bead that stand between two offsets; null where none does. */
export function beadsBetween(text: string, from: number, to: number): { first: BeadAt; last: BeadAt } | null {
  const picks: PickStep[] = [];
  const visit = (s: Sequence): void =>
    s.steps.forEach((step) => {
      if (step.to <= from || step.from >= to) return;
      if (step.type === "pick" && step.n > 0) picks.push(step);
      else sequencesOf(step).forEach(visit);
    });
  parsePattern(text).rows.forEach(visit);
  const [first, last] = [picks[0], picks.at(-1)];
  return first && last ? { first: { at: first.from, nth: 0 }, last: { at: last.from, nth: last.n - 1 } } : null;
}

/** Whether a bead at a place lies between two others, both included. */
export const between = (x: BeadAt, a: BeadAt, b: BeadAt) => {
  const order = (p: BeadAt, q: BeadAt) => p.at - q.at || p.nth - q.nth;
  const [low, high] = order(a, b) <= 0 ? [a, b] : [b, a];
  return order(x, low) >= 0 && order(x, high) <= 0;
};

/** How many beads a stretch writes, key by key in its order, for saying what is chosen; null where none is. */
export function describeStretch(text: string, a: BeadAt, b: BeadAt): { text: string; from: number; to: number } | null {
  const found = stretch(text, a, b);
  if ("fault" in found) return null;
  const { span, middle } = cutOut(text, found);
  return { text: middle.replace(/\s+/g, " "), from: span.from, to: span.to };
}
