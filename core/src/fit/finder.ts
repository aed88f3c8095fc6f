import type { Assumed, FitCheck, FitRule, Part, Unchecked } from "../contract/index.ts";
import type { Colourway, Counting, Place, StrungPartOf } from "../count/index.ts";
import { type ChosenMethod, methodsOf, type MeasureOf } from "../method/index.ts";
import { placeOf } from "../shorthand/index.ts";
import { type Measure, type Measured, measured } from "../measured/index.ts";

/** One part as the rules look at it. */
export interface PartAt {
  strung: StrungPartOf;
  part: Part;
  methods: readonly ChosenMethod[];
  /** By key: the most strands through its busiest hole. */
  passes: Readonly<Record<string, number>>;
}

/** What is compared: need may not be more than have. */
export interface Finding {
  rule: FitRule;
  key: string;
  need: number;
  have: number;
  unit: FitCheck["unit"];
  message: string;
  /** By need and have where nothing is said. */
  level?: FitCheck["level"];
  part: PartAt | null;
  at?: Place | null;
}

/** Near its limit is told from this share of it on. */
const NEAR = 0.9;

const round = (n: number) => Math.round(n * 1e6) / 1e6;
/** Holes, wires and findings are said in millimetres, whatever one measures lengths in: so they are sold. */
export const mm = (n: number) => `${Number(n.toFixed(2))} mm`;
/** A length in a sentence, its unit behind a no-break space: so it is found, and said in inches where one likes. */
export const long = (n: number) => `${Number(n.toFixed(1))}\u00a0mm`;
/** A number and its noun: `1 pass`, `3 passes`. */
export const many = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;

/** Gathers what the rules find: all of them look at one counting, walked once. */
export class Finder {
  readonly checks: FitCheck[] = [];
  readonly unchecked: Unchecked[] = [];
  /** What was looked at and nobody measured, by key and measure. */
  readonly assumed = new Map<string, Assumed>();
  readonly roles: ReadonlyMap<string, Measured>;
  readonly parts: readonly PartAt[];
  private readonly listed = new Set<string>();

  constructor(
    readonly counting: Counting,
    components: Colourway | null,
  ) {
    const { design, parts, answer } = counting;
    this.roles = measured(design, components);
    this.parts = parts.map((strung, i) => ({
      strung,
      part: strung.part,
      methods: methodsOf(design, strung.part),
      passes: answer.parts[i]!.passes,
    }));
  }

  /** A key and its name, as a sentence says them. */
  say(key: string): string {
    const name = this.roles.get(key)?.name ?? this.counting.design.parts.find((p) => p.as === key)?.name;
    return name === undefined ? key : `${key}, ${name}`;
  }

  measure: MeasureOf = (key, measure) => this.roles.get(key)?.[measure] ?? null;

  /** A measure of a key; where it is missing, the rule is listed as not checked. */
  ask(rule: FitRule, part: PartAt | null, key: string, measure: Measure): number | null {
    const value = this.roles.get(key)?.[measure];
    if (typeof value === "number") {
      this.notice(key, measure);
      return value;
    }
    this.missing(rule, part, key, measure);
    return null;
  }

  /** Marks a measure that was looked at as assumed, where it is. */
  notice(key: string, measure: Measure) {
    const role = this.roles.get(key);
    if (role?.assumed.includes(measure))
      this.assumed.set(`${key} ${measure}`, { key, measure, value: role[measure] as number });
  }

  missing(rule: FitRule, part: PartAt | null, key: string, missing: string) {
    const id = `${rule}\n${part?.part.id}\n${key}\n${missing}`;
    if (this.listed.has(id)) return;
    this.listed.add(id);
    this.unchecked.push({ rule, part: part?.part.id ?? null, key, missing });
  }

  /** The first place of a key in a part's text. */
  first({ strung }: PartAt, key: string): Place | null {
    return strung.placings.find((p) => p.key === key && p.picked > 0)?.at ?? null;
  }

  /** The first place of the busiest bead of a key: of the one that is named by its number, where that one is it. */
  busiest({ strung, part, passes }: PartAt, key: string): Place | null {
    const own = strung.placings.filter((p) => p.key === key && p.how === "strung");
    const beads = own.reduce((sum, p) => sum + p.picked, 0);
    const named = new Map<number, number>();
    for (const { which, through } of own) {
      if (which === null) continue;
      const nth = which === "first" ? 1 : which === "last" ? beads : which;
      named.set(nth, (named.get(nth) ?? 0) + through);
    }
    const again = (1 + (part.reinforce ?? 0)) * (1 + (part.also?.length ?? 0));
    for (const [nth, passed] of named) {
      if (Math.ceil((1 + passed) * again - 1e-9) < (passes[key] ?? 0)) continue;
      let before = 0;
      for (const p of own) if ((before += p.picked) >= nth) return p.at;
    }
    return own.find((p) => p.picked > 0)?.at ?? null;
  }

  found({ rule, key, need, have, unit, message, level, part, at }: Finding) {
    const place = at && part ? placeOf(part.strung.pattern.text, at) : { row: null, from: null, to: null };
    const [n, h] = [round(need), round(have)];
    this.checks.push({
      rule,
      level: level ?? (n > h + 1e-9 ? "fail" : rule === "hole" && n > NEAR * h + 1e-9 ? "warn" : "fine"),
      part: part?.part.id ?? null,
      ...place,
      key,
      need: n,
      have: h,
      unit,
      message,
    });
  }
}
