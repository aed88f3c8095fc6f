import { parsePattern } from "./parse.ts";
import type { GroupStep, PickStep, Sequence, Span, Spacer, Step, Times } from "./syntax.ts";

/**
 * Writes a part's text in its canonical form: one row a line, single spaces, no commas, repeats as `x4`. Labels, notes
 * and lengths stay as they were typed. A text with an error in it is left as it is, so that nothing half-typed is lost.
 */
export function formatPattern(text: string): string {
  const pattern = parsePattern(text);
  if (pattern.problems.length > 0) return text;
  const lines: string[] = [];
  const notes = [...pattern.comments];
  const notesBefore = (end: number) =>
    notes.splice(
      0,
      notes.findIndex((n) => n.from >= end) === -1 ? notes.length : notes.findIndex((n) => n.from >= end),
    );
  for (const row of pattern.rows) {
    for (const note of notesBefore(row.from)) lines.push(note.text);
    const lineEnd = text.indexOf("\n", row.to);
    const own = notesBefore(lineEnd < 0 ? text.length + 1 : lineEnd).map((n) => n.text);
    const said = (sign: string) =>
      own
        .filter((n) => n.startsWith(sign))
        .map((n) => n.replace(/^[#!]\s*/, ""))
        .join("; ");
    const [comment, forMaker] = [said("#"), said("!")];
    // Either runs to the end of its line, so only one of them can stand behind a row.
    if (comment && forMaker) lines.push(`# ${comment}`);
    const end = forMaker ? `  ! ${forMaker}` : comment ? `  # ${comment}` : "";
    const label = row.label === null ? "" : `${row.label}: `;
    lines.push(`${label}${row.behind ? "behind " : ""}${sequence(row, text)}${end}`.trim());
  }
  for (const note of notes) lines.push(note.text);
  return lines.join("\n");
}

const sequence = ({ steps }: Sequence, text: string): string => steps.map((step) => write(step, text)).join(" ");
const group = (g: GroupStep, text: string) => `(${sequence(g, text)})${spaced(g.spaced, text)}`;
const range = ({ n, least }: { n: number; least: number }) => (least === n ? `${n}` : `${least}-${n}`);
const pick = (p: PickStep) =>
  `${p.n === 1 && p.least === 1 ? "" : range(p)}${p.key}${p.hole === 1 ? "" : `.${p.hole}`}`;
const pickOrGroup = (step: PickStep | GroupStep, text: string) =>
  step.type === "pick" ? pick(step) : group(step, text);
const between = (b: GroupStep | null, text: string) => (b ? ` between ${group(b, text)}` : "");
const spaced = (s: Spacer | null, text: string): string => (s ? ` spaced ${pickOrGroup(s, text)}` : "");
const times = (t: Times | null) => (t === null ? "" : ` x${range(t)}`);

function write(step: Step, text: string): string {
  switch (step.type) {
    case "pick":
      return pick(step);
    case "group":
      return group(step, text);
    case "pass":
      return `>${pickOrGroup(step.step, text)}${step.which === null ? "" : `@${step.which}`}${times(step.times)}`;
    case "repeat":
      return `${write(step.step, text)}${times(step.times)}${between(step.between, text)}${spaced(step.spaced, text)}`;
    case "fit": {
      const to = step.toMm === null ? "length" : lengthIn(step, text, /\bto\s+/);
      const keys = step.fill?.keys.map((k) => k.key) ?? [];
      const fill = keys.length === 0 ? "" : ` fill ${keys.length === 1 ? keys[0]! : `(${keys.join(" ")})`}`;
      const what = step.group ? group(step.group, text) : step.of === "room" ? "space" : "skip";
      return `${what} to ${to}${between(step.between, text)}${fill}`;
    }
    case "mirror":
      return `${group(step.step, text)} mirror${step.around ? ` around ${pickOrGroup(step.around, text)}` : ""}`;
    case "each":
      return `each(${step.branches.map((b) => sequence(b, text)).join(" | ")})`;
    case "fringe":
      return `fringe(${sequence(step.down, text)} | ${sequence(step.turn, text)})`;
    case "loop":
      return `loop${group(step.step, text)}`;
    case "hang":
      return step.picks.length === 1 && pick(step.picks[0]!) === step.picks[0]!.key
        ? `hang ${step.picks[0]!.key}`
        : `hang (${step.picks.map(pick).join(" | ")})`;
    case "join":
      return `join ${pickOrGroup(step.step, text)}`;
    case "rest":
      return `rest ${step.key}`;
    case "skip":
      return "links" in step.amount ? `skip ${step.amount.links}` : `skip ${lengthIn(step, text, /^skip\s*/)}`;
    case "space":
      return step.pick ? `space ${pick(step.pick)}` : `space ${lengthIn(step, text, /^space\s*/)}`;
    case "knot": {
      const takes = step.takesMm === null ? "" : ` takes ${lengthIn(step, text, /\btakes\s*/)}`;
      return `knot ${lengthIn(step, text, /^knot\s*/)}${takes}`;
    }
    case "bysize":
      return `size{${step.branches.map((b) => `${b.size}: ${sequence(b, text)}`.trim()).join(" | ")}}`;
  }
}

const LENGTH = /^(?:\d+[ -]\d+\/\d+|\d+\/\d+|\d+(?:[.,]\d+)?|[.,]\d+)\s*(?:mm|cm|m|in|ft|")/;

/** A length as it was typed after its word; spaces inside it made single. */
function lengthIn(step: Span & { group?: GroupStep | null }, text: string, after: RegExp): string {
  const from = step.group ? step.group.to : step.from;
  const said = text.slice(from, step.to);
  const found = LENGTH.exec(said.slice((after.exec(said)?.index ?? 0) + (after.exec(said)?.[0].length ?? 0)));
  return (found?.[0] ?? said).replace(/\s+/g, " ").replace(/(\d) (mm|cm|m|in|ft|")$/, "$1$2");
}
