/** For a mark in a part's text that is wrong: what would put it right, in one step. */
import type { Design, Part, Problem } from "../contract/index.ts";
import { keysIn, parsePattern, RESERVED } from "../shorthand/index.ts";

/** A mend: what it does in words, and a change of the text, a key to be added, or the key by which a part is used. */
export type Mend = { say: string } & (
  | { change: { from: number; to: number; insert: string } }
  | { addKey: string }
  | { usePart: { part: string; key: string } }
);

/** The part that is called by a key's letters, and is used by no key yet; not the part that they stand in itself. */
export const partCalled = (design: Design, key: string, within: string | null): Part | undefined =>
  design.parts.find((p) => p.id !== within && p.as == null && p.name.trim().toLowerCase() === key.toLowerCase());

/** How many letters two words differ by: put in, left out, replaced, or two neighbours swapped (Damerau 1964). */
export function lettersApart(a: string, b: string): number {
  const rows: number[][] = [Array.from({ length: b.length + 1 }, (_, j) => j)];
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      let least = Math.min(rows[i - 1]![j]! + 1, row[j - 1]! + 1, rows[i - 1]![j - 1]! + (same ? 0 : 1));
      const swapped = i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1];
      if (swapped) least = Math.min(least, rows[i - 2]![j - 2]! + 1);
      row.push(least);
    }
    rows.push(row);
  }
  return rows[a.length]![b.length]!;
}

/** Words that are typed for one of the notation, beside slips of the finger. */
const SYNONYMS: Readonly<Record<string, string>> = {
  repeat: "x2",
  times: "x2",
  reverse: "mirror",
  fit: "to length",
  until: "to length",
  gap: "space 6mm",
  dangle: "hang",
  link: "join",
};

/** The word of the notation that was meant by one that is no key, or null. */
export function wordMeant(word: string): string | null {
  const small = word.toLowerCase();
  if (Object.hasOwn(SYNONYMS, small)) return SYNONYMS[small]!;
  const near = RESERVED.map((w) => ({ w, d: lettersApart(small, w) })).sort((a, b) => a.d - b.d)[0]!;
  return word.length >= 3 && near.d <= (word.length > 5 ? 2 : 1) ? near.w : null;
}

/** What would mend a problem of a part's text; the likeliest first, none where only its maker can know. */
export function mendsOf(design: Design, problem: Problem): Mend[] {
  const text = design.parts.find((p) => p.id === problem.part)?.steps ?? "";
  if (problem.row === null) return [];
  const start = text.split("\n", problem.row - 1).reduce((sum, line) => sum + line.length + 1, 0);
  const lineEnd = text.indexOf("\n", start) < 0 ? text.length : text.indexOf("\n", start);
  const [from, to] = [start + (problem.from ?? 0), start + (problem.to ?? 0)];
  const said = text.slice(from, to);
  const change = (say: string, at: number, until: number, insert: string): Mend => ({
    say,
    change: { from: at, to: until, insert },
  });
  const { message } = problem;
  if (/^This bracket is never closed/.test(message)) {
    const closing = said === "{" ? "}" : ")";
    const note = /\s*[#!].*$/.exec(text.slice(start, lineEnd))?.index;
    const end = note === undefined ? lineEnd : start + note;
    // What works on a bracket stands behind it.
    const works = /\s+(?:[x×]\s*\d+|mirror\b|to\s+\S|spaced\s).*$/.exec(text.slice(to, end))?.index;
    const at = works === undefined ? end : to + works;
    return [change(`Add ${closing}`, at, at, closing)];
  }
  if (/^Put brackets round /.test(message)) return [change(`Write (${clip(said)})`, from, to, `(${said})`)];
  if (/^“space to” leaves bare room/.test(message)) {
    const word = text.slice(from).match(/^space/) ? "space".length : 0;
    return word > 0 ? [change("Write skip to", from, from + word, "skip")] : [];
  }
  if (/closes nothing/.test(message)) return [change(`Take ${said} out`, from, to, "")];
  if (/^There is no \S+ in the bead key;/.test(message)) {
    const at = keysIn(text).find((k) => k.from >= from && k.to <= to);
    if (!at) return [];
    const { key } = at;
    const like = design.key.find((e) => e.key !== key && e.key.toLowerCase() === key.toLowerCase());
    const part = partCalled(design, key, problem.part);
    if (part) {
      const isHung = /\bhang\s*\(?\s*(\d+\s*)?$/.test(text.slice(0, at.from));
      return [{ say: `${isHung ? "Hang" : "Use"} the part ${part.name}?`, usePart: { part: part.id, key } }];
    }
    // A word is no bead that there are several of.
    const word = at.from === from ? wordMeant(key) : null;
    return [
      ...(like ? [change(`Write ${like.key}`, at.from, at.to, like.key)] : []),
      ...(word ? [change(`Write ${word}`, at.from, at.to, word)] : []),
      { say: `Add ${key} to the bead key`, addKey: key },
    ];
  }
  if (/repeats nothing here/.test(message)) {
    const row = parsePattern(text).rows.find((r) => from >= r.from && from <= r.to);
    const first = row?.steps[0];
    const times = /^[x×]\s*\d+/.exec(text.slice(from))?.[0] ?? said;
    if (!first || first.from >= from) return [change(`Take ${times} out`, from, from + times.length, "")];
    const what = text.slice(first.from, from).trimEnd();
    const mended = `(${what}) ${times}`;
    return [change(`Write ${clip(mended)}`, first.from, from + times.length, mended)];
  }
  if (/is missing here\. Add “\| /.test(message)) {
    const sizes = /^Size (.+) is missing here/.exec(message)![1]!.split(", ");
    const close = text.lastIndexOf("}", to - 1);
    if (close < from) return [];
    return [change(`Add ${sizes.join(", ")}, empty`, close, close, sizes.map((s) => ` | ${s}:`).join(""))];
  }
  if (/is not part of the shorthand/.test(message)) {
    const word = wordMeant(said);
    // A note goes on to the end of the line: no bracket may be lost in it.
    const hides = /[(){}]/.test(text.slice(from, lineEnd).replace(/[#!].*$/, ""));
    return [
      ...(word ? [change(`Write ${word}`, from, to, word)] : []),
      hides ? change(`Take ${clip(said)} out`, from, to, "") : change("Make it a note", from, from, "# "),
    ];
  }
  if (/is not a length over 0/.test(message)) return [change("Write 6mm", from, to, "6mm")];
  if (/adds nothing\. Take it out/.test(message)) return [change(`Take ${said} out`, from, to, "")];
  return [];
}

const clip = (text: string) => (text.length > 30 ? `${text.slice(0, 30)} …` : text);
