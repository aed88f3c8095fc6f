import type { SyntaxNode } from "@lezer/common";
import { readLength } from "../units/index.ts";
import type {
  FitStep,
  GroupStep,
  Pattern,
  PickStep,
  Row,
  Sequence,
  Spacer,
  Span,
  Step,
  SyntaxProblem,
  Times,
  Which,
} from "./syntax.ts";
import { everyStep, ownPicksOf } from "./syntax.ts";
import { treeOf } from "./tree.ts";

export const MAX_TEXT = 20_000;
export const MAX_DEPTH = 64;

const REMEMBER = 400;
const remembered = new Map<string, Pattern>();
/** Rows without a fault, by their text: what is typed changes one row and moves the others. */
const rememberedRows = new Map<string, Row>();

/**
 * Reads a part's text. Never throws: what can't be read is left out and reported in `problems`, each with its place,
 * what was expected and how to mend it. The same text returns the same object, so callers must not change it.
 */
export function parsePattern(text: string): Pattern {
  const known = remembered.get(text);
  if (known) return known;
  const pattern = parseAfresh(text);
  remember(remembered, text, pattern);
  return pattern;
}

function remember<T>(kept: Map<string, T>, text: string, read: T) {
  if (kept.size >= REMEMBER) kept.delete(kept.keys().next().value!);
  kept.set(text, read);
}

/** A copy of what was read elsewhere, with every place in it moved. */
function moved<T>(read: T, by: number): T {
  if (Array.isArray(read)) return read.map((item) => moved(item as unknown, by)) as T;
  const copy = { ...read } as Record<string, unknown>;
  for (const name in copy) {
    const value = copy[name];
    if (name === "from" || name === "to") copy[name] = (value as number) + by;
    else if (typeof value === "object" && value !== null) copy[name] = moved(value, by);
  }
  return copy as T;
}

function parseAfresh(text: string): Pattern {
  if (text.length > MAX_TEXT) {
    const message =
      `This part is ${text.length.toLocaleString("en")} characters long; at most 20,000 can be ` +
      "read. Split it into parts.";
    return { text, rows: [], comments: [], ranged: false, problems: [{ from: 0, to: text.length, message }] };
  }
  const found = scan(text);
  if (found.tooDeep) return { text, rows: [], comments: [], ranged: false, problems: [found.tooDeep] };
  return new Reader(text, found).pattern();
}

interface Scan {
  /** The text as it goes to the grammar. */
  readable: string;
  comments: Span[];
  unclosed: Span[];
  stray: Span[];
  clean: boolean;
  tooDeep: SyntaxProblem | null;
}

/** Signs that stand somewhere in the notation; any other outside labels and comments is a stray mark. */
const SIGN = /[\p{L}\p{N}_\s(){}|>:,×.\-/"″”@\ufeff]/u;
const LABEL = /[^(){}#!\n\r]*:/y;
const isNote = (sign: string) => sign === "#" || sign === "!";
/**
 * So many stray marks go to the grammar; the rest are blanked before. Each costs the grammar more than the one before
 * it, and more than 50 problems are never listed.
 */
const MOST_MARKS = 200;

/** Finds the comments, brackets without a partner outside them, and blanks stray marks beyond the first many. */
function scan(text: string): Scan {
  const open: { at: number; curly: boolean }[] = [];
  const found: Scan = { readable: text, comments: [], unclosed: [], stray: [], clean: true, tooDeep: null };
  const blanked: number[] = [];
  let marks = 0;
  let labelEnd = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text[i]!;
    if (i === 0 || text[i - 1] === "\n" || text[i - 1] === "\r") {
      LABEL.lastIndex = i;
      labelEnd = i + (LABEL.exec(text)?.[0].length ?? 0);
    }
    const closes = c === ")" || c === "}";
    const partner = closes && open.at(-1)?.curly === (c === "}");
    const stray = closes ? !partner : i >= labelEnd && (c === "|" ? open.length === 0 : !isNote(c) && !SIGN.test(c));
    if (stray && ++marks > MOST_MARKS) blanked.push(i);
    if (isNote(c)) {
      let end = i;
      while (end < text.length && text[end] !== "\n" && text[end] !== "\r") end++;
      found.comments.push({ from: i, to: end });
      i = end - 1;
    } else if (c === "(" || c === "{") {
      open.push({ at: i, curly: c === "{" });
      if (open.length > MAX_DEPTH) {
        const message = `Brackets go ${MAX_DEPTH} deep at most. Make what is inside a sub-assembly with its own key.`;
        found.tooDeep = { from: i, to: i + 1, message };
        return found;
      }
    } else if (c === ")" || c === "}") {
      if (open.at(-1)?.curly === (c === "}")) open.pop();
      else found.stray.push({ from: i, to: i + 1 });
    }
  }
  found.unclosed = open.map(({ at }) => ({ from: at, to: at + 1 }));
  found.clean = found.unclosed.length === 0 && found.stray.length === 0;
  if (blanked.length > 0) {
    const signs = text.split("");
    for (const i of blanked) signs[i] = " ";
    found.readable = signs.join("");
  }
  return found;
}

/** What each construct wants, said where something in it is missing or strange. */
const EXPECTED: Record<string, string> = {
  Pick: "A number here needs the key of a bead after it: 3A.",
  Pass: "After > comes what is passed through: >T, >2T or >(T s T).",
  Repeat: "Say how many times: (3A 2B) x4.",
  Between: "After “between” comes a bracket with what goes between: between (2s).",
  Fit: "After “to” comes a length such as 180mm or 7 1/2in, or the word length.",
  Fill: "After “fill” comes a key, or up to four in brackets: fill (B C).",
  Which: "After @ comes which bead of its key is passed: >A@2, >A@first or >A@last.",
  Range: "A range is two whole numbers, the smaller first: 7-8A.",
  Spaced: "After “spaced” comes what stands between every two beads: spaced s, or spaced (s t).",
  Mirror: "After “around” comes what is in the middle: around D, or around (A D A).",
  Around: "After “around” comes what is in the middle: around D, or around (A D A).",
  Each: "“each” needs brackets: each(3A), or one branch a strand: each(3A | 2B).",
  Fringe: "A fringe is written fringe(down | turn), with one | between the two.",
  Loop: "“loop” needs brackets: loop(7b).",
  Hang: "After “hang” comes the key of what hangs: hang L; or several side by side: hang (L | 2D).",
  Skip: "After “skip” comes a number of links or a length: skip 2, skip 12in.",
  Space: "After “space” comes a length or beads to leave room for: space 6mm, space 3B, space to length.",
  Join: "After “join” comes what is linked in: join CL, or join (JR TR).",
  Rest: "After “rest” comes the key of the sub-assembly that takes up what is left: rest SC.",
  Knot: "After “knot” comes how long it is along the strand, then how much thread it takes: knot 4mm takes 40mm.",
  Takes: "After “takes” comes how much thread the knot takes: knot 4mm takes 40mm.",
  BySize: "Sizes are written size{S: A | M: 2A | L: 3A}.",
  Branch: "Each branch starts with a size and a colon: S: 2A.",
};

const FIT_MISPLACED =
  "A fit finds its own number and needs a bracket: (A B) to length, without x3. What is always three goes in a " +
  "bracket of its own: ((A B) x3) to length.";
/** What is said of a word that stands where it can't: most of them follow something. */
const MISPLACED = new Map([
  ["mirror", "“mirror” turns a bracket round. Put all that it turns in brackets: ((A) x6) mirror."],
  ["to", FIT_MISPLACED],
  ["length", FIT_MISPLACED],
  ["behind", "“behind” stands at the start of a row, after its label: back: behind 3A."],
  ["spaced", "“spaced” follows a bracket or a repeat: (A B) x3 spaced s."],
  ["takes", "“takes” follows the length of a knot: knot 4mm takes 40mm."],
  ["between", "“between” follows a repeat: (A) x4 between (2s)."],
  ["fill", "“fill” follows a fit: (A B) to length fill C."],
  ["around", "“around” follows a mirror: (A B) mirror around D."],
]);
/** Words that only ever belong to one before them. */
const TAIL = new Set(["length", "takes", "between", "fill", "around"]);

class Reader {
  readonly problems: SyntaxProblem[] = [];
  /** How often something was wrong, reported or not. */
  private faults = 0;
  /** Where a word that stood wrong was explained last: one slip leaves several pieces that can't be read. */
  private explainedAt: number | null = null;
  constructor(
    readonly text: string,
    readonly scan: Scan,
  ) {}

  pattern(): Pattern {
    const top = treeOf(this.scan.readable).topNode;
    for (const at of this.scan.unclosed) {
      const closing = this.text[at.from] === "{" ? "}" : ")";
      this.problem(at, `This bracket is never closed. Add “${closing}” where it ends.`);
    }
    for (const at of this.scan.stray) {
      this.problem(
        at,
        `“${this.text.slice(at.from, at.to)}” closes nothing. Take it out, or open a bracket before it.`,
      );
    }
    const rows: Row[] = [];
    for (const node of children(top)) {
      if (node.name === "Row") rows.push(this.row(node));
      else if (node.type.isError) this.unreadable(node, "Pattern");
    }
    this.problems.sort((a, b) => a.from - b.from);
    return {
      text: this.text,
      rows,
      comments: this.scan.comments.map((c) => ({ from: c.from, to: c.to, text: this.of(c).trimEnd() })),
      problems: this.problems,
      ranged: /\d\s*-\s*\d/.test(this.text) && rows.some(isRanged),
    };
  }

  private row(node: SyntaxNode): Row {
    const said = this.of(node);
    const known = this.scan.clean ? rememberedRows.get(said) : undefined;
    if (known) return known.from === node.from ? known : moved(known, node.from - known.from);
    const before = this.faults;
    const row = this.readRow(node);
    if (this.scan.clean && this.faults === before) remember(rememberedRows, said, row);
    return row;
  }

  private readRow(node: SyntaxNode): Row {
    const label = node.getChild("Label");
    const name = label ? this.of(label).slice(0, -1).trim() : null;
    return { ...this.sequence(node), label: name, behind: node.getChild("Behind") !== null };
  }

  private sequence(node: SyntaxNode): Sequence {
    const steps: Step[] = [];
    for (const child of children(node)) {
      if (child.type.isError) {
        this.unreadable(child, node.name);
        continue;
      }
      const step = this.step(child);
      if (step) steps.push(step);
    }
    return { steps, from: node.from, to: node.to };
  }

  private step(node: SyntaxNode): Step | null {
    const at = { from: node.from, to: node.to };
    switch (node.name) {
      case "Pick":
        return this.pick(node);
      case "Group":
        return this.group(node);
      case "Pass": {
        this.errorsIn(node);
        const step = this.pickOrGroup(node);
        return step && { type: "pass", step, times: this.times(node), which: this.which(node), ...at };
      }
      case "Repeat": {
        this.errorsIn(node);
        const what = node.firstChild;
        const step = what && this.step(what);
        const times = this.times(node);
        if (!step || !times) return step;
        return { type: "repeat", step, times, between: this.between(node), spaced: this.spaced(node), ...at };
      }
      case "Fit":
        return this.fit(node);
      case "Mirror": {
        this.errorsIn(node);
        const around = node.getChild("Around");
        if (around) this.errorsIn(around);
        return {
          type: "mirror",
          step: this.group(node.getChild("Group")!),
          around: around && this.pickOrGroup(around),
          ...at,
        };
      }
      case "Each":
        this.errorsIn(node);
        return { type: "each", branches: node.getChildren("Strand").map((s) => this.sequence(s)), ...at };
      case "Fringe": {
        this.errorsIn(node);
        const [down, turn] = [node.getChild("Down"), node.getChild("Turn")];
        const none = { steps: [], ...at };
        return {
          type: "fringe",
          down: down ? this.sequence(down) : none,
          turn: turn ? this.sequence(turn) : none,
          ...at,
        };
      }
      case "Loop": {
        this.errorsIn(node);
        const inner = node.getChild("Group");
        return inner && { type: "loop", step: this.group(inner), ...at };
      }
      case "Hang": {
        this.errorsIn(node);
        const key = node.getChild("Key");
        const picks = key ? [this.bareKey(key)] : node.getChildren("Pick").map((p) => this.pick(p));
        const read = picks.filter((p) => p !== null);
        return read.length > 0 ? { type: "hang", picks: read, ...at } : null;
      }
      case "Join": {
        this.errorsIn(node);
        const step = this.pickOrGroup(node);
        return step && { type: "join", step, ...at };
      }
      case "Rest": {
        this.errorsIn(node);
        const key = node.getChild("Key");
        const pick = key && this.bareKey(key);
        return pick && { type: "rest", key: pick.key, keyAt: pick.keyAt, ...at };
      }
      case "Skip": {
        this.errorsIn(node);
        const links = node.getChild("Int");
        const length = node.getChild("Length");
        if (links) return { type: "skip", amount: { links: Number(this.of(links)) }, ...at };
        return length && { type: "skip", amount: { mm: this.length(length) }, ...at };
      }
      case "Space": {
        this.errorsIn(node);
        const length = node.getChild("Length");
        if (length) return { type: "space", mm: this.length(length), pick: null, ...at };
        const pick = this.pickIn(node);
        return pick && { type: "space", mm: null, pick, ...at };
      }
      case "Knot": {
        this.errorsIn(node);
        const length = node.getChild("Length");
        const takes = node.getChild("Takes");
        if (takes) this.errorsIn(takes);
        const taken = takes?.getChild("Length");
        return length && { type: "knot", mm: this.length(length), takesMm: taken ? this.length(taken) : null, ...at };
      }
      case "BySize":
        this.errorsIn(node);
        return { type: "bysize", branches: node.getChildren("Branch").flatMap((b) => this.branch(b)), ...at };
      default:
        return null;
    }
  }

  private branch(node: SyntaxNode) {
    const size = node.getChild("Size");
    const sequence = this.sequence(node);
    return size ? [{ ...sequence, size: this.of(size), sizeAt: { from: size.from, to: size.to } }] : [];
  }

  private fit(node: SyntaxNode): FitStep | GroupStep | null {
    const inner = node.getChild("Group");
    // A word that is missing is there with no letters.
    const hasWord = ["SkipWord", "SpaceWord"].some((word) => node.getChildren(word).some((w) => w.to > w.from));
    if (!inner && !hasWord) {
      // It stands behind beads without brackets: these are what is to repeat.
      const before = node.prevSibling;
      const what = before?.name === "Pick" ? this.of(before).replace(/[\s,]+$/, "") : null;
      this.problem(
        what === null ? node : { from: before!.from, to: before!.from + what.length },
        what === null ? FIT_MISPLACED : `Put brackets round ${what}: a bracket is what repeats, (${what}) to length.`,
      );
      return null;
    }
    this.errorsIn(node);
    const length = node.getChild("Length");
    if (!length && !node.getChild("TargetLength")) return inner && this.group(inner);
    const fill = node.getChild("Fill");
    if (fill) this.errorsIn(fill);
    return {
      type: "fit",
      of: inner ? "repeats" : node.getChild("SpaceWord") ? "room" : "links",
      group: inner && this.group(inner),
      toMm: length ? this.length(length) : null,
      between: this.between(node),
      fill: fill && {
        keys: fill.getChildren("Key").map((k) => ({ key: this.of(k), from: k.from, to: k.to })),
        from: fill.from,
        to: fill.to,
      },
      from: node.from,
      to: node.to,
    };
  }

  private group(node: SyntaxNode): GroupStep {
    return { type: "group", ...this.sequence(node), spaced: this.spaced(node) };
  }

  private spaced(node: SyntaxNode): Spacer | null {
    const spaced = node.getChild("Spaced");
    if (!spaced) return null;
    this.errorsIn(spaced);
    return this.pickOrGroup(spaced);
  }

  private pickOrGroup(node: SyntaxNode): PickStep | GroupStep | null {
    const inner = node.getChild("Group");
    return inner ? this.group(inner) : this.pickIn(node);
  }

  private between(node: SyntaxNode): GroupStep | null {
    const between = node.getChild("Between");
    if (between) this.errorsIn(between);
    const inner = between?.getChild("Group");
    return inner ? this.group(inner) : null;
  }

  private pick(node: SyntaxNode): PickStep | null {
    this.errorsIn(node);
    const key = node.getChild("Key");
    if (!key || key.from === key.to) return null;
    const hole = node.getChild("Hole");
    const { from, to } = node;
    return { ...this.bareKey(key)!, ...this.many(node), hole: hole ? Number(this.of(hole).slice(1)) : 1, from, to };
  }

  private bareKey(key: SyntaxNode): PickStep | null {
    if (key.from === key.to) return null;
    const at = { from: key.from, to: key.to };
    return { type: "pick", n: 1, least: 1, key: this.of(key), keyAt: at, hole: 1, ...at };
  }

  /** How many a pick is: one number, or the least and the most of a range. */
  private many(node: SyntaxNode): { n: number; least: number } {
    const range = node.getChild("Range");
    const n = node.getChild("Int");
    if (!range) return n ? { n: Number(this.of(n)), least: Number(this.of(n)) } : { n: 1, least: 1 };
    this.errorsIn(range);
    return this.ranged(range, this.of(range));
  }

  private ranged(at: Span, said: string): { n: number; least: number } {
    const [a = 0, b = a] = (said.match(/\d+/g) ?? []).map(Number);
    if (b < a) this.problem(at, `${said} runs backwards. Write the smaller number first: ${b}-${a}.`);
    return { n: Math.max(a, b), least: Math.min(a, b) };
  }

  private which(node: SyntaxNode): Which | null {
    const which = node.getChild("Which");
    if (!which) return null;
    this.errorsIn(which);
    const n = which.getChild("Int");
    if (n && Number(this.of(n)) < 1) this.problem(which, "Beads are counted from 1: >A@1 is the first.");
    if (n) return Math.max(1, Number(this.of(n)));
    const place = which.getChild("Place");
    return place ? (this.of(place) as Which) : null;
  }

  private pickIn(node: SyntaxNode): PickStep | null {
    const pick = node.getChild("Pick");
    return pick && this.pick(pick);
  }

  private times(node: SyntaxNode): Times | null {
    const times = node.getChild("Times");
    return times && { ...this.ranged(times, this.of(times)), from: times.from, to: times.to };
  }

  private length(node: SyntaxNode): number {
    const mm = readLength(this.of(node));
    if (mm === null || !(mm > 0)) {
      this.problem(node, `“${this.of(node)}” is not a length over 0. Write 6mm, 1.5cm, 1/2in or 7 1/2in.`);
      return 0;
    }
    if (mm > 100_000) {
      this.problem(node, `${this.of(node)} is longer than 100 m, the longest length that can be written.`);
      return 0;
    }
    return mm;
  }

  private errorsIn(node: SyntaxNode) {
    for (const child of children(node)) {
      if (child.type.isError) this.unreadable(child, node.name);
      if (child.name === "Key" && child.firstChild?.type.isError) this.unreadable(child.firstChild, node.name);
    }
  }

  private unreadable(node: SyntaxNode, within: string) {
    const said = this.of(node).trim();
    const explained = [...this.scan.stray, ...this.scan.unclosed].some(
      (b) => (b.from >= node.from && b.to <= Math.max(node.to, node.from + 1)) || (said === "" && b.from < node.from),
    );
    if (explained) return;
    // A sign behind a bead belongs to no pick, though one could still go on there.
    const expected = within === "Pick" && /^[^\d.,]/.test(said) ? undefined : EXPECTED[within];
    if (said === "") {
      // Something is missing: show it at the word or sign that asked for it.
      const from = Math.max(0, node.from - 1);
      this.problem({ from, to: Math.max(node.from, from + 1) }, expected ?? "Something is missing here.");
    } else if (MISPLACED.has(/^\p{L}+/u.exec(said)?.[0] ?? "")) {
      const word = /^\p{L}+/u.exec(said)![0];
      // What belongs to a word that stood wrong is explained with it.
      if (this.explainedAt !== null && TAIL.has(word) && node.from - this.explainedAt < 40) return;
      this.explainedAt = node.from;
      this.problem(node, MISPLACED.get(word)!);
    } else if (within === "Pick" && /^[.,]/.test(said)) {
      this.problem(node, "Beads come in whole numbers: 3A for three of A.");
    } else if (expected) {
      this.problem(node, expected);
    } else if (/^x|^×/.test(said)) {
      this.problem(node, `“${said}” repeats nothing here. Put what it repeats in brackets: (3A 2B) x4.`);
    } else if (said === "|") {
      this.problem(node, "“|” belongs in each(…), fringe(…) or size{…}. Take it out here.");
    } else if (/^[0-9.,/ -]+/.test(said)) {
      this.problem(node, `“${clip(said)}” is not part of the shorthand here. Write 3A for three of A.`);
    } else if (/[(){}]/.test(said)) {
      // Its partner would be left alone: what stands wrong is something before it.
      this.problem(node, `“${clip(said)}” can't be read where it stands. Look at what stands before it.`);
    } else {
      this.problem(
        node,
        `“${clip(said)}” is not part of the shorthand. Take it out, or put # before it to make it a note.`,
      );
    }
  }

  private problem(at: Span, message: string) {
    this.faults++;
    if (this.problems.length >= 50 || this.problems.some((p) => p.from === at.from && p.message === message)) return;
    this.problems.push({ from: at.from, to: at.to, message });
  }

  private of(node: Span) {
    return this.text.slice(node.from, node.to);
  }
}

function isRanged(row: Row): boolean {
  let found = false;
  const look = (x: { n: number; least: number } | null) => (found ||= x !== null && x.n !== x.least);
  everyStep(row, (step) => {
    ownPicksOf(step).forEach(look);
    if (step.type === "repeat" || step.type === "pass") look(step.times);
  });
  return found;
}

const clip = (text: string) => (text.length > 24 ? `${text.slice(0, 24)}…` : text);

function children(node: SyntaxNode): SyntaxNode[] {
  const found: SyntaxNode[] = [];
  for (let child = node.firstChild; child; child = child.nextSibling) found.push(child);
  return found;
}
