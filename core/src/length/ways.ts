import type { Design, LengthWay } from "../contract/index.ts";
import { type CountOptions, type Counting, countWhole, ofSize, type StrungPartOf } from "../count/index.ts";
import { everyStep, type FitStep, type PickStep, type Sequence, type Step } from "../shorthand/index.ts";
import { plainNumber } from "../units/index.ts";
import {
  closingOf,
  type Edit,
  edited,
  endsOf,
  fitIn,
  type Knob,
  type Lengths,
  lengthsIn,
  measure,
  numbersOf,
  withText,
} from "./knobs.ts";

/** A text that may come to the wanted length, before it is counted. */
export interface Turned {
  text: string;
  say: string;
  /** How many things are changed, and how much by. */
  changes: number;
  turns: number;
  mm: number;
}

export interface LengthsAsked extends CountOptions {
  part: string;
  targetMm: number;
}

/** So many are counted to the end, and so many offered. */
const COUNTED = 16;
const OFFERED = 12;
/** Beads longer than this close no row and stand in for no spacer, mm. */
const CLOSING_MM = 8;
const MOST_KEYS = 6;
/** From so many numbers on, another spacer is not tried together with each of them. */
const MANY = 40;

/**
 * Ways to bring a part to a length, the closest first, of equally close ones the one that changes least: other numbers
 * of repeats, beads and links, closing beads at both ends, another spacer of the bead key; at most two at once. What is
 * offered was counted: its text comes to just that strand. A part that reaches for its length by itself (`to`) is given
 * the length and other beads to fill it with.
 */
export function waysToLength(design: Design, asked: LengthsAsked): LengthWay[] {
  const counting = countWhole(design, asked);
  const strung = counting.parts.find((p) => p.part.id === asked.part);
  if (!strung) return [];
  const found = candidatesFor(counting, strung, asked.targetMm).sort(byCloseness(asked.targetMm));
  return countedWays(design, asked, counting, found.slice(0, COUNTED)).slice(0, OFFERED);
}

/** Everything that may be turned to, with the length that it should come to. */
export function candidatesFor(counting: Counting, strung: StrungPartOf, targetMm: number): Turned[] {
  const of = lengthsIn(counting, strung);
  const fit = fitIn(of);
  if (fit) return fitted(counting, strung, of, fit, targetMm);
  const { knobs, spacers } = knobsOf(counting, strung, of);
  const found = turnedBy(of, knobs, targetMm);
  const findings = findingsOf(counting);
  const keys = closingKeys(counting, of);
  for (const spacer of spacers) {
    // In a row of many numbers another spacer is tried with closing beads alone, on the tree that is there.
    const isLong = knobs.length > MANY;
    const base = isLong
      ? { ...of, along: new Map(of.along).set(spacer.from, of.along.get(spacer.to)!) }
      : withText(of, edited(of.text, spacer.edits));
    const ends = endsOf(base, findings);
    const others = isLong ? keys.filter((key) => key !== spacer.from) : keys;
    const closing = ends ? others.map((key) => closingOf(key, ends)) : [];
    const own = isLong ? closing : [...numbersOf(base), ...closing];
    const edits = isLong ? spacer.edits : [];
    for (const way of turnedBy(base, own, targetMm, { pairs: false, edits })) {
      const say = way.changes === 0 ? spacer.say : `${spacer.say}, ${way.say}`;
      found.push({ ...way, say, changes: way.changes + 1, turns: way.turns + 1 });
    }
  }
  return found;
}

const findingsOf = (counting: Counting) =>
  new Set(counting.design.key.filter((e) => e.kind === "finding").map((e) => e.key));

/** Beads of the key that are small enough to close a row, those that the part has already first. */
function closingKeys(counting: Counting, of: Lengths): string[] {
  const used = new Set<string>();
  for (const row of of.pattern.rows) everyStep(row, (s) => s.type === "pick" && used.add(s.key));
  return counting.design.key
    .filter((e) => e.kind === "bead" && (of.along.get(e.key) ?? Infinity) <= CLOSING_MM)
    .map((e) => e.key)
    .sort((a, b) => Number(used.has(b)) - Number(used.has(a)) || of.along.get(a)! - of.along.get(b)!)
    .slice(0, MOST_KEYS);
}

/** All that can be turned, and the spacers that others of the key can stand in for. */
export function knobsOf(counting: Counting, _strung: StrungPartOf, of: Lengths) {
  const keys = closingKeys(counting, of);
  const knobs = numbersOf(of);
  const ends = endsOf(of, findingsOf(counting));
  if (ends) knobs.push(...keys.map((key) => closingOf(key, ends)));
  const places = new Map<string, PickStep[]>();
  for (const row of of.pattern.rows)
    everyStep(row, (s: Step) => {
      if (s.type === "pick") places.set(s.key, [...(places.get(s.key) ?? []), s]);
    });
  const spacers: { say: string; from: string; to: string; edits: Edit[] }[] = [];
  for (const [key, picks] of places) {
    if (!keys.includes(key)) continue;
    for (const other of keys) {
      if (other === key || Math.abs(of.along.get(other)! - of.along.get(key)!) < 1e-9) continue;
      spacers.push({
        say: `take ${other} in place of ${key}`,
        from: key,
        to: other,
        edits: picks.map((p) => ({ ...p.keyAt, text: other })),
      });
    }
  }
  return { knobs, spacers };
}

/**
 * One knob turned, or two. Lengths are worked out from the tree: a text without a fit is linear in each of its numbers,
 * so for each pair what both add together is measured once, and of one number follows the best of the other.
 */
function turnedBy(
  of: Lengths,
  knobs: readonly Knob[],
  targetMm: number,
  { pairs = true, edits = [] }: { pairs?: boolean; edits?: readonly Edit[] } = {},
): Turned[] {
  const now = measure(of, new Map());
  if (now === null) return [];
  const text = edited(of.text, edits);
  const found: Turned[] = [{ text, say: "leave it as it is", changes: 0, turns: 0, mm: now }];
  const at = (knob: Knob) => Number(knob.id);
  const isNumber = (knob: Knob) => knob.over !== null;
  // Beads with something between every two of them, and strands side by side, add up in other ways than nested numbers.
  const isPlain = !/\bspaced\b|\beach\b/.test(of.text);
  const addUp = (a: Knob, b: Knob) =>
    !isPlain ||
    (a.over!.from <= b.over!.from && b.over!.to <= a.over!.to) ||
    (b.over!.from <= a.over!.from && a.over!.to <= b.over!.to);
  const alone = knobs.map((knob) => {
    if (isNumber(knob)) return measure(of, new Map([[at(knob), knob.now + 1]]))! - now;
    if (isPlain) return 2 * of.along.get(knob.id.slice("ends ".length))!;
    const text = withText(of, edited(of.text, knob.edits(1)));
    return measure(text, new Map())! - now;
  });
  const put = (turned: [Knob, number][], mm: number) =>
    found.push({
      text: edited(of.text, [...edits, ...turned.flatMap(([knob, n]) => knob.edits(n))]),
      say: turned.map(([knob, n]) => knob.say(n)).join(", "),
      changes: turned.length,
      turns: turned.reduce((sum, [knob, n]) => sum + Math.abs(n - knob.now), 0),
      mm,
    });
  // Knobs that turn by the same length come to the same pairs: two of each are enough, but for those that add up.
  const seen = new Map<string, number>();
  const rank = knobs.map((knob, i) => {
    const alike = `${alone[i]!.toFixed(6)} ${knob.least - knob.now} ${knob.most - knob.now}`;
    const before = seen.get(alike) ?? 0;
    seen.set(alike, before + 1);
    return before;
  });
  const bests = new Bests(targetMm);
  knobs.forEach((knob, i) => {
    if (Math.abs(alone[i]!) < 1e-9) return;
    for (const by of nearest((targetMm - now) / alone[i]!, knob))
      bests.offer([[knob, knob.now + by]], now + by * alone[i]!);
    if (!pairs) return;
    for (let j = i + 1; j < knobs.length; j++) {
      const other = knobs[j]!;
      if (Math.abs(alone[j]!) < 1e-9) continue;
      const together = isNumber(knob) && isNumber(other) && addUp(knob, other);
      if (!together && (rank[i]! > 1 || rank[j]! > 1)) continue;
      const both = together
        ? measure(
            of,
            new Map([
              [at(knob), knob.now + 1],
              [at(other), other.now + 1],
            ]),
          )! -
          now -
          alone[i]! -
          alone[j]!
        : 0;
      for (let n = knob.least; n <= knob.most; n++) {
        const by = n - knob.now;
        if (by === 0) continue;
        const slope = alone[j]! + both * by;
        if (Math.abs(slope) < 1e-9) continue;
        const mm = now + by * alone[i]!;
        const exact = (targetMm - mm) / slope;
        for (let side = 0; side < 2; side++) {
          const more = clamp(side === 0 ? Math.floor(exact) : Math.ceil(exact), other);
          const reached = mm + more * slope;
          if (more === 0 || !bests.mayTake(reached)) continue;
          bests.offer(
            [
              [knob, n],
              [other, other.now + more],
            ],
            reached,
          );
        }
      }
    }
  });
  for (const { turned, mm } of bests.top()) put(turned, mm);
  return found;
}

/** As many whole turns of a knob, as far as it turns. */
const clamp = (by: number, { least, most, now }: Knob) => Math.min(Math.max(by, least - now), most - now);

/** The whole turns of a knob on both sides of an exact one. */
const nearest = (exact: number, knob: Knob) => [
  ...new Set([clamp(Math.floor(exact), knob), clamp(Math.ceil(exact), knob)]),
];

/** Keeps the best so far: what can't be among those that are counted is not written out. */
class Bests {
  private list: { turned: [Knob, number][]; mm: number; rank: [number, number, number] }[] = [];
  private worst: [number, number, number] = [Infinity, 0, 0];

  constructor(private readonly targetMm: number) {}

  private offOf(mm: number) {
    return Math.round(Math.abs(mm - this.targetMm) * 1000);
  }

  top() {
    return this.list.sort((a, b) => compare(a.rank, b.rank)).slice(0, COUNTED);
  }

  /** Whether a length can be among the best: asked before anything is made of it. */
  mayTake(mm: number) {
    return this.offOf(mm) <= this.worst[0];
  }

  offer(turned: [Knob, number][], mm: number) {
    const off = this.offOf(mm);
    const rank: [number, number, number] = [
      off,
      turned.length,
      turned.reduce((sum, [knob, n]) => sum + Math.abs(n - knob.now), 0),
    ];
    if (compare(rank, this.worst) > 0) return;
    this.list.push({ turned, mm, rank });
    if (this.list.length < 4 * COUNTED) return;
    this.list.sort((a, b) => compare(a.rank, b.rank));
    this.list.length = 2 * COUNTED;
    this.worst = this.list.at(-1)!.rank;
  }
}
const compare = (a: readonly number[], b: readonly number[]) => a[0]! - b[0]! || a[1]! - b[1]! || a[2]! - b[2]!;

const byCloseness = (targetMm: number) => (a: Turned, b: Turned) =>
  compare(
    [Math.round(Math.abs(a.mm - targetMm) * 1000), a.changes, a.turns],
    [Math.round(Math.abs(b.mm - targetMm) * 1000), b.changes, b.turns],
  );

const AFTER_TO = /\bto\s+(?:length|(?:\d+[ -]\d+\/\d+|\d+\/\d+|\d+(?:[.,]\d+)?|[.,]\d+)\s*(?:mm|cm|m|in|ft|"))/;

/** A part that reaches for its length: the length is written in, and its gap closed with other beads of the key. */
function fitted(counting: Counting, strung: StrungPartOf, of: Lengths, fit: FitStep, targetMm: number): Turned[] {
  const own = ofSize(strung.part.targetMm, of.size);
  const ratio = strung.part.finishedRatio ?? 1;
  const isOwn = fit.toMm === null && own !== null && Math.abs(own / ratio - targetMm) < 0.001;
  const to = isOwn ? "to length" : `to ${plainNumber(targetMm, 3)}mm`;
  const from = fit.group?.to ?? fit.from;
  const written = of.text.slice(from, fit.to);
  const said = AFTER_TO.exec(written);
  if (!said) return [];
  const [before, behind] = [of.text.slice(fit.from, from + said.index), written.slice(said.index + said[0].length)];
  const rest = behind.replace(/\s*\bfill\s*(?:\([^)]*\)|\S+)\s*$/, "");
  const was = fit.fill?.keys.map((k) => k.key) ?? [];
  const keys = closingKeys(counting, of);
  const fills: string[][] = [was];
  if (fit.of === "repeats") {
    fills.push([], ...keys.map((k) => [k]));
    for (const a of keys) for (const b of keys) if (a !== b) fills.push([a, b]);
  }
  const sizes = counting.design.sizes ?? [];
  const many = sizes.length > 1 && !isOwn && !inSize(of, fit);
  const asWritten = of.text.slice(fit.from, fit.to);
  return fills.map((fill, i) => {
    const filled = fill.length === 0 ? "" : fill.length === 1 ? ` fill ${fill[0]}` : ` fill (${fill.join(" ")})`;
    const text = `${before}${to}${rest}${filled}`;
    const put = many
      ? `size{${sizes.map((s) => `${s.key}: ${s.key === of.size ? text : asWritten}`).join(" | ")}}`
      : text;
    const say = [
      ...(isOwn ? [] : [`reach for ${plainNumber(targetMm, 1)}\u00a0mm`]),
      ...(i === 0 ? [] : [fill.length === 0 ? "close with nothing" : `close with ${fill.join(" and ")}`]),
    ];
    return {
      text: of.text.slice(0, fit.from) + put + of.text.slice(fit.to),
      say: say.join(", ") || "leave it as it is",
      changes: say.length,
      turns: i,
      mm: targetMm,
    };
  });
}

/** Whether a fit stands in the branch of a size already. */
function inSize(of: Lengths, fit: FitStep): boolean {
  let found = false;
  const visit = (s: Sequence) =>
    everyStep(s, (step) => {
      if (step.type === "bysize" && step.branches.some((b) => b.from <= fit.from && fit.to <= b.to)) found = true;
    });
  of.pattern.rows.forEach(visit);
  return found;
}

/** Counts what was found, and sorts it by what it really comes to. */
export function countedWays(
  design: Design,
  asked: LengthsAsked,
  counting: Counting,
  found: readonly Turned[],
): LengthWay[] {
  const errors = (c: Counting) => c.answer.problems.filter((p) => p.level === "error").length;
  const seen = new Set<string>();
  const counted = found.flatMap((way) => {
    if (seen.has(way.text)) return [];
    seen.add(way.text);
    const parts = design.parts.map((p) => (p.id === asked.part ? { ...p, steps: way.text } : p));
    const now = countWhole({ ...design, parts }, asked);
    if (errors(now) > errors(counting)) return [];
    const { strandMm } = now.answer.parts.find((p) => p.id === asked.part)!;
    return [{ way: { ...way, mm: strandMm }, adds: difference(counting.answer.counts, now.answer.counts) }];
  });
  const order = byCloseness(asked.targetMm);
  // What takes the same and comes out as long is one way to a maker, wherever in the row it is written.
  const offered = new Set<string>();
  const isNew = ({ way, adds }: (typeof counted)[number]) => {
    const same = `${way.mm.toFixed(3)} ${JSON.stringify(Object.entries(adds).sort())}`;
    return !offered.has(same) && offered.add(same);
  };
  return counted
    .sort((a, b) => order(a.way, b.way))
    .filter(isNew)
    .map(({ way, adds }) => ({
      say: way.say.slice(0, 1).toUpperCase() + way.say.slice(1),
      steps: way.text,
      strandMm: way.mm,
      offMm: Math.round((way.mm - asked.targetMm) * 1e6) / 1e6,
      adds,
    }));
}

/** By key: what there is more of, or less. */
export function difference(was: Readonly<Record<string, number>>, now: Readonly<Record<string, number>>) {
  const keys = new Set([...Object.keys(was), ...Object.keys(now)]);
  return Object.fromEntries(
    [...keys].map((key) => [key, (now[key] ?? 0) - (was[key] ?? 0)]).filter(([, n]) => n !== 0),
  ) as Record<string, number>;
}
