import type { Part } from "../contract/index.ts";
import {
  type FitStep,
  parsePattern,
  type Pattern,
  type PickStep,
  type Sequence,
  type Span,
  type Step,
} from "../shorthand/index.ts";
import { closeGap, MAX_FILL_MM } from "./fill.ts";
import { NOUN, type Role } from "./roles.ts";
import { series, type Strung, times } from "./strung.ts";

/** Limits of the language: each is a problem in its place, never a wait. */
export const MAX_NUMBER = 100_000;
export const MAX_TOTAL = 1e9;
const WITHIN_MM = 0.001;

export interface StrungPart {
  pattern: Pattern;
  rows: { row: number; label: string | null; strung: Strung }[];
  whole: Strung;
  /** The fit's result, where the part has a fit for this size. */
  fit: { repeats: number; targetMm: number } | null;
}

export interface WalkContext {
  roles: ReadonlyMap<string, Role>;
  /** A key's length on a strand: its own, a mix's mean, a sub-assembly's strand. */
  alongOf: (role: Role) => number | null;
  sizes: readonly string[];
  size: string | null;
  complain: (level: "error" | "warning", at: Span, message: string) => void;
}

/** How the one fit of a part was settled: whole repeats, then closing beads in the order of the fill keys. */
interface Settled {
  repeats: number;
  fill: number[];
}

/** Strings a part: reads its text and settles sizes, the fit and its closing beads. Each problem is reported once. */
export function stringPart(part: Part, context: WalkContext): StrungPart {
  const pattern = parsePattern(part.steps ?? "");
  for (const { message, ...at } of pattern.problems) context.complain("error", at, message);
  const on = strungOn(part, context.roles);
  const first = new Walk(on, context, pattern.text, null);
  const rows = first.rows(pattern);
  const whole = series(rows.map((row) => row.strung));
  const found = first.fit;
  if (!found) return { pattern, rows, whole, fit: null };

  const settled = settle(found, part, context, on, whole.strandMm);
  if (!settled) return { pattern, rows, whole, fit: null };
  const second = new Walk(on, { ...context, complain: () => {} }, pattern.text, settled);
  const fitted = second.rows(pattern);
  return {
    pattern,
    rows: fitted,
    whole: series(fitted.map((row) => row.strung)),
    fit: { repeats: settled.repeats, targetMm: settled.targetMm },
  };
}

interface FoundFit {
  step: FitStep;
  /** How often the fit stands on the strand: twice in a mirror. */
  copies: number;
  once: Strung | null;
  between: Strung | null;
}

function settle(
  found: FoundFit,
  part: Part,
  { size, complain, alongOf, roles }: WalkContext,
  on: StrungOn,
  restMm: number,
): (Settled & { targetMm: number }) | null {
  const { step, copies, once, between } = found;
  const targetMm = step.toMm ?? targetOf(part, size);
  if (targetMm === null) {
    const which = size === null ? "" : ` for size ${size}`;
    complain(
      "error",
      step,
      `“to length” needs the part's target length${which}. Give the part a target, or write a length: to 180mm.`,
    );
    return null;
  }
  if (!(targetMm > 0)) return null;
  const available = (targetMm - restMm) / copies;
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
  if (available < -WITHIN_MM) {
    complain(
      "warning",
      step,
      `The rest of this part is already longer than ${Number(targetMm.toFixed(2))} mm, so this is left out.`,
    );
  }
  const fill = step.fill
    ? fillFor(step.fill.keys, available - (repeats > 0 ? repeats * stepMm + (repeats - 1) * gapMm : 0))
    : [];
  return { repeats, fill, targetMm };

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

function targetOf(part: Part, size: string | null): number | null {
  const target = part.targetMm ?? null;
  if (target === null || typeof target === "number") return target;
  return size !== null && Object.hasOwn(target, size) ? target[size]! : null;
}

/** Where a step stands: what is allowed there follows from it. */
interface Standing {
  /** How many beads one that is written here can become so far, for the limit on totals. */
  many: number;
  /** How often a fit here stands on the strand; 0 where none may stand. */
  fitCopies: number;
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

  constructor(
    private readonly on: StrungOn,
    private readonly context: WalkContext,
    private readonly text: string,
    private readonly settled: Settled | null,
  ) {}

  rows(pattern: Pattern): StrungPart["rows"] {
    const standing: Standing = { many: 1, fitCopies: 1, inEach: false, off: false };
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
      return { row, label: sequence.label, strung: this.sequence(sequence, standing) };
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
    const inside: Standing = { ...standing, fitCopies: 0 };
    switch (step.type) {
      case "pick":
        return this.pick(step, standing);
      case "group":
        return this.sequence(step, inside);
      case "pass": {
        if (!this.allowed(step.times, step)) return null;
        const item =
          step.step.type === "pick"
            ? this.pick(step.step, inside)
            : this.sequence(step.step, { ...inside, many: inside.many * step.times, off: true });
        if (!item || !this.totalHolds(standing.many * step.times, step)) return null;
        return { type: "pass", item, times: step.times, strandMm: 0, pathMm: step.times * item.pathMm };
      }
      case "repeat": {
        const { n } = step.times;
        if (!this.allowed(n, step.times) || !this.totalHolds(standing.many * n, step.times)) return null;
        const many = { ...inside, many: standing.many * n };
        const item = this.step(step.step, many);
        const between = step.between && this.sequence(step.between, many);
        return item && times(n, item, between);
      }
      case "fit":
        return this.fitStep(step, standing);
      case "mirror": {
        const copies = standing.fitCopies === 1 ? 2 : 0;
        const item = this.sequence(step.step, { ...inside, many: standing.many * 2, fitCopies: copies });
        const around = step.around && this.pick(step.around, inside);
        return {
          type: "mirror",
          item,
          around,
          strandMm: 2 * item.strandMm + (around?.strandMm ?? 0),
          pathMm: 2 * item.pathMm + (around?.pathMm ?? 0),
        };
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
        const item = this.sequence(step.step, { ...inside, off: true });
        return { type: "loop", item, strandMm: 0, pathMm: item.pathMm };
      }
      case "hang": {
        if (!this.counted(step.key, step)) return null;
        const onChain = this.on.linkMm !== null && !standing.off;
        const mm = onChain ? this.on.linkMm! : 0;
        return { type: "hang", key: step.key, onChain, at: spanOf(step), strandMm: mm, pathMm: mm };
      }
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

  private pick(step: PickStep, standing: Standing): Strung | null {
    const role = this.counted(step.key, step);
    if (!role || !this.allowed(step.n, step) || !this.totalHolds(standing.many * step.n, step)) return null;
    if (step.n === 0)
      this.context.complain("warning", step, `0${step.key} adds nothing. Take it out, or say how many.`);
    const alongMm = this.along(role, step);
    const mm = step.n * alongMm;
    return { type: "bead", key: step.key, n: step.n, alongMm, at: spanOf(step), strandMm: mm, pathMm: mm };
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
        `${key} is a ${NOUN.stringing}: it is cut, not picked up. Name it as the part's stringing or under cuts.`,
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
        "“skip” counts links, so the part must be strung on a chain: a stringing role with a link length.",
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
      complain(
        "error",
        step,
        "“to” can only stand at the top of a row, of a size's branch, or of a mirror at the top of a row.",
      );
      return null;
    }
    if (step.group === null && !this.chainHere(step, standing)) return null;
    if (step.group === null && step.between)
      complain("error", step.between, "Links of chain have nothing between them. Take “between” out.");
    if (step.fill && step.fill.keys.length > 4) {
      complain("error", step.fill, "At most four keys can fill a gap.");
      return null;
    }
    const inside: Standing = { ...standing, fitCopies: 0 };
    const once = step.group && this.sequence(step.group, inside);
    const between = step.group && step.between && this.sequence(step.between, inside);
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
    const { repeats, fill } = this.settled;
    const items: Strung[] = [];
    if (once) items.push(times(repeats, once, between));
    else
      items.push({
        type: "links",
        n: repeats,
        at: spanOf(step),
        strandMm: repeats * this.on.linkMm!,
        pathMm: repeats * this.on.linkMm!,
      });
    fill.forEach((n, i) => {
      const role = known[i];
      if (n === 0 || !role) return;
      const alongMm = this.context.alongOf(role) ?? 0;
      items.push({
        type: "bead",
        key: role.key,
        n,
        alongMm,
        at: spanOf(step.fill!.keys[i]!),
        strandMm: n * alongMm,
        pathMm: n * alongMm,
      });
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
