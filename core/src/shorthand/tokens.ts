/**
 * The tokens of the shorthand that depend on where they stand: labels at the start of a row, line ends inside
 * and outside brackets, lengths, and words in any script (a key is a letter followed by letters, digits or `_`).
 */
import { ContextTracker, ExternalTokenizer, type InputStream } from "@lezer/lr";
import {
  BraceClose,
  BraceOpen,
  Close,
  Label,
  Length,
  Open,
  Size,
  Int as IntTerm,
  Times,
  innerNewline,
  newline,
  word,
} from "./parser.terms.ts";

const OPEN_ROUND = 1;
const OPEN_CURLY = 2;

/** The brackets open at a place, innermost first; null at the top level. */
class Brackets {
  readonly hash: number;
  constructor(
    readonly kind: number,
    readonly outer: Brackets | null,
  ) {
    this.hash = ((outer?.hash ?? 7) * 31 + kind) | 0;
  }
}

export const brackets = new ContextTracker<Brackets | null>({
  start: null,
  shift(open, term) {
    if (term === Open) return new Brackets(OPEN_ROUND, open);
    if (term === BraceOpen) return new Brackets(OPEN_CURLY, open);
    if (term === Close || term === BraceClose) return open?.outer ?? null;
    // A line end that ended a row can only stand outside brackets: what was left open above stays above.
    if (term === newline) return null;
    return open;
  },
  hash: (open) => open?.hash ?? 0,
});

const MAX_LINE = 20_000;

/** The text from the input's place to the end of the line, at most `most` characters. */
function ahead(input: InputStream, most: number, from = 0): string {
  let text = "";
  for (let i = from; i < most; i++) {
    const code = input.peek(i);
    if (code < 0 || code === 10 || code === 13) break;
    text += String.fromCharCode(code);
  }
  return text;
}

const LABEL = /^[^\s(){}[\]#!:|,>][^(){}[\]#!:\n\r]*:/;

/** `Row 1:`, `back:`. Any text without brackets before the first colon of a row. */
export const labels = new ExternalTokenizer((input, stack) => {
  if (!stack.canShift(Label)) return;
  const found = LABEL.exec(ahead(input, MAX_LINE));
  if (found) input.acceptToken(Label, found[0].length);
});

/** A line end ends the row outside brackets and is only space inside them. */
export const newlines = new ExternalTokenizer((input, stack) => {
  let width: number;
  if (input.next === 10) width = 1;
  else if (input.next === 13) width = input.peek(1) === 10 ? 2 : 1;
  else return;
  const open = stack.context as Brackets | null;
  // A labelled line can't stand inside round brackets, so the bracket above was left open: end the row there,
  // and only that row is in error.
  const labelled = open?.kind === OPEN_ROUND && LABEL.test(ahead(input, MAX_LINE, width).trimStart());
  input.acceptToken(open === null || labelled ? newline : innerNewline, width);
});

/** The name of a size before its colon: `S:`, `7.5:`. */
export const sizes = new ExternalTokenizer((input, stack) => {
  if (!stack.canShift(Size)) return;
  const found = /^([^\s(){}[\]#!:|,]+)\s*:/.exec(ahead(input, 200));
  if (found) input.acceptToken(Size, found[1]!.length);
});

const NUMBER = String.raw`(?:\d+[ -]\d+\/\d+|\d+\/\d+|\d+(?:[.,]\d+)?|[.,]\d+)`;
const TIGHT = new RegExp(String.raw`^${NUMBER}(?:(?:mm|cm|m|in|ft)(?![\p{L}\p{N}_])|[ ]*")`, "u");
const LOOSE = new RegExp(String.raw`^${NUMBER}[ ]*(?:(?:mm|cm|m|in|ft)(?![\p{L}\p{N}_])|")`, "u");

/** After `to` a length may have a space before its unit; after `skip` and `space` a spaced word is the next bead. */
export const lengths = new ExternalTokenizer(
  (input, stack) => {
    if (!stack.canShift(Length) || !(isDigit(input.next) || input.next === 44 || input.next === 46)) return;
    const onlyLength = !stack.canShift(IntTerm);
    const found = (onlyLength ? LOOSE : TIGHT).exec(ahead(input, 64));
    if (found) input.acceptToken(Length, found[0].length);
  },
  { contextual: true },
);

const isDigit = (code: number) => code >= 48 && code <= 57;
const isLatin = (code: number) => (code >= 65 && code <= 90) || (code >= 97 && code <= 122);
const WORD = /^\p{L}[\p{L}0-9_]*/u;
const TIMES = /^(?:x[ \t]*[0-9]+(?:[ \t]*-[ \t]*[0-9]+)?(?![\p{L}0-9_])|×[ \t]*[0-9]+(?:[ \t]*-[ \t]*[0-9]+)?)/u;
const MAX_WORD = 200;

/** Keys and reserved words; and `x4`, `x 4`, `×4`, which a key may not look like. */
export const words = new ExternalTokenizer(
  (input, stack) => {
    if (input.next === 120 || input.next === 215) {
      const times = TIMES.exec(ahead(input, 64));
      if (times && (stack.canShift(Times) || times[0].startsWith("×") || /^x[0-9]/.test(times[0]))) {
        input.acceptToken(Times, times[0].length);
        return;
      }
      if (input.next === 215) return;
    }
    // Nearly every key is a few Latin letters: read no further than it goes, so that the rest can be reused.
    let length = 0;
    let code = input.next;
    while (length < MAX_WORD && (isLatin(code) || (length > 0 && (isDigit(code) || code === 95))))
      code = input.peek(++length);
    if (code > 127) length = WORD.exec(ahead(input, MAX_WORD))?.[0].length ?? 0;
    if (length > 0) input.acceptToken(word, length);
  },
  { contextual: true },
);
