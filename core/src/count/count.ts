import type { Answer, Cut, Design, Part, PartAnswer, Piece, Problem, Use } from "../contract/index.ts";
import { placeOf, type Span } from "../shorthand/index.ts";
import { type Colourway, NOUN, type Role, settleRoles, shareOut } from "./roles.ts";
import { addTo, chainRun, type Placing, placings } from "./strung.ts";
import { MAX_TOTAL, stringPart, type StrungPart } from "./walk.ts";

export interface CountOptions {
  size?: string | null;
  option?: string | null;
  colourway?: Colourway | null;
}

/** All that one count worked out: the answer, and the strung parts that picture and “where from” read. */
export interface Counting {
  design: Design;
  answer: Answer;
  parts: StrungPartOf[];
  roles: ReadonlyMap<string, Role>;
  /** How often each part stands in one finished item, sub-assemblies included. */
  timesUsed: ReadonlyMap<string, number>;
  /** Beads of each mix in one finished item, before they are shared out. */
  mixes: ReadonlyMap<string, number>;
}

export interface StrungPartOf extends StrungPart {
  part: Part;
  placings: Placing[];
  /** The lengths cut for one of this part: of its own stringing, and those it names under cuts. */
  cuts: MadeCut[];
}

export interface MadeCut {
  key: string;
  mm: number;
  count: number;
  /** Which of the part's named cuts it is; null for the stringing itself. */
  named: number | null;
}

const MAX_LEVELS = 32;

/** Counts one finished item of a design. Pure, and never throws on a design that keeps the contract. */
export function count(design: Design, options: CountOptions = {}): Answer {
  return countWhole(design, options).answer;
}

/** As {@link count}, with all that lies behind the answer. */
export function countWhole(design: Design, options: CountOptions = {}): Counting {
  return new Tally(design, options).run();
}

/** Plain numbers of roles, of mixes still to be shared out, and of cut pieces. */
class Sums {
  readonly counts = new Map<string, number>();
  readonly mixes = new Map<string, number>();
  readonly pieces = new Map<string, Map<number, number>>();

  add(other: Sums, n: number) {
    for (const [key, count] of other.counts) addTo(this.counts, key, count * n);
    for (const [key, count] of other.mixes) addTo(this.mixes, key, count * n);
    for (const [key, pieces] of other.pieces) for (const [mm, count] of pieces) this.cut(key, mm, count * n);
  }

  cut(key: string, mm: number, n: number) {
    const pieces = this.pieces.get(key) ?? new Map<number, number>();
    this.pieces.set(key, pieces);
    addTo(pieces, round(mm), n);
  }

  get most() {
    let most = 0;
    for (const n of this.counts.values()) most = Math.max(most, n);
    for (const n of this.mixes.values()) most = Math.max(most, n);
    for (const pieces of this.pieces.values()) for (const n of pieces.values()) most = Math.max(most, n);
    return most;
  }
}

class Tally {
  private readonly problems: Problem[] = [];
  private readonly told = new Set<string>();
  private readonly roles: Map<string, Role>;
  private readonly strung = new Map<Part, StrungPartOf>();
  private readonly sums = new Map<Part, Sums>();
  private readonly open: Part[] = [];
  private readonly size: string | null;

  constructor(
    private readonly design: Design,
    private readonly options: CountOptions,
  ) {
    this.roles = settleRoles(design, options.colourway ?? null, this.complain);
    this.size = this.chooseSize();
  }

  run(): Counting {
    const { design } = this;
    const option = this.chooseOption();
    const parts = design.parts.filter(
      (part) => part.as != null || !part.options?.length || (option !== null && part.options.includes(option)),
    );
    const item = new Sums();
    for (const part of parts) {
      if (part.as == null) item.add(this.sumsOf(part), part.makes ?? 1);
      else this.sumsOf(part);
    }
    const kit = new Sums();
    for (const use of design.uses ?? []) this.use(use.per === "kit" ? kit : item, use, 1, null, "the whole design");
    if (kit.pieces.size > 0) {
      this.complain("error", null, "What a kit has once can't hold cut lengths. Name plain roles there.");
    }
    this.limit(item, null);
    this.limit(kit, null);

    const answer: Answer = {
      size: this.size,
      option,
      counts: this.resolve(item),
      perKit: this.resolve(kit),
      lengthsMm: {},
      pieces: {},
      parts: parts.map((part) => this.answerOf(part)),
      problems: this.problems,
    };
    for (const [key, pieces] of item.pieces) {
      const list: Piece[] = [...pieces].map(([mm, count]) => ({ mm, count })).filter((p) => p.mm > 0 && p.count > 0);
      if (list.length === 0) continue;
      answer.pieces[key] = list.sort((a, b) => b.mm - a.mm);
      answer.lengthsMm[key] = round(list.reduce((sum, p) => sum + p.mm * p.count, 0));
    }
    return {
      design,
      answer,
      parts: parts.map((part) => this.string(part)),
      roles: this.roles,
      timesUsed: this.timesUsed(parts),
      mixes: item.mixes,
    };
  }

  private complain = (
    level: Problem["level"],
    part: string | null,
    message: string,
    at?: { text: string; span: Span },
  ) => {
    const place = at ? placeOf(at.text, at.span) : { row: null, from: null, to: null };
    const key = `${part}|${message}|${level === "error" ? `${place.row}:${place.from}` : ""}`;
    if (this.told.has(key) || this.problems.length >= 200) return;
    this.told.add(key);
    this.problems.push({ level, part, ...place, message });
  };

  private chooseSize(): string | null {
    const sizes = (this.design.sizes ?? []).map((s) => s.key);
    const asked = this.options.size ?? null;
    if (sizes.length === 0) {
      if (asked !== null) this.complain("error", null, `There is no size ${asked}: this design has one size only.`);
      return null;
    }
    if (asked !== null && sizes.includes(asked)) return asked;
    const list = sizes.join(", ");
    this.complain(
      "error",
      null,
      asked === null ? `Choose one of the sizes ${list}.` : `There is no size ${asked}. The sizes are ${list}.`,
    );
    return asked === null ? null : sizes[0]!;
  }

  private chooseOption(): string | null {
    const options = (this.design.options ?? []).map((o) => o.key);
    const asked = this.options.option ?? null;
    if (asked === null && options.length === 0) return null;
    if (asked !== null && options.includes(asked)) return asked;
    const list = options.join(", ");
    this.complain(
      "error",
      null,
      options.length === 0
        ? `There is no option ${asked}: this design can be made in one way only.`
        : asked === null
          ? `Choose one of the options ${list}.`
          : `There is no option ${asked}. The options are ${list}.`,
    );
    return null;
  }

  /** A part's text, strung; a sub-assembly's once, wherever it is used. */
  private string(part: Part): StrungPartOf {
    const known = this.strung.get(part);
    if (known) return known;
    const text = part.steps ?? "";
    const strung = stringPart(part, {
      roles: this.roles,
      alongOf: (role) => this.alongOf(role),
      sizes: (this.design.sizes ?? []).map((s) => s.key),
      size: this.size,
      complain: (level, span, message) => this.complain(level, part.id, message, { text, span }),
    });
    const all: StrungPartOf = { ...strung, part, placings: placings(strung.whole, part.strands ?? 1), cuts: [] };
    this.strung.set(part, all);
    all.cuts = [...this.stringing(part, strung), ...(part.cuts ?? []).flatMap((cut, i) => this.cut(part, cut, i))];
    return all;
  }

  private alongOf(role: Role): number | null {
    if (role.type !== "sub" || role.alongMm !== null) return role.alongMm;
    if (this.open.includes(role.part)) return null; // a circle: reported where it is counted
    if (!this.enter(role.part)) return null;
    const mm = this.string(role.part).whole.strandMm;
    this.open.pop();
    return mm > 0 ? mm : null;
  }

  /** Goes one level into a sub-assembly; a circle or too many levels are reported and refused. */
  private enter(part: Part): boolean {
    if (this.open.includes(part)) {
      const circle = [...this.open.slice(this.open.indexOf(part)), part].map((p) => p.as ?? p.name).join(" → ");
      this.complain(
        "error",
        part.id,
        `These sub-assemblies hold each other in a circle: ${circle}. Take one of them out of the other.`,
      );
      return false;
    }
    if (this.open.length >= MAX_LEVELS) {
      this.complain("error", part.id, `Sub-assemblies go ${MAX_LEVELS} levels deep at most.`);
      return false;
    }
    this.open.push(part);
    return true;
  }

  /** What one of a part takes, everything inside it included. */
  private sumsOf(part: Part): Sums {
    const known = this.sums.get(part);
    if (known) return known;
    const sums = new Sums();
    if (!this.enter(part)) return sums;
    const strung = this.string(part);
    for (const { key, picked, hangs } of strung.placings) {
      if (picked === 0) continue;
      this.take(sums, key, picked);
      if (hangs)
        for (const use of this.roles.get(key)!.hangsBy) this.use(sums, use, picked, part, `what ${key} hangs by`);
    }
    for (const use of part.uses ?? []) this.use(sums, use, 1, part, "this part's findings");
    for (const { key, mm, count } of strung.cuts) sums.cut(key, mm, count);
    this.open.pop();
    this.limit(sums, part);
    this.sums.set(part, sums);
    return sums;
  }

  private take(sums: Sums, key: string, n: number) {
    const role = this.roles.get(key)!;
    if (role.type === "sub") sums.add(this.sumsOf(role.part), n);
    else addTo(role.type === "mix" ? sums.mixes : sums.counts, key, n);
  }

  private use(sums: Sums, { key, count }: Use, n: number, part: Part | null, where: string) {
    const role = this.roles.get(key);
    if (!role) {
      this.complain(
        "error",
        part?.id ?? null,
        `There is no ${key} in the bead key, but ${where} names it. Add it there, or take it out here.`,
      );
    } else if (role.type === "stringing") {
      this.complain(
        "error",
        part?.id ?? null,
        `${key} is a ${NOUN.stringing}, so it is cut and not counted. Name it under cuts instead of ${where}.`,
      );
    } else {
      this.take(sums, key, count * n);
    }
  }

  private stringing(part: Part, { whole }: StrungPart): MadeCut[] {
    if (part.stringing == null) return [];
    const role = this.roles.get(part.stringing);
    if (role?.type !== "stringing") {
      const what = role ? `is a ${NOUN[role.type]}` : "is not in the bead key";
      this.complain(
        "error",
        part.id,
        `This part is strung on ${part.stringing}, which ${what}. Choose a stringing material.`,
      );
      return [];
    }
    const strands = part.strands ?? 1;
    if (role.linkMm !== null) {
      const run = chainRun(whole);
      const stretches = new Map(run.inner);
      addTo(stretches, run.first, 1);
      if (run.divided) addTo(stretches, run.last, 1);
      const { key, linkMm, lossLinks } = role;
      return [...stretches].flatMap(([links, n]) =>
        links > 0 ? [{ key, mm: (links + lossLinks) * linkMm, count: n * strands, named: null }] : [],
      );
    }
    const strandsACut = part.folded ? 2 : 1;
    if (strands % strandsACut !== 0) {
      this.complain(
        "warning",
        part.id,
        `${strands} strands can't come from folded cuts alone; one more cut was counted.`,
      );
    }
    const perStrand = whole.pathMm * (1 + (part.takeUp ?? 0)) * (1 + (part.reinforce ?? 0));
    const computed = strandsACut * perStrand + 2 * (part.tailMm ?? 0);
    const cutMm = part.cutMm ?? computed;
    if (part.cutMm != null && part.cutMm < computed - 0.001) {
      this.complain(
        "warning",
        part.id,
        `A cut of ${say(part.cutMm)} mm of ${role.key} is shorter than the ${say(computed)} mm that the ` +
          "thread's path, take-up and tails ask for.",
      );
    }
    return cutMm > 0 ? [{ key: role.key, mm: cutMm, count: Math.ceil(strands / strandsACut), named: null }] : [];
  }

  private cut(part: Part, cut: Cut, named: number): MadeCut[] {
    const role = this.roles.get(cut.key);
    if (role?.type !== "stringing") {
      const what = role ? `is a ${NOUN[role.type]}` : "is not in the bead key";
      this.complain("error", part.id, `${cut.key} is to be cut, but it ${what}. Only stringing materials are cut.`);
      return [];
    }
    let mm = cut.mm ?? 0;
    if (cut.links != null) {
      if (role.linkMm === null) {
        this.complain(
          "error",
          part.id,
          `${cut.key} is cut by links, but has no link length. Give it one in the bead key.`,
        );
        return [];
      }
      mm = (cut.links + role.lossLinks) * role.linkMm;
    } else if (cut.coils != null) {
      if (role.coilMm === null) {
        this.complain(
          "error",
          part.id,
          `${cut.key} is cut by coils, but has no length a coil. Give it one in the bead key.`,
        );
        return [];
      }
      mm = cut.coils * role.coilMm;
    }
    return [{ key: cut.key, mm, count: cut.count, named }];
  }

  private limit(sums: Sums, part: Part | null) {
    if (sums.most <= MAX_TOTAL) return;
    this.complain(
      "error",
      part?.id ?? null,
      "This comes to more than 1,000,000,000 of something and is left out of the count.",
    );
    sums.counts.clear();
    sums.mixes.clear();
    sums.pieces.clear();
  }

  /** Mixes shared out over the whole item; roles of which there are 0 left out. */
  private resolve(sums: Sums): Record<string, number> {
    const counts = new Map(sums.counts);
    for (const [key, n] of sums.mixes) {
      const mix = this.roles.get(key);
      if (mix?.type !== "mix" || mix.members.length === 0) continue;
      shareOut(
        n,
        mix.members.map((m) => m.share),
      ).forEach((share, i) => addTo(counts, mix.members[i]!.key, share));
    }
    return Object.fromEntries(counts);
  }

  private answerOf(part: Part): PartAnswer {
    const { whole, fit, placings: placed } = this.string(part);
    const picks = new Map<string, number>();
    const through = new Map<string, number>();
    for (const p of placed) {
      if (p.hangs) continue;
      addTo(picks, p.key, p.picked);
      addTo(through, p.key, p.through);
    }
    const passes: Record<string, number> = {};
    for (const [key, n] of through) {
      const picked = picks.get(key) ?? 0;
      if (picked > 0) passes[key] = Math.ceil((n * (1 + (part.reinforce ?? 0))) / picked - 1e-9);
      else if (!this.pickedElsewhere(key, part)) {
        this.complain(
          "warning",
          part.id,
          `This part passes through ${key}, but nothing in the design picks ${key} up.`,
        );
      }
    }
    return {
      id: part.id,
      strandMm: round(whole.strandMm),
      pathMm: round(whole.pathMm),
      repeats: fit?.repeats ?? null,
      leftoverMm: fit ? round(fit.targetMm - whole.strandMm) : null,
      links: this.isChain(part) ? linksOf(whole) : 0,
      passes,
    };
  }

  private pickedElsewhere(key: string, part: Part): boolean {
    return this.design.parts.some(
      (other) => other !== part && this.strung.get(other)?.placings.some((p) => p.key === key && p.picked > 0),
    );
  }

  /** How often each part is made for one finished item, following sub-assemblies down. */
  private timesUsed(parts: readonly Part[]): Map<string, number> {
    const used = new Map<Part, number>();
    for (const part of parts) if (part.as == null) addTo(used, part, part.makes ?? 1);
    const reach = (key: string, n: number) => {
      const role = this.roles.get(key);
      if (role?.type === "sub") addTo(used, role.part, n);
    };
    for (const use of this.design.uses ?? []) if (use.per !== "kit") reach(use.key, use.count);
    // A part's sums are finished after those of everything in it, so backwards every user comes before what it uses.
    for (const part of [...this.sums.keys()].reverse()) {
      const n = used.get(part) ?? 0;
      for (const { key, picked, hangs } of this.string(part).placings) {
        reach(key, n * picked);
        if (hangs) for (const use of this.roles.get(key)!.hangsBy) reach(use.key, n * picked * use.count);
      }
      for (const use of part.uses ?? []) reach(use.key, n * use.count);
    }
    return new Map([...used].map(([part, n]) => [part.id, n]));
  }

  private isChain(part: Part): boolean {
    const role = part.stringing == null ? undefined : this.roles.get(part.stringing);
    return role?.type === "stringing" && role.linkMm !== null;
  }
}

/** Links of chain along the strand. */
function linksOf(whole: StrungPart["whole"]): number {
  const run = chainRun(whole);
  let sum = run.first + run.last;
  for (const [links, n] of run.inner) sum += links * n;
  return sum;
}

const round = (mm: number) => Math.round(mm * 1e6) / 1e6;
const say = (mm: number) => Number(mm.toFixed(1)).toLocaleString("en");
