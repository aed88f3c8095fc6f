import type { Part } from "../contract/index.ts";
import {
  type FitStep,
  type GroupStep,
  parsePattern,
  type Pattern,
  type PickStep,
  type RestStep,
  type Sequence,
  type Spacer,
  type Span,
  type Step,
} from "../shorthand/index.ts";
import { closeGap, MAX_FILL_MM } from "./fill.ts";
import { NOUN, type Role } from "./roles.ts";
import { bead, type BeadNode, isOnEveryStrand, mirror, series, spaced, type Strung, times, unitsOf } from "./strung.ts";

/** Limits of the language: each is a problem in its place, never a wait. */
export const MAX_NUMBER = 100_000;
export const MAX_TOTAL = 1e9;
const WITHIN_MM = 0.001;
const REACHES_TWICE = "A part reaches for one length only: “rest” and “to” can't both do it. Take one out.";
const NEEDS_TARGET = "needs the part's target length";

/** Whether a problem is only that a target is still to come: one may write what reaches for it first. */
export const awaitsTarget = (problem: { message: string }) => problem.message.includes(NEEDS_TARGET);

export interface StrungPart {
  pattern: Pattern;
  rows: { row: number; label: string | null; behind: boolean; strung: Strung }[];
  whole: Strung;
  /** How a fit or a rest was settled, where the part has one for this size. */
  settled: Settled | null;
}

export interface WalkContext {
  roles: ReadonlyMap<string, Role>;
  /** A key's length on a strand: its own, a mix's mean, a sub-assembly's finished length. */
  alongOf: (role: Role) => number | null;
  sizes: readonly string[];
  size: string | null;
  /** The least of a range such as 7-8 is taken instead of the most, with what was settled for the most. */
  least: Settled | null | undefined;
  /** What a part that takes up what is left of another is to come to, as strand; null where that is not known. */
  givenMm: number | null;
  /** Whether another part says `rest` of this one, and so how long it is to be. */
  isRest: boolean;
  /** Fits the sub-assembly of a `rest` to a length and returns what it comes to; or says why it can't. */
  fitRest: (step: RestStep, mm: number) => number | string;
  /** `at` is null for what is of no place in the rows. */
  complain: (level: "error" | "warning", at: Span | null, message: string) => void;
}

/** How the one fit, or the one rest, of a part was settled. */
export interface Settled {
  of: FitStep["of"] | "rest";
  targetMm: number;
  /** Whole repeats, or links; 0 for bare room and for a rest. */
  repeats: number;
  /** Closing beads in the order of the fill keys. */
  fill: number[];
  /** How long bare room, or one member that takes up the rest, comes out. */
  mm: number;
}

/** Strings a part: reads its text and settles sizes, the fit and its closing beads. Each problem is reported once. */
export function stringPart(part: Part, context: WalkContext): StrungPart {
  const pattern = parsePattern(part.steps ?? "");
  for (const { message, ...at } of pattern.problems) context.complain("error", at, message);
  const on = strungOn(part, context.roles);
  const read = (settled: Settled | null, quietly: boolean) => {
    const walk = new Walk(on, quietly ? { ...context, complain: () => {} } : context, pattern.text, settled);
    const rows = walk.rows(pattern);
    return { walk, rows, whole: series(rows.map((row) => row.strung)) };
  };
  if (context.least !== undefined) {
    const { rows, whole } = read(context.least, true);
    return { pattern, rows, whole, settled: context.least };
  }
  const { walk, rows, whole } = read(null, false);
  const settled = walk.rest
    ? settleRest(walk.rest, part, context, on, whole.strandMm)
    : walk.fit && settle(walk.fit, part, context, on, whole.strandMm);
  if (!walk.fit && !walk.rest && targetOf(part, context.size) !== null && !walk.refused) {
    context.complain(
      "warning",
      null,
      "This part has a target, but nothing in its rows reaches for it. Write “to length” after what repeats, " +
        "“rest” before what takes up what is left, or take the target out.",
    );
  }
  if (!settled) {
    if (!walk.fit && !walk.rest) walk.checkNamed(whole);
    return { pattern, rows, whole, settled: null };
  }
  const again = read(settled, true);
  walk.checkNamed(again.whole);
  return { pattern, rows: again.rows, whole: again.whole, settled };
}

interface FoundFit {
  step: FitStep;
  /** How often the fit stands on the strand: twice in a mirror. */
  copies: number;
  once: Strung | null;
  between: Strung | null;
}

interface FoundRest {
  step: RestStep;
  copies: number;
}

const tooLong = (targetMm: number, what: string) =>
  `The rest of this part is already longer than ${Number(targetMm.toFixed(2))}\u00a0mm, so ${what}.`;

/** Fits the one member that takes up what is left of the part's target, shared equally where it stands more often. */
function settleRest(
  { step, copies }: FoundRest,
  part: Part,
  { size, complain, fitRest }: WalkContext,
  on: StrungOn,
  othersMm: number,
): Settled | null {
  const targetMm = targetOf(part, size);
  if (on.linkMm !== null) {
    const why = "“rest” can't stand on chain. Give what is joined a part of its own, strung on nothing.";
    complain("error", step, why);
    return null;
  }
  if (targetMm === null) {
    const which = size === null ? "" : ` for size ${size}`;
    complain("error", step, `“rest” ${NEEDS_TARGET}${which}: ${step.key} takes up what is left of it.`);
    return null;
  }
  const left = (targetMm - othersMm) / copies;
  if (left < -WITHIN_MM) complain("warning", step, tooLong(targetMm, `nothing is left for ${step.key}`));
  const mm = fitRest(step, Math.max(0, left));
  if (typeof mm === "string") {
    complain("error", step, mm);
    return null;
  }
  return { of: "rest", targetMm, repeats: 0, fill: [], mm };
}

function settle(
  found: FoundFit,
  part: Part,
  { size, complain, alongOf, roles, givenMm, isRest }: WalkContext,
  on: StrungOn,
  restMm: number,
): Settled | null {
  const { step, copies, once, between } = found;
  const own = targetOf(part, size);
  // A target is the finished length; the strand it takes differs where making changes the length.
  const targetMm = step.toMm ?? (isRest ? givenMm : own === null ? null : own / (part.finishedRatio ?? 1));
  if (targetMm === null) {
    if (isRest) return null; // reported where the rest is asked for
    const which = size === null ? "" : ` for size ${size}`;
    complain(
      "error",
      step,
      `“to length” ${NEEDS_TARGET}${which}. Give the part a target, or write a length: to 180mm.`,
    );
    return null;
  }
  if (!(targetMm > 0) && !isRest) return null;
  const available = (targetMm - restMm) / copies;
  if (step.of === "room") {
    if (available < -WITHIN_MM) complain("warning", step, tooLong(targetMm, "no room is left here"));
    return { of: "room", targetMm, repeats: 0, fill: [], mm: Math.max(0, available) };
  }
  const stepMm = once ? once.strandMm : on.linkMm!;
  const gapMm = between?.strandMm ?? 0;
  if (!(stepMm > 0)) {
    complain(
      "error",
      step,
      "Nothing in this bracket has a length, so no number of repeats fills anything. Give its beads a size " +
        "along the thread.",
    );
    return null;
  }
  const repeats = Math.max(0, Math.floor((available + gapMm + WITHIN_MM) / (stepMm + gapMm)));
  if (available < -WITHIN_MM) complain("warning", step, tooLong(targetMm, "this is left out"));
  const fill = step.fill
    ? fillFor(step.fill.keys, available - (repeats > 0 ? repeats * stepMm + (repeats - 1) * gapMm : 0))
    : [];
  return { of: step.of, targetMm, repeats, fill, mm: 0 };

  function fillFor(keys: readonly ({ key: string } & Span)[], gap: number): number[] {
    const lengths: number[] = [];
    for (const at of keys) {
      const role = roles.get(at.key);
      if (!role || role.type === "stringing") return []; // the walk reports it
      const along = alongOf(role);
      if (along === null || along < 0.01) {
        complain(
          "error",
          at,
          `${at.key} has no length along the thread, so it can't close a gap. Give it one in the bead key.`,
        );
        return [];
      }
      lengths.push(along);
    }
    if (keys.length === 0) return []; // half typed: the parser reports it
    if (gap <= 0) return keys.map(() => 0);
    if (gap > MAX_FILL_MM) {
      complain(
        "error",
        step,
        "More than 2 m is left to fill. Fill closes small gaps; repeat more of the pattern instead.",
      );
      return [];
    }
    return closeGap(gap, lengths);
  }
}

const targetOf = (part: Part, size: string | null) => ofSize(part.targetMm, size);

/** What a measure that may differ by size is in one: null where nothing is said. */
export function ofSize(
  said: number | Readonly<Record<string, number>> | null | undefined,
  size: string | null,
): number | null {
  if (said == null || typeof said === "number") return said ?? null;
  return size !== null && Object.hasOwn(said, size) ? said[size]! : null;
}

/** Where a step stands: what is allowed there follows from it. */
interface Standing {
  /** How many beads one that is written here can become so far, for the limit on totals. */
  many: number;
  /** How often a fit or a rest here stands on the strand; 0 where none may stand. */
  fitCopies: number;
  /** Whether something may be joined here: at the top level. */
  mayJoin: boolean;
  inEach: boolean;
  /** Off the strand: in a loop, in a fringe or passing through. */
  off: boolean;
}

/** What a part is strung on: how many strands side by side, and the link length if it is a chain. */
interface StrungOn {
  linkMm: number | null;
  strands: number;
}

function strungOn(part: Part, roles: ReadonlyMap<string, Role>): StrungOn {
  const role = part.stringing == null ? undefined : roles.get(part.stringing);
  return { linkMm: role?.type === "stringing" ? role.linkMm : null, strands: part.strands ?? 1 };
}

class Walk {
  fit: FoundFit | null = null;
  rest: FoundRest | null = null;
  /** A fit or a rest that was reported as standing wrong. */
  refused = false;
  /** Passes through one named bead: looked up when the whole part is strung. */
  private readonly named: { key: string; nth: number; at: Span }[] = [];

  constructor(
    private readonly on: StrungOn,
    private readonly context: WalkContext,
    private readonly text: string,
    private readonly settled: Settled | null,
  ) {}

  rows(pattern: Pattern): StrungPart["rows"] {
    const standing: Standing = { many: 1, fitCopies: 1, mayJoin: true, inEach: false, off: false };
    let row = 1;
    let lineStart = 0;
    return pattern.rows.map((sequence) => {
      for (
        let i = this.text.indexOf("\n", lineStart);
        i >= 0 && i < sequence.from;
        i = this.text.indexOf("\n", i + 1)
      ) {
        row++;
        lineStart = i + 1;
      }
      return { row, label: sequence.label, behind: sequence.behind, strung: this.sequence(sequence, standing) };
    });
  }

  private sequence({ steps }: Sequence, standing: Standing): Strung {
    const items: Strung[] = [];
    for (const step of steps) {
      const strung = this.step(step, standing);
      if (strung) items.push(strung);
    }
    return items.length === 1 ? items[0]! : series(items);
  }

  private step(step: Step, standing: Standing): Strung | null {
    const inside: Standing = { ...standing, fitCopies: 0, mayJoin: false };
    switch (step.type) {
      case "pick":
        return this.pick(step, standing);
      case "group":
        return this.spaced(this.sequence(step, inside), step.spaced, inside);
      case "pass":
        return this.pass(step, inside);
      case "repeat": {
        const n = this.numberOf(step.times);
        if (!this.allowed(step.times.n, step.times)) return null;
        if (!this.totalHolds(standing.many * step.times.n, step.times)) return null;
        const many = { ...inside, many: standing.many * n };
        const item = this.step(step.step, many);
        const between = step.between && this.sequence(step.between, many);
        return item && this.spaced(times(n, item, between), step.spaced, many);
      }
      case "fit":
        return this.fitStep(step, standing);
      case "mirror": {
        const atTop = standing.fitCopies === 1;
        const mayJoin = standing.mayJoin && atTop;
        const doubled = { ...inside, many: standing.many * 2, fitCopies: atTop ? 2 : 0, mayJoin };
        const half = this.spaced(this.sequence(step.step, doubled), step.step.spaced, doubled);
        const { around } = step;
        if (!around) return mirror(half, null);
        const middle = { ...inside, mayJoin };
        return mirror(half, around.type === "pick" ? this.pick(around, inside) : this.bracket(around, middle));
      }
      case "each":
        return this.each(step, inside);
      case "fringe": {
        const off = { ...inside, off: true };
        const down = this.sequence(step.down, off);
        const turn = this.sequence(step.turn, off);
        return { type: "fringe", down, turn, strandMm: 0, pathMm: 2 * down.pathMm + turn.pathMm };
      }
      case "loop": {
        const item = this.bracket(step.step, { ...inside, off: true });
        return { type: "loop", item, strandMm: 0, pathMm: item.pathMm };
      }
      case "hang": {
        const hung = step.picks.flatMap((pick) => {
          const role = this.counted(pick.key, pick);
          if (!role || !this.allowed(pick.n, pick) || !this.totalHolds(standing.many * pick.n, pick)) return [];
          return [{ key: pick.key, n: this.numberOf(pick), at: spanOf(pick) }];
        });
        if (hung.length === 0) return null;
        const onChain = this.on.linkMm !== null && !standing.off;
        const mm = onChain ? this.on.linkMm! : 0;
        return { type: "hang", hung, onChain, at: spanOf(step), strandMm: mm, pathMm: mm };
      }
      case "join":
        return this.join(step, standing);
      case "rest":
        return this.restStep(step, standing);
      case "skip":
        return this.skip(step, standing);
      case "space": {
        let mm = step.mm ?? 0;
        if (step.pick) {
          const role = this.counted(step.pick.key, step.pick);
          if (!role || !this.allowed(step.pick.n, step.pick)) return null;
          mm = step.pick.n * this.along(role, step.pick);
        }
        return { type: "space", at: spanOf(step), strandMm: mm, pathMm: mm };
      }
      case "knot":
        // Without `takes` a knot takes as much thread as it is long.
        return { type: "knot", at: spanOf(step), strandMm: step.mm, pathMm: step.takesMm ?? step.mm };
      case "bysize":
        return this.bySize(step, standing);
    }
  }

  /** How many are meant: the most of a range, or its least where that is asked for. */
  private numberOf(of: { n: number; least: number }): number {
    return this.context.least === undefined ? of.n : of.least;
  }

  private bracket(step: GroupStep, standing: Standing): Strung {
    return this.spaced(this.sequence(step, standing), step.spaced, standing);
  }

  /** A bracket or repeat with what stands between every two of its beads. */
  private spaced(item: Strung, spacer: Spacer | null, standing: Standing): Strung {
    if (!spacer) return item;
    const gaps = Math.max(unitsOf(item) - 1, 0);
    const inside = { ...standing, fitCopies: 0, mayJoin: false, many: standing.many * Math.max(gaps, 1) };
    const between = spacer.type === "pick" ? this.pick(spacer, inside) : this.bracket(spacer, inside);
    if (!between || !this.totalHolds(standing.many * gaps * Math.max(1, unitsOf(between)), spacer)) return item;
    return spaced(item, between);
  }

  private pass(step: Extract<Step, { type: "pass" }>, inside: Standing): Strung | null {
    const n = step.times === null ? 1 : this.numberOf(step.times);
    if (step.times && !this.allowed(step.times.n, step)) return null;
    const item =
      step.step.type === "pick"
        ? this.pick(step.step, inside)
        : this.bracket(step.step, { ...inside, many: inside.many * n, off: true });
    if (!item || !this.totalHolds(inside.many * n, step)) return null;
    if (step.which !== null && step.step.type === "pick") {
      const nth = step.which === "first" ? 1 : step.which === "last" ? -1 : step.which;
      this.named.push({ key: step.step.key, nth, at: spanOf(step) });
    }
    return { type: "pass", item, times: n, which: step.which, strandMm: 0, pathMm: n * item.pathMm };
  }

  /** Reports passes through a bead that the part does not string. */
  checkNamed(whole: Strung) {
    for (const { key, nth, at } of this.named) {
      if (isOnEveryStrand(whole, key, Math.max(nth, 1) - 1) !== null) continue;
      this.context.complain(
        "error",
        at,
        nth > 1
          ? `There are fewer than ${nth} ${key} strung in this part. Write @ with a number that is there, or ` +
              `>${key} alone.`
          : `No ${key} is strung in this part, so there is no first and no last. Pick it up in a row first.`,
      );
    }
  }

  private join(step: Extract<Step, { type: "join" }>, standing: Standing): Strung | null {
    if (!standing.mayJoin || standing.off || standing.inEach) {
      this.context.complain(
        "error",
        step,
        "“join” ends the cut, so it can only stand at the top of a row, of a size's branch, or of a mirror there.",
      );
      return null;
    }
    const picks = step.step.type === "pick" ? [step.step] : step.step.steps;
    const beads: BeadNode[] = [];
    for (const pick of picks) {
      if (pick.type !== "pick") {
        this.context.complain("error", pick, "Only keys can be joined: join CL, or join (JR TR).");
        continue;
      }
      const node = this.pick(pick, standing);
      if (node) beads.push(node);
    }
    const mm = beads.reduce((sum, b) => sum + b.strandMm, 0);
    return { type: "join", beads, strandMm: mm, pathMm: 0 };
  }

  private restStep(step: RestStep, standing: Standing): Strung | null {
    const { complain } = this.context;
    const role = this.counted(step.key, step);
    const wrong = (message: string) => {
      this.refused = true;
      complain("error", step, message);
      return null;
    };
    if (!role) return null;
    if (role.type !== "sub") {
      return wrong(
        `“rest” takes up what is left, so ${step.key} must be a sub-assembly with a “to length” in its rows. ` +
          "Make it a part with a key of its own.",
      );
    }
    if (standing.fitCopies === 0 || standing.off || standing.inEach)
      return wrong(
        "“rest” can only stand at the top of a row, of a size's branch, or of a mirror at the top of a row.",
      );
    if (this.fit) return wrong(REACHES_TWICE);
    if (this.rest && this.rest.step.key !== step.key)
      return wrong(`One member only takes up what is left, and ${this.rest.step.key} does already.`);
    if (this.rest) this.rest.copies += standing.fitCopies;
    else this.rest = { step, copies: standing.fitCopies };
    const mm = this.settled?.of === "rest" ? this.settled.mm : 0;
    return { type: "rest", key: step.key, at: spanOf(step), strandMm: mm, pathMm: 0 };
  }

  private pick(step: PickStep, standing: Standing): BeadNode | null {
    const role = this.counted(step.key, step);
    if (!role || !this.allowed(step.n, step) || !this.totalHolds(standing.many * step.n, step)) return null;
    if (step.n === 0)
      this.context.complain("warning", step, `0${step.key} adds nothing. Take it out, or say how many.`);
    const holes = role.type === "plain" ? (role.entry.holes ?? 1) : 1;
    if (step.hole < 1 || step.hole > holes) {
      this.context.complain(
        "warning",
        step,
        `${step.key} has ${holes === 1 ? "one hole" : `${holes} holes`}, so there is no ${step.key}.${step.hole}. ` +
          "Say in the bead key how many holes it has.",
      );
    }
    const alongMm = this.along(role, step);
    return bead({ key: step.key, n: this.numberOf(step), alongMm, hole: step.hole, at: spanOf(step) });
  }

  /** Any key that can be picked up or hung: everything but stringing. */
  private counted(key: string, at: Span): Role | null {
    const role = this.context.roles.get(key);
    if (!role) {
      const like = [...this.context.roles.keys()].find((k) => k.toLowerCase() === key.toLowerCase());
      const hint = like
        ? `did you mean ${like}? Capitals count`
        : /^(mm|cm|m|in|ft)$/.test(key)
          ? "write a length without a space before its unit"
          : "add it there, or use a key that is";
      this.context.complain("error", at, `There is no ${key} in the bead key; ${hint}.`);
      return null;
    }
    if (role.type === "stringing") {
      this.context.complain(
        "error",
        at,
        `${key} is ${NOUN.stringing}: it is cut, not picked up. ` +
          "Choose it under “strung on”, or name it under cuts.",
      );
      return null;
    }
    return role;
  }

  private along(role: Role, at: Span): number {
    const along = this.context.alongOf(role);
    if (along === null) {
      this.context.complain(
        "warning",
        at,
        `${role.key} has no size along the thread, so the row comes out too short. Give it one in the bead key.`,
      );
    }
    return along ?? 0;
  }

  private each(step: Extract<Step, { type: "each" }>, inside: Standing): Strung | null {
    if (inside.inEach) {
      this.context.complain(
        "error",
        step,
        "“each” can't stand inside another “each”. One each already speaks of every strand on its own.",
      );
      return null;
    }
    const many = { ...inside, inEach: true, many: inside.many * this.on.strands };
    const branches = step.branches.map((branch) => this.sequence(branch, many));
    if (branches.length > 1 && branches.length !== this.on.strands) {
      this.context.complain(
        "error",
        step,
        `This has ${branches.length} branches, but the part has ${this.on.strands} ` +
          `${this.on.strands === 1 ? "strand" : "strands"}. Write one branch for all, or one a strand.`,
      );
    }
    const lengths = branches.map((b) => b.strandMm);
    if (Math.max(...lengths) - Math.min(...lengths) > 0.5) {
      this.context.complain("warning", step, "The strands of this “each” come out unequal; the longest counts.");
    }
    return {
      type: "each",
      branches,
      strands: this.on.strands,
      strandMm: Math.max(0, ...lengths),
      pathMm: Math.max(0, ...branches.map((b) => b.pathMm)),
    };
  }

  private skip(step: Extract<Step, { type: "skip" }>, standing: Standing): Strung | null {
    if (!this.chainHere(step, standing)) return null;
    const n = "links" in step.amount ? step.amount.links : Math.ceil(step.amount.mm / this.on.linkMm! - 1e-6);
    if ("links" in step.amount && !this.allowed(n, step)) return null;
    if (!this.totalHolds(standing.many * n, step)) return null;
    const mm = n * this.on.linkMm!;
    return { type: "links", n, at: spanOf(step), strandMm: mm, pathMm: mm };
  }

  private chainHere(at: Span, standing: Standing): boolean {
    if (this.on.linkMm === null) {
      this.context.complain(
        "error",
        at,
        "“skip” counts links, so the part must be strung on chain. Give what it is strung on a link length in " +
          "the bead key.",
      );
      return false;
    }
    if (standing.off || standing.inEach) {
      this.context.complain(
        "error",
        at,
        "“skip” goes along the chain itself, so it can't stand in a loop, a fringe, an each or behind >.",
      );
      return false;
    }
    return true;
  }

  private fitStep(step: FitStep, standing: Standing): Strung | null {
    const { complain } = this.context;
    if (standing.fitCopies === 0 || standing.off || standing.inEach) {
      this.refused = true;
      complain(
        "error",
        step,
        "“to” can only stand at the top of a row, of a size's branch, or of a mirror at the top of a row.",
      );
      return null;
    }
    if (step.of === "links" && !this.chainHere(step, standing)) return null;
    if (step.of === "room" && this.on.linkMm !== null) {
      this.refused = true;
      complain(
        "error",
        step,
        "“space to” leaves bare room, of which chain has none, and counts no links. Write “skip to length” for links.",
      );
      return null;
    }
    if (step.of !== "repeats" && (step.between || step.fill)) {
      const what = step.of === "links" ? "Links of chain have" : "Bare room has";
      if (step.between) complain("error", step.between, `${what} nothing between them. Take “between” out.`);
      if (step.fill) complain("error", step.fill, `${what} nothing to fill it with. Take “fill” out.`);
    }
    if (this.rest) {
      this.refused = true;
      complain("error", step, REACHES_TWICE);
      return null;
    }
    if (step.fill && step.fill.keys.length > 4) {
      complain("error", step.fill, "At most four keys can fill a gap.");
      return null;
    }
    const inside: Standing = { ...standing, fitCopies: 0, mayJoin: false };
    const once = step.group && this.bracket(step.group, inside);
    const between = step.group && step.between && this.bracket(step.between, inside);
    const known = (step.fill?.keys ?? []).map((at) => this.counted(at.key, at));
    if (!this.settled) {
      if (this.fit)
        complain(
          "error",
          step,
          "A part can reach for one length only: one “to” for any one size. Move this one to a part of its own.",
        );
      else this.fit = { step, copies: standing.fitCopies, once, between };
      return null;
    }
    if (this.fit) return null;
    this.fit = { step, copies: standing.fitCopies, once, between };
    const { repeats, fill, mm } = this.settled;
    if (step.of === "room") return { type: "space", at: spanOf(step), strandMm: mm, pathMm: mm };
    const links = repeats * (this.on.linkMm ?? 0);
    const items: Strung[] = [
      once
        ? times(repeats, once, between)
        : { type: "links", n: repeats, at: spanOf(step), strandMm: links, pathMm: links },
    ];
    fill.forEach((n, i) => {
      const role = known[i];
      if (n === 0 || !role) return;
      const alongMm = this.context.alongOf(role) ?? 0;
      items.push(bead({ key: role.key, n, alongMm, hole: 1, at: spanOf(step.fill!.keys[i]!) }));
    });
    return series(items);
  }

  private bySize(step: Extract<Step, { type: "bysize" }>, standing: Standing): Strung | null {
    const { sizes, size, complain } = this.context;
    const written = step.branches.map((b) => b.size);
    if (sizes.length === 0)
      complain("error", step, "This design has no sizes. Add its sizes, or write the beads without size{…}.");
    for (const { size: name, sizeAt } of step.branches) {
      if (sizes.length > 0 && !sizes.includes(name))
        complain("error", sizeAt, `There is no size ${name}. The sizes are ${sizes.join(", ")}.`);
    }
    const twice = written.find((name, i) => written.indexOf(name) !== i);
    if (twice !== undefined) complain("error", step, `Size ${twice} is there twice; every size stands once.`);
    const missing = sizes.filter((name) => !written.includes(name));
    if (missing.length > 0) {
      complain(
        "error",
        step,
        `Size ${missing.join(", ")} is missing here. Add “| ${missing[0]}: …”, empty if it adds nothing.`,
      );
    }
    let strung: Strung | null = null;
    for (const branch of step.branches) {
      if (branch.size === size && strung === null) strung = this.sequence(branch, standing);
      // The other sizes are read too, so that a mistake in one shows while another is looked at.
      else new Walk(this.on, { ...this.context, size: branch.size }, this.text, null).sequence(branch, standing);
    }
    return strung;
  }

  private allowed(n: number, at: Span): boolean {
    if (n <= MAX_NUMBER) return true;
    this.context.complain(
      "error",
      at,
      `A number here is at most ${MAX_NUMBER.toLocaleString("en")}. This step is left out of the count.`,
    );
    return false;
  }

  private totalHolds(n: number, at: Span): boolean {
    if (n <= MAX_TOTAL) return true;
    this.context.complain("error", at, "This comes to more than 1,000,000,000. This step is left out of the count.");
    return false;
  }
}

const spanOf = ({ from, to }: Span): Span => ({ from, to });
