import type { Design, Part, ReadingLevel, SentenceRow } from "../contract/index.ts";
import { countWhole } from "../count/index.ts";
import { extentOf } from "../length/index.ts";
import {
  everyStep,
  type FitStep,
  parsePattern,
  type Pattern,
  type PickStep,
  type Sequence,
  sequencesOf,
  type Spacer,
  type Step,
  unreachable,
  type Which,
} from "../shorthand/index.ts";
import { plainNumber } from "../units/index.ts";

/** What one size makes of what reaches for a length: how often, what closes it, how much is left bare. */
interface Reached {
  size: string | null;
  repeats: number;
  fill: readonly number[];
  mm: number;
}

/** How the sentences of one part are written. */
interface Telling {
  level: ReadingLevel;
  /** The sizes that are told, with what reaches for a length in each; one without a name where there is one size. */
  sizes: readonly Reached[];
  /** What the thread is led with: `the needle`, `the wire`. */
  lead: string;
  strands: number;
  /** What each key is called; one that is called by its own letters is left out. */
  names: ReadonlyMap<string, string>;
}

/**
 * A part's rows in sentences: what is picked up, passed through, linked in and hung, row by row, with the notes for the
 * maker in their places. Every repeat says where it begins, unless that is where its row or its side begins, and how
 * often it is done; so what is picked up can be counted from the sentences alone.
 * @param size one size, or null for all that the design has: then each says what is its own
 */
export function sentencesOf(
  design: Design,
  part: Part,
  level: ReadingLevel,
  size: string | null = null,
): SentenceRow[] {
  const all = (design.sizes ?? []).map((s) => s.key);
  const sizes = size !== null && all.includes(size) ? [size] : all.length > 0 ? all : [null];
  const option = part.options?.[0] ?? design.options?.[0]?.key ?? null;
  const told: Telling = {
    level,
    sizes: sizes.map((s) => {
      const settled = countWhole(design, { size: s, option }).parts.find((p) => p.part.id === part.id)?.settled;
      return { size: s, repeats: settled?.repeats ?? 0, fill: settled?.fill ?? [], mm: settled?.mm ?? 0 };
    }),
    lead: leadOf(design, part),
    strands: part.strands ?? 1,
    names: namesIn(design),
  };
  const pattern = parsePattern(part.steps ?? "");
  return pattern.rows.flatMap((row, i) => {
    const notes = notesAt(pattern, i);
    const body = new Sentences(told).row(row);
    const text = [...(row.behind ? ["Work this row behind what is there."] : []), ...body].join(" ");
    const rows: SentenceRow[] = notes.before.map((note) => ({ label: null, text: `Note: ${note}` }));
    const own = [...(text ? [text] : []), ...notes.own.map((note) => `Note: ${note}`)].join(" ");
    if (own || row.label !== null) rows.push({ label: row.label, text: own });
    if (i === pattern.rows.length - 1)
      for (const note of notes.behind) rows.push({ label: null, text: `Note: ${note}` });
    return rows;
  });
}

/** What the keys of a design, and its sub-assemblies, are called. */
function namesIn({ key, parts }: Design): Map<string, string> {
  const subs = parts.flatMap((p) => (p.as == null ? [] : [{ key: p.as, name: p.name }]));
  const named = [...key, ...subs].map((e) => [e.key, e.name.trim().replace(/\.+$/, "")] as const);
  return new Map(named.filter(([letter, name]) => name.toLowerCase() !== letter.toLowerCase()));
}

/** The notes for the maker at a row: on lines of their own before it, behind it on its line, and after the last. */
function notesAt({ text, rows, comments }: Pattern, i: number) {
  const said = (from: number, to: number) =>
    comments
      .filter((c) => c.text.startsWith("!") && c.from >= from && c.from < to)
      .map((c) => sentence(c.text.replace(/^!\s*/, "")))
      .filter((note) => note !== ".");
  const lineEnd = (at: number) => {
    const end = text.indexOf("\n", at);
    return end < 0 ? text.length + 1 : end;
  };
  const row = rows[i]!;
  const last = i === 0 ? 0 : lineEnd(rows[i - 1]!.to);
  const ends = lineEnd(row.to);
  return { before: said(last, row.from), own: said(row.from, ends), behind: said(ends, text.length + 1) };
}

/** Words with a full stop, where they have no other end. */
export const sentence = (words: string) => {
  const trimmed = words.trim();
  return /[.!?]$/.test(trimmed) ? trimmed : `${trimmed}.`;
};

const WIRES = /wire|pin/;
function leadOf(design: Design, part: Part): string {
  const entry = design.key.find((e) => e.key === part.stringing);
  if (!entry) return "the pin or wire";
  const said = `${entry.form ?? ""} ${entry.name}`.toLowerCase();
  if (/thread/.test(said)) return "the needle";
  return WIRES.test(said) ? "the wire" : "the cord";
}

/** A length in a sentence, its unit behind a no-break space: said in inches where one likes. */
export const mm = (n: number) => `${plainNumber(n, 2)}\u00a0mm`;
/** `A`, `A and B`, `A, B and C`. */
export const listed = (items: readonly string[]) =>
  items.length < 2 ? items.join("") : `${items.slice(0, -1).join(", ")} and ${items.at(-1)!}`;
const nth = (n: number) => {
  const last = n % 100 >= 11 && n % 100 <= 13 ? 0 : n % 10;
  return `${n}${last === 1 ? "st" : last === 2 ? "nd" : last === 3 ? "rd" : "th"}`;
};
const range = ({ n, least }: { n: number; least: number }) =>
  least === n ? `${n}` : n - least === 1 ? `${least} or ${n}` : `${least} to ${n}`;
const timesOf = (said: string) => (said === "1" ? "1 time" : `${said} times`);
const whichOf = (which: Which) => (typeof which === "number" ? `the ${nth(which)} ` : `the ${which} `);

/** The sentences of one row, in order. */
class Sentences {
  private readonly said: string[] = [];
  /** Picks that follow one another become one sentence. */
  private picks: string[] = [];
  /** Whether nothing was said yet since the innermost beginning: a repeat that stands there need not say its own. */
  private fresh = true;

  /** @param named what was called by its name in this row already: from then on its letters do */
  constructor(
    private readonly told: Telling,
    private readonly named = new Set<string>(),
  ) {}

  /** So many of a key, by its name where the row has not named it yet: `one 6 mm round, ink (g)`, then `2 g`. */
  private some(many: { n: number; least: number }, key: string): string {
    const one = many.n === 1 && many.least === 1;
    const name = this.nameOnce(key);
    if (name === null) return `${range(many)} ${key}`;
    return one ? `one ${name} (${key})` : `${range(many)} of ${name} (${key})`;
  }

  /** A key's name at its first mention in the row; null from then on, and where it has none. */
  private nameOnce(key: string): string | null {
    if (this.named.has(key)) return null;
    this.named.add(key);
    return this.told.names.get(key) ?? null;
  }

  row(sequence: Sequence): string[] {
    this.steps(sequence);
    this.flush();
    return this.said;
  }

  private say(words: string) {
    this.flush();
    this.said.push(`${words}.`);
    this.fresh = false;
  }

  private begin(words: string) {
    this.say(words);
    this.fresh = true;
  }

  private flush() {
    if (this.picks.length === 0) return;
    const what = listed(this.picks);
    this.picks = [];
    this.fresh = false;
    const { level, lead } = this.told;
    this.said.push(
      level === "short"
        ? `${what}.`
        : level === "plain"
          ? `Pick up ${what}.`
          : `Pick up ${what} with ${lead}, and slide what you picked up down to the work.`,
    );
  }

  private steps({ steps }: Sequence) {
    for (const step of steps) this.step(step);
  }

  private step(step: Step) {
    switch (step.type) {
      case "pick":
        return this.pick(step);
      case "group":
        this.steps(step);
        return this.spaced([step], step.spaced);
      case "pass":
        return this.pass(step);
      case "repeat": {
        if (step.times.n === 0) return;
        const done = `Do this ${timesOf(range(step.times))}`;
        this.repeated(step.step, done);
        if (step.between && step.times.n > 1) {
          this.begin("Begin what comes between two repeats");
          this.steps(step.between);
          const gaps = { n: step.times.n - 1, least: Math.max(step.times.least - 1, 0) };
          this.say(`That is ${timesOf(range(gaps))} in all`);
        }
        return this.spaced([{ from: step.from, to: step.to, steps: [{ ...step, spaced: null }] }], step.spaced);
      }
      case "fit":
        return this.fit(step);
      case "mirror":
        this.begin("Begin one side");
        this.steps(step.step);
        this.spaced([step.step], step.step.spaced);
        this.say("That is one side");
        if (step.around) this.spacer(step.around);
        return this.say("Make the other side the same, the last step first");
      case "each":
        return this.each(step);
      case "fringe":
        this.say("Begin a fringe");
        this.fresh = false;
        this.steps(step.down);
        this.say("Turn round the next beads");
        this.steps(step.turn);
        return this.say("Go back up through the fringe, past the turn");
      case "loop":
        this.say("Begin a loop");
        this.steps(step.step);
        this.spaced([step.step], step.step.spaced);
        return this.say("Close the loop");
      case "hang": {
        const what = step.picks.filter((p) => p.n > 0).map((p) => this.some(p, p.key));
        if (what.length > 0) this.say(`Hang ${listed(what)}${what.length > 1 ? " side by side" : ""}`);
        return;
      }
      case "join": {
        const picks = step.step.type === "pick" ? [step.step] : step.step.steps.filter((s) => s.type === "pick");
        const what = picks.filter((p) => p.n > 0).map((p) => this.some(p, p.key));
        if (what.length > 0) this.say(`Link in ${listed(what)}`);
        return;
      }
      case "rest":
        return this.say(`Link in ${this.some({ n: 1, least: 1 }, step.key)}, as long as what is left`);
      case "skip":
        return this.say(
          "links" in step.amount
            ? `Skip ${step.amount.links} ${step.amount.links === 1 ? "link" : "links"}`
            : `Skip ${mm(step.amount.mm)} of links`,
        );
      case "space":
        return this.say(
          step.pick ? `Leave room as for ${this.some(step.pick, step.pick.key)}` : `Leave ${mm(step.mm ?? 0)} bare`,
        );
      case "knot":
        return this.say(`Tie a knot of ${mm(step.mm)}`);
      case "bysize":
        return this.bySize(step);
      default:
        return unreachable(step);
    }
  }

  private pick(step: PickStep) {
    if (step.n === 0) return;
    const hole = step.hole === 1 ? "" : ` through the ${nth(step.hole)} hole`;
    this.picks.push(`${this.some(step, step.key)}${hole}`);
  }

  /**
   * What is done more than once: where it begins is said, unless it begins where its row or side does and nothing in
   * it is repeated itself.
   */
  private repeated(step: Step, done: string) {
    this.flush();
    if (!this.fresh || repeatsInside(step)) this.say("Begin a repeat");
    this.step(step);
    this.say(done);
  }

  private spacer(spacer: Spacer) {
    if (spacer.type === "pick") this.pick(spacer);
    else this.step(spacer);
  }

  private spaced(item: readonly Sequence[], spacer: Spacer | null) {
    if (spacer === null) return;
    const gaps = this.told.sizes.map(({ size }) => ({
      size,
      n: Math.max(extentOf(item, { along: new Map(), linkMm: null, size }).units - 1, 0),
    }));
    if (gaps.every((g) => g.n === 0)) return;
    this.begin("Begin what comes between every two of these beads");
    this.spacer(spacer);
    this.say(`That is ${this.bySizes(gaps)} in all`);
  }

  /** `6 times`, or `6 times for S and 7 times for L`. */
  private bySizes(list: readonly { size: string | null; n: number }[]): string {
    const alike = list.every((x) => x.n === list[0]!.n);
    return alike ? timesOf(`${list[0]!.n}`) : listed(list.map((x) => `${timesOf(`${x.n}`)} for ${x.size}`));
  }

  private pass(step: Extract<Step, { type: "pass" }>) {
    const { level, lead } = this.told;
    const what =
      step.step.type === "pick"
        ? this.passed(step.step, step.which === null ? "" : whichOf(step.which))
        : listed(this.passedIn(step.step.steps));
    if (what === "") return;
    const times = step.times === null ? "" : `, ${timesOf(range(step.times))}`;
    this.say(
      level === "short"
        ? `Through ${what} again${times}`
        : level === "plain"
          ? `Pass through ${what} again${times}`
          : `Pass ${lead} through ${what} again${times}, and pull it snug`,
    );
  }

  private fit(step: FitStep) {
    const { sizes } = this.told;
    if (step.of === "room") {
      const alike = sizes.every((s) => Math.abs(s.mm - sizes[0]!.mm) < 0.005);
      const said = alike ? mm(sizes[0]!.mm) : listed(sizes.map((s) => `${mm(s.mm)} for ${s.size}`));
      return this.say(`Leave ${said} bare`);
    }
    const times = sizes.map(({ size, repeats }) => ({ size, n: repeats }));
    if (step.of === "links") {
      const alike = times.every((t) => t.n === times[0]!.n);
      const said = alike ? `${times[0]!.n}` : listed(times.map((t) => `${t.n} for ${t.size}`));
      return this.say(`Skip ${said} links`);
    }
    if (times.some((t) => t.n > 0)) this.repeated(step.group!, `Do this ${this.bySizes(times)}`);
    if (step.between && times.some((t) => t.n > 1)) {
      this.begin("Begin what comes between two repeats");
      this.steps(step.between);
      this.say(`That is ${this.bySizes(times.map((t) => ({ ...t, n: Math.max(t.n - 1, 0) })))} in all`);
    }
    const keys = step.fill?.keys.map((k) => k.key) ?? [];
    const fills = sizes.map((s) => ({
      size: s.size,
      put: () =>
        keys.forEach((key, i) => {
          const n = s.fill[i] ?? 0;
          if (n > 0) this.picks.push(this.some({ n, least: n }, key));
        }),
      said: keys.map((_, i) => s.fill[i] ?? 0).join(),
    }));
    if (fills.every((f) => f.said === fills[0]!.said)) return fills[0]?.put();
    this.inSizes(fills);
  }

  private inSizes(branches: readonly { size: string | null; put: () => void }[]) {
    for (const { size, put } of branches) {
      this.begin(`In size ${size} only`);
      const before = this.said.length;
      put();
      this.flush();
      if (this.said.length === before) this.say("Nothing here");
    }
    this.say("In every size again");
  }

  private bySize(step: Extract<Step, { type: "bysize" }>) {
    const branchOf = (size: string | null) => step.branches.find((b) => b.size === size);
    const { sizes } = this.told;
    if (sizes.length === 1) {
      const branch = branchOf(sizes[0]!.size);
      if (branch) this.steps(branch);
      return;
    }
    this.inSizes(
      sizes.map(({ size }) => ({
        size,
        put: () => {
          const branch = branchOf(size);
          // What reaches for a length in one size is told for that size alone.
          const told = { ...this.told, sizes: sizes.filter((s) => s.size === size) };
          if (branch) this.said.push(...new Sentences(told, new Set(this.named)).row(branch));
        },
      })),
    );
  }

  private each(step: Extract<Step, { type: "each" }>) {
    const { strands } = this.told;
    if (step.branches.length === 1) {
      if (strands === 1) return this.steps(step.branches[0]!);
      this.begin(`Begin what is done on each of the ${strands} strands`);
      this.steps(step.branches[0]!);
      return this.say(`Do this on all ${strands} strands`);
    }
    step.branches.forEach((branch, i) => {
      this.say(`On strand ${i + 1} alone`);
      this.steps(branch);
    });
    this.say("All strands together again");
  }

  /** What a pass goes through, as one names it: `W`, `2 T`, `the 2nd hole of the last W`. */
  private passed(p: PickStep, which = ""): string {
    const one = p.n === 1 && p.least === 1;
    const hole = p.hole === 1 ? "" : `the ${nth(p.hole)} hole of `;
    const name = this.nameOnce(p.key);
    const many = one ? "" : `${range(p)} ${name === null ? "" : "of "}`;
    const the = name !== null && one && which === "" ? "the " : "";
    return `${hole}${which}${many}${the}${name === null ? p.key : `${name} (${p.key})`}`;
  }

  /** What a pass along a whole bracket goes through, in order. */
  private passedIn(steps: readonly Step[]): string[] {
    return steps.flatMap((step): string[] => {
      switch (step.type) {
        case "pick":
          return [this.passed(step)];
        case "group":
          return this.passedIn(step.steps);
        case "repeat": {
          const inside =
            step.step.type === "pick"
              ? [this.passed(step.step)]
              : step.step.type === "group"
                ? this.passedIn(step.step.steps)
                : this.passedIn([step.step]);
          return inside.length === 0 ? [] : [`${listed(inside)}, ${timesOf(range(step.times))}`];
        }
        case "mirror": {
          const half = this.passedIn(step.step.steps);
          const middle = step.around === null ? [] : this.passedIn([step.around]);
          return [...half, ...middle, ...[...half].reverse()];
        }
        case "each":
          return step.branches.length > 0 ? this.passedIn(step.branches[0]!.steps) : [];
        default:
          return [];
      }
    });
  }
}

const repeatsInside = (step: Step): boolean => {
  let found = false;
  for (const sequence of sequencesOf(step))
    everyStep(sequence, (s) => {
      if (s.type === "repeat" || s.type === "fit") found = true;
    });
  return found || step.type === "repeat";
};
