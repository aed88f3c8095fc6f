import type { Answer, Cut, Design, Part, PartAnswer, PartUse, Piece, Problem } from "../contract/index.ts";
import { keysIn, placeOf, type RestStep, type Span } from "../shorthand/index.ts";
import { passedTooSoon, passesOf } from "./passes.ts";
import { type Colourway, NOUN, type Role, settleRoles, shareMix } from "./roles.ts";
import { addTo, chainRun, childrenOf, type Placing, placings, segmentsOf, type Strung } from "./strung.ts";
import { MAX_TOTAL, ofSize, stringPart, type StrungPart } from "./walk.ts";

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
  /** How many of each mix its members are, in their order, in one finished item. */
  shares: ReadonlyMap<string, readonly number[]>;
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
  /** The part's own stringing, what runs beside it, or a cut that it names. */
  how: "strung" | "also" | "named";
  /** Made of what another cut leaves. */
  offcut: boolean;
  /** So many for each of something in the part. */
  forEach: boolean;
}

const MAX_LEVELS = 32;

/** Counts one finished item of a design. Pure, and never throws on a design that keeps the contract. */
export function count(design: Design, options: CountOptions = {}): Answer {
  return countWhole(design, options).answer;
}

/** As {@link count}, with all that lies behind the answer. */
export function countWhole(design: Design, options: CountOptions = {}): Counting {
  const most = new Tally(design, options, null);
  const counting = most.run();
  if (counting.parts.some(({ pattern }) => pattern.ranged)) {
    const least = new Tally(design, options, most).run().answer.counts;
    for (const [key, n] of Object.entries(counting.answer.counts)) {
      if ((least[key] ?? 0) !== n) counting.answer.countsLeast[key] = least[key] ?? 0;
    }
  }
  return counting;
}

/** By key of what is cut: how many pieces of each length, mm. */
type Cuts = Map<string, Map<number, number>>;

/** Plain numbers of roles, of mixes still to be shared out, and of cut pieces. */
class Sums {
  readonly counts = new Map<string, number>();
  readonly mixes = new Map<string, number>();
  readonly pieces: Cuts = new Map();
  readonly offcuts: Cuts = new Map();

  add(other: Sums, n: number) {
    for (const [key, count] of other.counts) addTo(this.counts, key, count * n);
    for (const [key, count] of other.mixes) addTo(this.mixes, key, count * n);
    for (const [key, pieces] of other.pieces)
      for (const [mm, count] of pieces) this.cut(this.pieces, key, mm, count * n);
    for (const [key, pieces] of other.offcuts)
      for (const [mm, count] of pieces) this.cut(this.offcuts, key, mm, count * n);
  }

  cut(into: Cuts, key: string, mm: number, n: number) {
    const pieces = into.get(key) ?? new Map<number, number>();
    into.set(key, pieces);
    addTo(pieces, round(mm), n);
  }

  get most() {
    let most = 0;
    for (const n of this.counts.values()) most = Math.max(most, n);
    for (const n of this.mixes.values()) most = Math.max(most, n);
    for (const pieces of [...this.pieces.values(), ...this.offcuts.values()])
      for (const n of pieces.values()) most = Math.max(most, n);
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
  /** By the key of a sub-assembly: the part that says `rest` of it. */
  private readonly restOf = new Map<string, Part>();
  /** What a sub-assembly that takes up what is left is to come to, as strand, mm. */
  private readonly given = new Map<Part, number>();
  private readonly depths = new Map<Part, number>();
  private readonly shares = new Map<string, readonly number[]>();

  /** @param most the same counted before, where this is to count the least of every range */
  constructor(
    private readonly design: Design,
    private readonly options: CountOptions,
    private readonly most: Tally | null,
  ) {
    for (const part of design.parts) {
      // Most texts have no such word: they are not gone through.
      if (!part.steps?.includes("rest")) continue;
      for (const { key, rest } of keysIn(part.steps)) if (rest && !this.restOf.has(key)) this.restOf.set(key, part);
    }
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
    for (const { per, ...use } of design.uses ?? [])
      this.use(per === "kit" || per === "box" ? kit : item, use, 1, null, "the whole design");
    this.shareMixes(item);
    this.shareMixes(kit);
    if (kit.pieces.size > 0) {
      this.complain("error", null, "What a kit has once can't hold cut lengths. Name single beads and findings there.");
    }
    this.limit(item, null);
    this.limit(kit, null);

    const answer: Answer = {
      size: this.size,
      option,
      counts: Object.fromEntries(item.counts),
      countsLeast: {},
      perKit: Object.fromEntries(kit.counts),
      lengthsMm: {},
      pieces: piecesOf(item.pieces),
      offcuts: piecesOf(item.offcuts),
      parts: parts.map((part) => this.answerOf(part)),
      problems: this.problems,
    };
    for (const [key, pieces] of Object.entries(answer.pieces))
      answer.lengthsMm[key] = round(pieces.reduce((sum, p) => sum + p.mm * p.count, 0));
    return {
      design,
      answer,
      parts: parts.map((part) => this.string(part)),
      roles: this.roles,
      timesUsed: this.timesUsed(parts),
      mixes: item.mixes,
      shares: this.shares,
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
    const user = part.as == null ? undefined : this.restOf.get(part.as);
    // How long it is to be follows from the part that it takes up the rest of: that one is strung first.
    if (user && user !== part && !this.given.has(part) && this.enter(user)) {
      this.string(user);
      this.open.pop();
      const fitted = this.strung.get(part);
      if (fitted) return fitted;
    }
    return this.stringAt(part, this.given.get(part) ?? null, user !== undefined);
  }

  private stringAt(part: Part, givenMm: number | null, isRest: boolean): StrungPartOf {
    const text = part.steps ?? "";
    const strung = stringPart(part, {
      roles: this.roles,
      alongOf: (role) => this.alongOf(role),
      sizes: (this.design.sizes ?? []).map((s) => s.key),
      size: this.size,
      least: this.most ? (this.most.strung.get(part)?.settled ?? null) : undefined,
      givenMm,
      isRest,
      fitRest: (step, mm) => this.fitRest(part, step, mm),
      complain: (level, span, message) => this.complain(level, part.id, message, span ? { text, span } : undefined),
    });
    const all: StrungPartOf = { ...strung, part, placings: placings(strung.whole, part.strands ?? 1), cuts: [] };
    this.strung.set(part, all);
    all.cuts = [...this.stringing(part, all), ...(part.cuts ?? []).flatMap((cut) => this.cut(part, cut, all.placings))];
    return all;
  }

  /** Fits the sub-assembly of a `rest` to a finished length; returns what it comes to, or says why it can't. */
  private fitRest(user: Part, step: RestStep, mm: number): number | string {
    const { key } = step;
    const role = this.roles.get(key);
    if (role?.type !== "sub") return `${key} is no sub-assembly.`; // reported by the walk
    const { part } = role;
    if (part.targetMm != null)
      return `${key} takes up what is left, so it can't have a target of its own. Take the target of ${part.name} out.`;
    const [elsewhere] = this.usersOf(key);
    if (elsewhere !== undefined)
      return `${key} takes up what is left here, so it can't stand in ${elsewhere} too: it has one length only.`;
    if (this.restOf.get(key) !== user) return `${key} takes up what is left of another part already.`;
    const ratio = part.finishedRatio ?? 1;
    this.given.set(part, mm / ratio);
    const { settled, whole } = this.stringAt(part, mm / ratio, true);
    if (!settled)
      return `Nothing in the rows of ${key} reaches for a length. Write “to length” after what repeats in it.`;
    return whole.strandMm * ratio;
  }

  /** Where a key is used beside its `rest`: the names of those places. */
  private usersOf(key: string): string[] {
    const found: string[] = [];
    for (const part of this.design.parts) {
      const strung = keysIn(part.steps ?? "").some((k) => k.key === key && !k.rest);
      if (strung || part.uses?.some((u) => u.key === key) || part.hangsBy?.some((u) => u.key === key))
        found.push(part.name);
    }
    for (const e of this.design.key)
      if (e.mix?.some((m) => m.key === key) || e.hangsBy?.some((u) => u.key === key)) found.push(`${e.key}, ${e.name}`);
    if (this.design.uses?.some((u) => u.key === key)) found.push("what the whole design takes");
    return found;
  }

  private alongOf(role: Role): number | null {
    if (role.alongMm !== null) return role.alongMm;
    if (role.type === "mix") return this.meanOf(role);
    if (role.type !== "sub") return null;
    if (this.open.includes(role.part)) return null; // a circle: reported where it is counted
    if (!this.enter(role.part)) return null;
    const mm = this.string(role.part).whole.strandMm * (role.part.finishedRatio ?? 1);
    this.open.pop();
    return mm > 0 ? mm : null;
  }

  /** A mix's length: the mean of its members by their shares, or by their counts where none has a share. */
  private meanOf(mix: Extract<Role, { type: "mix" }>): number | null {
    const shared = mix.members.filter((m) => m.count === null);
    const members = shared.length > 0 ? shared : mix.members;
    let [sum, weight] = [0, 0];
    for (const m of members) {
      const role = this.roles.get(m.key);
      const mm = role ? this.alongOf(role) : null;
      if (mm === null) return null;
      const w = m.count ?? m.share;
      [sum, weight] = [sum + w * mm, weight + w];
    }
    return weight > 0 ? sum / weight : null;
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
    for (const { key, picked, how } of strung.placings) {
      if (picked === 0) continue;
      this.take(sums, key, picked);
      if (how === "hung")
        for (const use of this.roles.get(key)!.hangsBy) this.use(sums, use, picked, part, `what ${key} hangs by`);
    }
    for (const use of part.uses ?? [])
      this.use(sums, use, this.forEach(use, part, strung.placings), part, "this part's findings");
    for (const { key, mm, count, offcut } of strung.cuts) sums.cut(offcut ? sums.offcuts : sums.pieces, key, mm, count);
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

  /** A number that may differ by size; one that is not said for this size is reported. */
  private sized(part: Part | null, said: PartUse["count"] | null | undefined, what: string): number | null {
    if (said == null) return null;
    const n = ofSize(said, this.size);
    if (n === null && this.size !== null)
      this.complain("error", part?.id ?? null, `${what} says nothing for size ${this.size}. Say it for every size.`);
    else if (n === null)
      this.complain("error", part?.id ?? null, `${what} differs by size, but this design has one size only.`);
    return n;
  }

  /** How often a use or cut of a part counts: once, or for each of a key that its own rows pick, hang or join. */
  private forEach({ key, forEach }: PartUse | Cut, part: Part, placed: readonly Placing[]): number {
    if (forEach == null) return 1;
    if (!this.roles.has(forEach)) {
      this.complain(
        "error",
        part.id,
        `${key} is to be taken for each ${forEach}, but there is no ${forEach} in the bead key.`,
      );
    }
    return placed.reduce((sum, p) => (p.key === forEach && p.how !== "rest" ? sum + p.picked : sum), 0);
  }

  private use(sums: Sums, { key, count: said }: PartUse, n: number, part: Part | null, where: string) {
    const count = this.sized(part, said, `How many ${key} there are`) ?? 0;
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
        `${key} is ${NOUN.stringing}, so it is cut and not counted. Name it under cuts instead of ${where}.`,
      );
    } else {
      this.take(sums, key, count * n);
    }
  }

  private stringing(part: Part, { whole }: StrungPart): MadeCut[] {
    const strands = part.strands ?? 1;
    const strandsACut = part.folded ? 2 : 1;
    if (strands % strandsACut !== 0 && (part.stringing != null || part.also?.length)) {
      this.complain(
        "warning",
        part.id,
        strands === 1
          ? "A cut that is bent double makes two strands, and this part has one: one end is left over."
          : `${strands} strands can't come from cuts bent double alone; one more cut was counted.`,
      );
    }
    const all = segmentsOf(whole);
    // Joined pieces between which nothing is strung take no thread.
    const segments = all.length > 1 ? all.filter((s) => s.strung) : all;
    const cuts = Math.ceil(strands / strandsACut);
    const fixed = this.sized(part, part.cutMm, "The fixed cut");
    const beside = (part.also ?? []).flatMap((also): MadeCut[] => {
      const role = this.linear(part, also.key, `${also.key} is to run beside the stringing`);
      if (!role) return [];
      const said =
        this.sized(part, also.cutMm, `The cut of ${also.key}`) ?? this.coils(part, also.key, also.coils, role);
      return segments.flatMap(({ pathMm }) => {
        const computed = strandsACut * along(part, pathMm, also.takeUp) + 2 * (also.tailMm ?? 0);
        const mm = role.linkMm === null ? (said ?? computed) : inLinks(said ?? computed, role);
        return mm > 0 ? [{ key: also.key, mm, count: cuts, how: "also" as const, offcut: false, forEach: false }] : [];
      });
    });
    if (part.stringing == null) return beside;
    const role = this.linear(part, part.stringing, `This part is strung on ${part.stringing}`);
    if (!role) return beside;
    const cut = (mm: number, count: number): MadeCut[] =>
      mm > 0 && count > 0 ? [{ key: role.key, mm, count, how: "strung", offcut: false, forEach: false }] : [];
    if (role.linkMm !== null)
      return [...this.chainCuts(part, whole, role, fixed).flatMap((c) => cut(c.mm, c.count)), ...beside];
    const own = segments.flatMap(({ pathMm }) => {
      const computed = strandsACut * along(part, pathMm, part.takeUp) + 2 * (part.tailMm ?? 0);
      if (fixed !== null && fixed < computed - 0.001) {
        this.complain(
          "warning",
          part.id,
          `A cut of ${say(fixed)} of ${role.key} is shorter than the ${say(computed)} that the ` +
            "thread's way, its stitches and its tails ask for.",
        );
      }
      return cut(fixed ?? computed, cuts);
    });
    return [...own, ...beside];
  }

  /** The pieces into which beads divide a chain, each with the link its cut destroys; or one fixed piece, divided. */
  private chainCuts(part: Part, whole: Strung, role: Stringing, fixed: number | null): { mm: number; count: number }[] {
    const strands = part.strands ?? 1;
    const { key, lossLinks } = role;
    const linkMm = role.linkMm!;
    const run = chainRun(whole);
    const stretches = new Map(run.inner);
    addTo(stretches, run.first, 1);
    if (run.divided) addTo(stretches, run.last, 1);
    const pieces = [...stretches].filter(([links]) => links > 0);
    if (fixed === null) return pieces.map(([links, n]) => ({ mm: (links + lossLinks) * linkMm, count: n * strands }));
    const has = Math.ceil(fixed / linkMm - 1e-6);
    const many = pieces.reduce((sum, [, n]) => sum + n, 0);
    const needs = pieces.reduce((sum, [links, n]) => sum + links * n, 0) + Math.max(0, many - 1) * lossLinks;
    if (needs > has) {
      this.complain(
        "error",
        part.id,
        `A piece of ${say(fixed)} of ${key} has ${has} links, but the rows need ${needs}, those lost by ` +
          "dividing it included. Make the fixed cut longer, or leave links out.",
      );
    }
    return [{ mm: has * linkMm, count: strands }];
  }

  private linear(part: Part, key: string, what: string): Stringing | null {
    const role = this.roles.get(key);
    if (role?.type === "stringing") return role;
    const is = role ? `is ${NOUN[role.type]}` : "is not in the bead key";
    this.complain("error", part.id, `${what}, which ${is}. Choose a thread, cord, wire or chain.`);
    return null;
  }

  private coils(part: Part, key: string, said: Cut["coils"], role: Stringing): number | null {
    const coils = this.sized(part, said, `How many coils of ${key} there are`);
    if (coils === null) return null;
    if (role.coilMm !== null) return coils * role.coilMm;
    this.complain("error", part.id, `${key} is cut by coils, but has no length a coil. Give it one in the bead key.`);
    return null;
  }

  private cut(part: Part, cut: Cut, placed: readonly Placing[]): MadeCut[] {
    const role = this.linear(part, cut.key, `${cut.key} is to be cut`);
    if (!role) return [];
    let mm: number | null;
    if (cut.links != null) {
      if (role.linkMm === null) {
        this.complain(
          "error",
          part.id,
          `${cut.key} is cut by links, but has no link length. Give it one in the bead key.`,
        );
        return [];
      }
      const links = this.sized(part, cut.links, `How many links of ${cut.key} there are`);
      mm = links === null ? null : (links + role.lossLinks) * role.linkMm;
    } else if (cut.coils != null) mm = this.coils(part, cut.key, cut.coils, role);
    else {
      mm = this.sized(part, cut.mm, `How long the cut of ${cut.key} is`);
      if (mm !== null && role.linkMm !== null) mm = inLinks(mm, role);
    }
    const count =
      (this.sized(part, cut.count, `How many cuts of ${cut.key} there are`) ?? 0) * this.forEach(cut, part, placed);
    if (mm === null || count === 0) return [];
    return [{ key: cut.key, mm, count, how: "named", offcut: cut.from === "offcut", forEach: cut.forEach != null }];
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
    sums.offcuts.clear();
  }

  /** Shares mixes out over the whole item. What a member holds may bring more of another mix: that one comes later. */
  private shareMixes(sums: Sums) {
    const open = new Map([...sums.mixes].filter(([key]) => this.mix(key).members.length > 0));
    while (open.size > 0) {
      const brought = (key: string) => [...open.keys()].some((other) => other !== key && this.holdsMix(other, key));
      const next = [...open.keys()].find((key) => !brought(key)) ?? [...open.keys()][0]!;
      const n = sums.mixes.get(next)!;
      open.delete(next);
      const { members } = this.mix(next);
      const shares = shareMix(n, members);
      if (!Array.isArray(shares)) {
        this.complain(
          "error",
          null,
          `Mix ${next} is taken ${n} times, but its members are exactly ${shares.counted}. ` +
            (shares.counted > n
              ? "Lower their counts, or take more of it."
              : "Raise their counts, or give one a share."),
        );
        continue;
      }
      this.shares.set(next, shares);
      const before = new Map(sums.mixes);
      members.forEach((member, i) => {
        if (shares[i]! > 0) this.take(sums, member.key, shares[i]!);
      });
      for (const [key, now] of sums.mixes) {
        if (now === (before.get(key) ?? 0)) continue;
        if (key === next || (before.has(key) && !open.has(key)))
          this.complain(
            "error",
            null,
            `Mix ${key} holds itself through its sub-assemblies. Take one of them out of it.`,
          );
        else open.set(key, now);
      }
    }
  }

  private mix(key: string): Extract<Role, { type: "mix" }> {
    return this.roles.get(key) as Extract<Role, { type: "mix" }>;
  }

  private holdsMix(key: string, other: string): boolean {
    return this.mix(key).members.some((m) => {
      const role = this.roles.get(m.key);
      return role?.type === "sub" && this.sumsOf(role.part).mixes.has(other);
    });
  }

  private answerOf(part: Part): PartAnswer {
    const strung = this.string(part);
    const { whole, settled, pattern } = strung;
    for (const pick of passedTooSoon(pattern)) {
      if (this.pickedElsewhere(pick.key, part)) continue;
      this.complain(
        "warning",
        part.id,
        `The thread passes through ${pick.key} before any ${pick.key} is strung. Write the pass behind it.`,
        { text: pattern.text, span: pick },
      );
    }
    return {
      id: part.id,
      strandMm: round(whole.strandMm),
      pathMm: round(whole.pathMm),
      repeats: settled && (settled.of === "repeats" || settled.of === "links") ? settled.repeats : null,
      leftoverMm: settled ? round(settled.targetMm - whole.strandMm) : null,
      links: this.isChain(part) ? linksOf(whole) : 0,
      hangMm: round(this.hangOf(part)),
      passes: passesOf(strung, (key) => {
        if (this.pickedElsewhere(key, part)) return;
        this.complain(
          "warning",
          part.id,
          `This part passes through ${key}, but nothing in the design picks ${key} up.`,
        );
      }),
    };
  }

  /** How far the deepest thing hung in a part reaches below it, mm. */
  private hangOf(part: Part): number {
    const known = this.depths.get(part);
    if (known !== undefined) return known;
    this.depths.set(part, 0); // a circle ends here: it is reported where it is counted
    const inside = (key: string) => {
      const role = this.roles.get(key);
      return role?.type === "sub" ? this.hangOf(role.part) : 0;
    };
    let deepest = 0;
    const visit = (node: Strung) => {
      if (node.type === "hang") {
        for (const { key, n } of node.hung) {
          const role = this.roles.get(key);
          if (n > 0 && role) deepest = Math.max(deepest, (this.alongOf(role) ?? 0) + inside(key));
        }
      } else if (node.type === "bead" || node.type === "rest") deepest = Math.max(deepest, inside(node.key));
      if (node.type !== "pass") childrenOf(node).forEach(visit);
    };
    visit(this.string(part).whole);
    this.depths.set(part, deepest);
    return deepest;
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
    for (const use of this.design.uses ?? []) if (use.per == null || use.per === "item") reach(use.key, use.count);
    for (const [key, shares] of this.shares) this.mix(key).members.forEach((m, i) => reach(m.key, shares[i]!));
    // A part's sums are finished after those of everything in it, so backwards every user comes before what it uses.
    for (const part of [...this.sums.keys()].reverse()) {
      const n = used.get(part) ?? 0;
      const { placings: placed } = this.string(part);
      for (const { key, picked, how } of placed) {
        reach(key, n * picked);
        if (how === "hung") for (const use of this.roles.get(key)!.hangsBy) reach(use.key, n * picked * use.count);
      }
      for (const use of part.uses ?? [])
        reach(use.key, n * (ofSize(use.count, this.size) ?? 0) * this.forEach(use, part, placed));
    }
    return new Map([...used].map(([part, n]) => [part.id, n]));
  }

  private isChain(part: Part): boolean {
    const role = part.stringing == null ? undefined : this.roles.get(part.stringing);
    return role?.type === "stringing" && role.linkMm !== null;
  }
}

type Stringing = Extract<Role, { type: "stringing" }>;

/** Thread that one strand of a path takes, with what the stitches take beside it and how often it is gone again. */
const along = (part: Part, pathMm: number, takeUp: number | null | undefined) =>
  pathMm * (1 + (takeUp ?? 0)) * (1 + (part.reinforce ?? 0));

/** A length of chain in whole links, with the links that its cut destroys. */
const inLinks = (mm: number, { linkMm, lossLinks }: Stringing) =>
  (Math.ceil(mm / linkMm! - 1e-6) + lossLinks) * linkMm!;

/** Equal pieces together, the longest first; nothing of which there is none. */
function piecesOf(cuts: Cuts): Record<string, Piece[]> {
  const found: Record<string, Piece[]> = {};
  for (const [key, pieces] of cuts) {
    const list = [...pieces].map(([mm, count]) => ({ mm, count })).filter((p) => p.mm > 0 && p.count > 0);
    if (list.length > 0) found[key] = list.sort((a, b) => b.mm - a.mm);
  }
  return found;
}

/** Links of chain along the strand. */
function linksOf(whole: StrungPart["whole"]): number {
  const run = chainRun(whole);
  let sum = run.first + run.last;
  for (const [links, n] of run.inner) sum += links * n;
  return sum;
}

export const round = (mm: number) => Math.round(mm * 1e6) / 1e6;
/** A length in a sentence, its unit behind a no-break space: so it is found, and said in inches where one likes. */
const say = (mm: number) => `${Number(mm.toFixed(1)).toLocaleString("en")}\u00a0mm`;
