import { applyPatch, createPatch, type Operation } from "rfc6902";
import type { Design, FitCheck, KeyEntry, Part, PatchStep, WayOut } from "../contract/index.ts";
import { type CountOptions, type Counting, countWhole, ofSize } from "../count/index.ts";
import { chooseMethod, dropMethod, linesOf, methodsOf, SHIPPED } from "../method/index.ts";
import { everyStep, parsePattern, type Step } from "../shorthand/index.ts";
import { MM_PER_INCH } from "../units/index.ts";
import { checkFit, type FitFound, neighboursIn, sayLong as lengthIn, sayMm as mm } from "../fit/index.ts";
import { waysToLength } from "../length/index.ts";
import { isCrimp, isPin, type Measure, measured, type Measured } from "../measured/index.ts";

/** A change that may be a way out: looked at before it is offered. */
interface Candidate {
  say: string;
  design: Design;
  /** Measures that it changes: what a chosen component says of them does not hold any more. */
  measures?: [key: string, measure: Measure][];
}

const up = (n: number, to: number) => Number((Math.ceil(n / to - 1e-6) * to).toFixed(3));
const down = (n: number, to: number) => Number((Math.floor(n / to + 1e-6) * to).toFixed(3));

/**
 * Ways out of one finding of the checks: changes of the design, each tried before it is offered. It clears its rule for
 * what it is about, makes no other finding worse, and brings no new error.
 */
export function waysOut(design: Design, asked: CountOptions, check: FitCheck): WayOut[] {
  const before = countWhole(design, asked);
  const found = checkFit(before, asked.colourway ?? null);
  const candidates = new Ways(design, asked, before, check, found).candidates();
  const ways = candidates.filter((way) => clears(way, asked, check, before, found, []));
  // Where a chosen component is what does not fit, one may choose another that measures what the role says then.
  if (ways.length < 2)
    ways.push(
      ...candidates.filter(
        (way) => !ways.includes(way) && clears(way, asked, check, before, found, way.measures ?? []),
      ),
    );
  return ways.map(({ say, design: changed }) => ({
    say,
    change: createPatch(plain(design), plain(changed)) as PatchStep[],
  }));
}

/** A design with a way out taken: the steps of its change, one after the other (RFC 6902). */
export function takeWay(design: Design, { change }: Pick<WayOut, "change">): Design {
  const changed = plain(design) as Design;
  applyPatch(changed, change as Operation[]);
  return changed;
}

/** As JSON has it: what is undefined is not there. */
const plain = (design: Design): unknown => JSON.parse(JSON.stringify(design));

const LEVEL = { fine: 0, warn: 1, fail: 2 };
const subject = ({ rule, part, key }: FitCheck) => `${rule}\n${part}\n${key}`;
function worst(found: FitFound): Map<string, number> {
  const levels = new Map<string, number>();
  for (const c of found.checks) levels.set(subject(c), Math.max(levels.get(subject(c)) ?? 0, LEVEL[c.level]));
  return levels;
}
const errorsIn = (c: Counting) => c.answer.problems.filter((p) => p.level === "error").length;

/** @param chosenAnew measures that a component chosen instead would have as the changed role says */
function clears(
  way: Candidate,
  asked: CountOptions,
  check: FitCheck,
  before: Counting,
  found: FitFound,
  chosenAnew: readonly [string, Measure][],
): boolean {
  const colourway = without(asked.colourway ?? null, chosenAnew);
  const after = countWhole(way.design, { ...asked, colourway });
  if (errorsIn(after) > errorsIn(before)) return false;
  const [was, is] = [worst(found), worst(checkFit(after, colourway))];
  if ((is.get(subject(check)) ?? 0) > 0) return false;
  return [...is].every(([id, level]) => level <= (was.get(id) ?? 0));
}

function without(colourway: CountOptions["colourway"] | null, gone: readonly [string, Measure][]) {
  if (!colourway || gone.length === 0) return colourway ?? null;
  const left = { ...colourway };
  for (const [key, measure] of gone) if (left[key]) left[key] = { ...left[key], [measure]: null };
  return left;
}

class Ways {
  private readonly roles: ReadonlyMap<string, Measured>;
  private readonly part: Part | undefined;

  constructor(
    private readonly design: Design,
    asked: CountOptions,
    private readonly counting: Counting,
    private readonly check: FitCheck,
    private readonly found: FitFound,
  ) {
    this.roles = measured(design, asked.colourway ?? null);
    this.part = design.parts.find((p) => p.id === check.part);
  }

  candidates(): Candidate[] {
    switch (this.check.rule) {
      case "hole":
        return this.hole();
      case "crimp":
        return this.crimp();
      case "cover":
        return this.cover();
      case "pin":
        return this.pin();
      case "ring":
        return this.ring();
      case "cone":
        return this.cone();
      case "slip":
        return this.slip();
      case "cut":
        return this.cut();
      case "links":
        return this.links();
      case "alike":
        return this.alike();
      case "strength":
        return this.strength();
      case "pair":
        return this.pair();
      case "drops":
        return this.drops();
      case "magnet":
        return this.magnet();
      case "lacks":
        return this.lacks();
      case "body":
        return this.body();
    }
  }

  private say(key: string): string {
    const role = this.roles.get(key);
    return role ? `${key}, ${role.name}` : key;
  }

  /** A role with other measures; its name says no size that it hasn't any more. */
  private role(say: string, ...changes: [key: string, change: Partial<KeyEntry>][]): Candidate {
    const key = this.design.key.map((entry) => {
      const own = changes.find(([k]) => k === entry.key)?.[1];
      return own ? { ...entry, ...own, name: renamed(entry, own) } : entry;
    });
    const measures = changes.flatMap(([k, change]) =>
      Object.keys(change).map((m): [string, Measure] => [k, m as Measure]),
    );
    return { say, design: { ...this.design, key }, measures };
  }

  private ofPart(say: string, change: Partial<Part>, design = this.design): Candidate[] {
    const { part } = this;
    if (!part) return [];
    return [
      { say, design: { ...design, parts: design.parts.map((p) => (p.id === part.id ? { ...p, ...change } : p)) } },
    ];
  }

  private get wires(): string[] {
    const { part } = this;
    const own = [part?.stringing, ...(part?.also ?? []).map((a) => a.key)].filter((k) => k != null);
    if (own.length > 0) return own;
    const pin = (part?.uses ?? []).find((u) => isPin(this.roles.get(u.key)))?.key;
    return pin === undefined ? [] : [pin];
  }

  private thinner(by: number): Candidate[] {
    const changes = this.wires.flatMap((key): [string, Partial<KeyEntry>][] => {
      const d = this.roles.get(key)?.diameterMm;
      return d == null ? [] : [[key, { diameterMm: Math.max(0.01, down(d * by, 0.01)) }]];
    });
    if (changes.length === 0) return [];
    const said = changes.map(([key, c]) => `${this.say(key)}, of ${mm(c.diameterMm!)}`).join(" and ");
    return [this.role(`Take thinner stringing: ${said}`, ...changes)];
  }

  private hole(): Candidate[] {
    const { key, need, have } = this.check;
    return [
      ...this.thinner((0.9 * have) / need),
      this.role(`Take a bead with a wider hole: ${this.say(key)}, with ${mm(up(need / 0.9, 0.05))}`, [
        key,
        { holeMm: up(need / 0.9, 0.05) },
      ]),
      ...this.fewerPasses(),
    ];
  }

  private fewerPasses(): Candidate[] {
    const { part } = this;
    if (!part) return [];
    const again = Math.ceil(part.reinforce ?? 0);
    const reinforced = Array.from({ length: again }, (_, i) => again - 1 - i).flatMap((reinforce) =>
      this.ofPart(reinforce === 0 ? "Don’t go the path again" : `Go the path again ${reinforce} times only`, {
        reinforce,
      }),
    );
    const text = part.steps ?? "";
    const passes: { from: number; to: number }[] = [];
    for (const row of parsePattern(text).rows) {
      everyStep(row, (step: Step) => {
        if (step.type !== "pass") return;
        const keys = step.step.type === "pick" ? [step.step.key] : [];
        if (step.step.type === "group") everyStep(step.step, (s) => s.type === "pick" && keys.push(s.key));
        if (keys.includes(this.check.key)) passes.push(step);
      });
    }
    const take = (gone: typeof passes) =>
      [...gone]
        .reverse()
        .reduce((t, p) => `${t.slice(0, p.from)}${t.slice(p.to)}`, text)
        .replace(/ {2,}/g, " ");
    const last = passes.at(-1);
    const never = this.ofPart(`Don’t pass through ${this.check.key} again`, { steps: take(passes) });
    return [
      ...reinforced.slice(0, 1),
      ...(last
        ? this.ofPart(`Pass through ${this.check.key} once less, where it is passed last`, { steps: take([last]) })
        : []),
      ...(passes.length > 1 ? never : []),
      ...reinforced.slice(1).slice(-1),
      ...(part.also?.length ? this.ofPart("Leave out the stringing that runs beside", { also: null }) : []),
    ];
  }

  private crimp(): Candidate[] {
    const { key, need, have, level } = this.check;
    if (level === "warn") {
      // Too loose: need is the least that must be filled, have what is.
      return [
        this.role(`Take a narrower crimp: ${this.say(key)}, of ${mm(down(have / 0.6, 0.05))} inside`, [
          key,
          { innerMm: down(have / 0.6, 0.05) },
        ]),
        ...this.wires.slice(0, 1).flatMap((wire) => {
          const d = this.roles.get(wire)?.diameterMm;
          if (d == null) return [];
          const thick = up((d * need * 1.05) / have, 0.01);
          return [this.role(`Take thicker wire: ${this.say(wire)}, of ${mm(thick)}`, [wire, { diameterMm: thick }])];
        }),
      ];
    }
    return [
      this.role(`Take a wider crimp: ${this.say(key)}, of ${mm(up(need, 0.1))} inside`, [
        key,
        { innerMm: up(need, 0.1) },
      ]),
      ...this.thinner(have / need),
    ];
  }

  private get crimps(): string[] {
    return [...this.roles].filter(([, r]) => isCrimp(r)).map(([key]) => key);
  }

  private method(id: string, say: string): Candidate[] {
    const { part } = this;
    const definition = SHIPPED.find((d) => d.id === id);
    const now = part && methodsOf(this.design, part).find((m) => m.definition.for === definition?.for);
    if (!part || !definition || !now) return [];
    const { at, choices } = now.method;
    return [{ say, design: chooseMethod(this.design, part.id, definition, { at, ...choices }) }];
  }

  private cover(): Candidate[] {
    const { key, need, have } = this.check;
    const cover = this.roles.get(key)!;
    const wide = up(need, 0.5);
    const inside = cover.innerMm == null ? { acrossMm: wide + 0.5 } : { innerMm: wide };
    return [
      ...this.method("crimp-folded", "Fold the crimp instead of pressing it flat"),
      this.role(`Take a wider cover: ${this.say(key)}, over ${mm(wide)}`, [key, inside]),
      ...this.crimps.flatMap((crimp) => {
        const across = this.roles.get(crimp)?.acrossMm;
        const small = across == null ? 0 : down((across * have) / need, 0.1);
        return small > 0 && small < across!
          ? [this.role(`Take a smaller crimp: ${this.say(crimp)}, ${mm(small)} across`, [crimp, { acrossMm: small }])]
          : [];
      }),
      ...this.ofPart("Leave the cover off", { uses: (this.part?.uses ?? []).filter((u) => u.key !== key) }),
    ];
  }

  private pin(): Candidate[] {
    const { key, need, have } = this.check;
    const long = PIN_LENGTHS.find((l) => l >= need) ?? up(need, 10);
    const { part } = this;
    const wire = freeKey(this.design, "W");
    const uses = (part?.uses ?? []).filter((u) => u.key !== key);
    const cutMm = up(need + (3 / 8) * MM_PER_INCH, 1);
    const onWire = this.ofPart(
      `Turn it on ${lengthIn(cutMm)} of 22 ga wire, a loop at each end, instead of a pin`,
      { uses, cuts: [...(part?.cuts ?? []), { key: wire, mm: cutMm, count: 1 }], methods: undefined },
      {
        ...this.design,
        key: [
          ...this.design.key,
          { key: wire, name: "22 ga wire", kind: "stringing", form: "craft wire", diameterMm: 0.644 },
        ],
      },
    );
    return [
      this.role(`Take a longer pin: ${this.say(key)}, of ${lengthIn(long)}`, [key, { lengthMm: long }]),
      ...this.method("simple-loop", "Close it with a simple loop"),
      ...this.oneLess(need - have),
      ...onWire,
    ];
  }

  /** The stack with one bead less, where that is enough. */
  private oneLess(by: number): Candidate[] {
    const text = this.part?.steps ?? "";
    const found: Candidate[] = [];
    for (const row of parsePattern(text).rows) {
      for (const step of row.steps) {
        const along = step.type === "pick" ? this.roles.get(step.key)?.alongMm : null;
        if (step.type !== "pick" || along == null || along < by || row.steps.length < 2) continue;
        const rest = step.n > 1 ? `${step.n - 1}${step.key}` : "";
        const steps = `${text.slice(0, step.from)}${rest}${text.slice(step.to)}`.replace(/ {2,}/g, " ").trim();
        found.push(...this.ofPart(`Leave one ${this.say(step.key)}, off`, { steps }));
      }
    }
    return found.slice(0, 1);
  }

  private ring(): Candidate[] {
    const { key, need, have } = this.check;
    const { part } = this;
    const hung = this.hungOn(key);
    const on = part?.stringing == null ? 0 : (this.roles.get(part.stringing)?.diameterMm ?? 0);
    const wire = freeKey(this.design, "W");
    const ownLoop: Design = {
      ...this.design,
      key: [
        ...this.design.key.map((e) => (hung.includes(e.key) ? { ...e, hangsBy: null } : e)),
        { key: wire, name: "24 ga wire", kind: "stringing", form: "craft wire", diameterMm: 0.511 },
      ],
      parts: this.design.parts.map((p) => (p.as != null && hung.includes(p.as) ? { ...p, hangsBy: null } : p)),
    };
    const cuts = hung.map((k) => ({ key: wire, mm: 70, count: 1, forEach: k }));
    const thin = hung.filter((k) => this.roles.get(k)?.thickMm != null);
    return [
      this.role(`Take a wider ring: ${this.say(key)}, of ${mm(up(need, 0.5))} inside`, [
        key,
        { innerMm: up(need, 0.5) },
      ]),
      ...(thin.length > 0 && have - on > 0
        ? [
            this.role(
              `Take a thinner piece: ${thin.map((k) => this.say(k)).join(" and ")}, of ${mm(down(have - on, 0.1))}`,
              ...thin.map((k): [string, Partial<KeyEntry>] => [k, { thickMm: down(have - on, 0.1) }]),
            ),
          ]
        : []),
      ...this.ofPart(
        `Hang it by a loop of its own, of ${lengthIn(70)} of wire`,
        { cuts: [...(part?.cuts ?? []), ...cuts], methods: undefined },
        ownLoop,
      ),
    ];
  }

  /** What hangs by a ring in this part. */
  private hungOn(ring: string): string[] {
    const strung = this.counting.parts.find((p) => p.part.id === this.check.part);
    const hung = new Set((strung?.placings ?? []).filter((p) => p.how === "hung").map((p) => p.key));
    return [...hung].filter((k) => this.counting.roles.get(k)?.hangsBy.some((u) => u.key === ring));
  }

  private cone(): Candidate[] {
    const { key } = this.check;
    const wrong = this.found.checks.filter((c) => subject(c) === subject(this.check) && c.level !== "fine");
    const cone = this.roles.get(key)!;
    const change: Partial<KeyEntry> = {};
    let shrink = 1;
    for (const c of wrong) {
      if (c.have === cone.innerMm) change.innerMm = up(c.need, 0.5);
      else change.lengthMm = up(c.need, 0.5);
      shrink = Math.min(shrink, c.have / c.need);
    }
    const size = [
      change.innerMm ? `${mm(change.innerMm)} inside` : "",
      change.lengthMm ? `${mm(change.lengthMm)} deep` : "",
    ].filter(Boolean);
    const smaller = this.crimps.flatMap((crimp) => {
      const { acrossMm, alongMm } = this.roles.get(crimp)!;
      const own: Partial<KeyEntry> = {};
      if (change.innerMm && acrossMm != null) own.acrossMm = Math.max(0.1, down(acrossMm * shrink, 0.1));
      if (change.lengthMm && alongMm != null)
        own.alongMm = Math.max(0.1, down(alongMm - wrong.reduce((most, c) => Math.max(most, c.need - c.have), 0), 0.1));
      return Object.keys(own).length > 0 ? [this.role(`Take smaller crimps: ${this.say(crimp)}`, [crimp, own])] : [];
    });
    const part = this.part!;
    const method = methodsOf(this.design, part).find((m) => Object.values(m.roles).includes(key));
    const dropped = method ? dropMethod(this.design, part.id, method.method) : this.design;
    const uses = (dropped.parts.find((p) => p.id === part.id)!.uses ?? []).filter((u) => u.key !== key);
    return [
      this.role(`Take a larger one: ${this.say(key)}, ${size.join(" and ")}`, [key, change]),
      ...smaller,
      ...(smaller.length === 0 ? this.thinner(shrink) : []),
      ...this.ofPart(`Leave ${this.say(key)}, off`, { uses }, dropped),
    ];
  }

  private slip(): Candidate[] {
    const { key } = this.check;
    const wrong = this.found.checks.filter((c) => subject(c) === subject(this.check) && c.level !== "fine");
    const widest = Math.max(...wrong.map((c) => c.need));
    const strung = this.counting.parts.find((p) => p.part.id === this.check.part);
    const pairs = strung ? neighboursIn(strung.whole) : [];
    const knots = pairs.flatMap(({ a, b }) => [a, b]).filter((e) => "knotMm" in e);
    const across = this.roles.get(key)?.acrossMm;
    const isKnot = wrong.every((c) => knots.some((k) => "knotMm" in k && Math.abs(k.knotMm - c.have) < 1e-6));
    if (isKnot && this.roles.get(key)?.holeMm === widest) {
      const text = this.part?.steps ?? "";
      const steps = text.replace(/\bknot\s+\d+(?:\.\d+)?\s*mm/g, `knot ${up(widest + 0.5, 0.5)}mm`);
      const hole = down(Math.min(...wrong.map((c) => c.have)) - 0.1, 0.05);
      return [
        ...this.ofPart(`Tie a larger knot, of ${mm(up(widest + 0.5, 0.5))}`, { steps }),
        this.role(`Take a bead with a narrower hole: ${this.say(key)}, with ${mm(hole)}`, [key, { holeMm: hole }]),
      ];
    }
    const holed = pairs.flatMap(({ a, b }) =>
      (
        [
          [a, b],
          [b, a],
        ] as const
      ).flatMap(([x, y]) =>
        "key" in x && "key" in y && y.key === key && (this.roles.get(x.key)?.holeMm ?? 0) >= (across ?? 0)
          ? [x.key]
          : [],
      ),
    );
    const hole = down((across ?? 0) - 0.1, 0.05);
    return [
      this.role(`Take a larger bead: ${this.say(key)}, ${mm(up(widest + 0.1, 0.1))} across`, [
        key,
        { acrossMm: up(widest + 0.1, 0.1) },
      ]),
      ...(hole > 0 && holed.length > 0
        ? [
            this.role(
              `Take a narrower hole beside it, of ${mm(hole)}: ` +
                [...new Set(holed)].map((k) => this.say(k)).join(" and "),
              ...[...new Set(holed)].map((k): [string, Partial<KeyEntry>] => [k, { holeMm: hole }]),
            ),
          ]
        : []),
      ...this.between(key, holed, widest),
    ];
  }

  /** A bead of the key that is wide enough, between the two that slip. */
  private between(key: string, holed: readonly string[], widest: number): Candidate[] {
    const text = this.part?.steps ?? "";
    return [...this.roles]
      .filter(([k, r]) => r.kind === "bead" && (r.acrossMm ?? 0) > widest && !holed.includes(k) && k !== key)
      .slice(0, 1)
      .flatMap(([k]) => {
        const places: { from: number; to: number }[] = [];
        for (const row of parsePattern(text).rows)
          everyStep(row, (step) => step.type === "pick" && step.key === key && places.push(step));
        const steps = places
          .reverse()
          .reduce((t, p) => `${t.slice(0, p.from)}${k} ${t.slice(p.from, p.to)} ${k}${t.slice(p.to)}`, text);
        return this.ofPart(`Put ${this.say(k)}, on both sides of ${key}`, { steps });
      });
  }

  private cut(): Candidate[] {
    const { need, have } = this.check;
    const { part } = this;
    if (!part) return [];
    const fixed = ofSize(part.cutMm, this.counting.answer.size);
    const long = up(need, 5);
    const bySize = (value: number) =>
      part.cutMm != null && typeof part.cutMm !== "number" && this.counting.answer.size !== null
        ? { ...part.cutMm, [this.counting.answer.size]: value }
        : value;
    if (have > need)
      return [
        ...this.ofPart(`Cut ${lengthIn(long)} instead`, { cutMm: bySize(long) }),
        ...this.ofPart("Cut what the way and the tails ask for", { cutMm: null }),
      ];
    const tails = Math.ceil((part.tailMm ?? 0) + (need - have) / 2);
    return [
      ...(fixed === null ? this.ofPart(`Leave ${lengthIn(tails)} at each end`, { tailMm: tails }) : []),
      ...this.ofPart(`Cut ${lengthIn(long)}`, { cutMm: bySize(long) }),
      ...(fixed === null ? [] : this.ofPart("Cut what the way and the tails ask for", { cutMm: null })),
      ...(fixed === null
        ? []
        : this.ofPart("Cut what the way asks for, with longer tails", { cutMm: null, tailMm: tails })),
    ];
  }

  private links(): Candidate[] {
    const { key, need, have } = this.check;
    const { part } = this;
    if (!part) return [];
    const chain = this.counting.roles.get(key);
    const linkMm = chain?.type === "stringing" ? (chain.linkMm ?? 0) : 0;
    const cutMm = ofSize(part.cutMm, this.counting.answer.size);
    if (cutMm !== null && Math.ceil(cutMm / linkMm - 1e-6) === have && need > have) {
      const lossless = this.role(`Take chain that opens, so that no link is lost: ${this.say(key)}`, [
        key,
        { lossLinks: 0 },
      ]);
      return [
        ...this.ofPart(`Cut ${need} links, ${lengthIn(need * linkMm)}`, { cutMm: need * linkMm }),
        ...this.ofPart("Cut what the rows ask for", { cutMm: null }),
        lossless,
      ];
    }
    const text = part.steps ?? "";
    const stepped = (by: number) =>
      text.replace(/\bskip (\d+)(?![\d./]|\s*(?:mm|cm|m|in|ft|"))/g, (all, n: string) =>
        Number(n) % 2 === 0 && Number(n) + by > 0 ? `skip ${Number(n) + by}` : all,
      );
    return [
      ...this.ofPart("Skip one link more", { steps: stepped(1) }),
      ...this.ofPart("Skip one link less", { steps: stepped(-1) }),
      this.role(`Take chain whose links lie one way: ${this.say(key)}`, [key, { twisted: false }]),
    ];
  }

  private alike(): Candidate[] {
    const { key, need, have } = this.check;
    const text = this.part?.steps ?? "";
    const evened: Design = {
      ...this.design,
      key: this.design.key.map((e) =>
        e.mix?.some((m) => m.key === key) ? { ...e, mix: e.mix.map((m) => ({ key: m.key, share: 1 })) } : e,
      ),
    };
    // Each one that is taken out lowers what half of the rest is.
    const fewer = text.replace(new RegExp(`(?<![\\w>.])(\\d+)(${key})(?![\\w])`, "u"), (all, n: string, k: string) => {
      const left = Number(n) - Math.ceil(2 * (need - have));
      return left > 0 ? `${left}${k}` : all;
    });
    return [
      { say: `Share the mix evenly, so that ${key} is no more than half of it`, design: evened },
      ...(fewer === text ? [] : this.ofPart(`Take fewer of ${this.say(key)}`, { steps: fewer })),
      ...this.moreOfOthers(key, Math.ceil(2 * (need - have))),
      ...this.ofPart("Let two alike stand side by side", { noTwoAlike: null }),
    ];
  }

  private moreOfOthers(key: string, by: number): Candidate[] {
    const text = this.part?.steps ?? "";
    for (const row of parsePattern(text).rows) {
      for (const step of row.steps) {
        if (step.type !== "pick" || step.key === key || step.n !== step.least) continue;
        const steps = `${text.slice(0, step.from)}${step.n + by}${step.key}${text.slice(step.keyAt.to)}`;
        return this.ofPart(`Take ${by} more of ${this.say(step.key)}`, { steps });
      }
    }
    return [];
  }

  private strength(): Candidate[] {
    const { key, need, have } = this.check;
    const { part } = this;
    const strong = up(need, 0.5);
    const strands = Math.max(1, have / (this.roles.get(key)?.breakKg ?? have));
    const also = [
      ...(part?.also ?? []),
      ...Array.from({ length: Math.ceil(need / have) - 1 }, () => ({ key, tailMm: part?.tailMm ?? 0 })),
    ];
    const heavy = [...this.roles].filter(([, r]) => r.massG != null && (r.kind === "focal" || r.kind === "bead"));
    const lighter = heavy.map(([k, r]): [string, Partial<KeyEntry>] => [
      k,
      { massG: down((r.massG! * have * 0.98) / need, 0.001) },
    ]);
    return [
      this.role(`Take stronger stringing: ${this.say(key)}, that bears ${up(strong / strands, 0.1)} kg`, [
        key,
        { breakKg: up(strong / strands, 0.1) },
      ]),
      ...this.ofPart(`String it on ${Math.ceil(need / have)} strands side by side`, { also }),
      ...(lighter.length > 0 ? [this.role("Take lighter beads", ...lighter)] : []),
    ];
  }

  private pair(): Candidate[] {
    const { key } = this.check;
    const made = this.design.parts.filter((p) => p.as == null && (p.makes ?? 1) % 2 === 1);
    return [
      ...made.map((p): Candidate => ({
        say: `Make ${p.name} ${(p.makes ?? 1) + 1} times, the second mirrored`,
        design: {
          ...this.design,
          parts: this.design.parts.map((x) => (x.id === p.id ? { ...x, makes: (p.makes ?? 1) + 1 } : x)),
        },
      })),
      this.role(`Take one that is the same from both sides: ${this.say(key)}`, [key, { handed: false }]),
      {
        say: `Put its mate beside it: one ${key} more`,
        design: { ...this.design, uses: [...(this.design.uses ?? []), { key, count: 1 }] },
      },
    ];
  }

  private drops(): Candidate[] {
    const { key, need, have } = this.check;
    const { part } = this;
    const text = part?.steps ?? "";
    const places: number[] = [];
    for (const row of parsePattern(text).rows) everyStep(row, (step) => step.type === "hang" && places.push(step.from));
    const role = part?.stringing == null ? undefined : this.counting.roles.get(part.stringing);
    const links = role?.type === "stringing" ? role.linkMm : null;
    const room = links ? `skip ${Math.ceil((need - have) / links - 1e-6)}` : `space ${up(need - have, 0.5)}mm`;
    const steps = places.reverse().reduce((t, at) => `${t.slice(0, at)}${room} ${t.slice(at)}`, text);
    const narrow = this.design.key.filter(
      (e) => (this.roles.get(e.key)?.acrossMm ?? 0) > have && new RegExp(`\\bhang[^\\n]*\\b${e.key}\\b`).test(text),
    );
    return [
      ...this.ofPart(`Leave room between: ${room.replace(/mm$/, "\u00a0mm")}`, { steps }),
      ...(have > 0 && narrow.length > 0
        ? [
            this.role(
              `Take narrower ones: ${narrow.map((e) => this.say(e.key)).join(" and ")}, ${mm(down(have, 0.1))} across`,
              ...narrow.map((e): [string, Partial<KeyEntry>] => [e.key, { acrossMm: down(have, 0.1) }]),
            ),
          ]
        : []),
      this.role(`Hang ${this.say(key)}, the narrow way`, [
        key,
        { acrossMm: Math.max(0.1, down(Math.max(have, 0.1), 0.1)) },
      ]),
    ];
  }

  /** Other numbers in the rows, the closest that is long enough first. */
  private body(): Candidate[] {
    const { part, check } = this;
    const strung = this.counting.parts.find((p) => p.part === part);
    if (!part || !strung) return [];
    const { size, option } = this.counting.answer;
    const targetMm = strung.whole.strandMm + (check.need - check.have) / (part.finishedRatio ?? 1);
    return waysToLength(this.design, { part: part.id, size, option, targetMm })
      .filter((way) => way.offMm > -0.005)
      .flatMap((way) => this.ofPart(way.say, { steps: way.steps }))
      .slice(0, 4);
  }

  private magnet(): Candidate[] {
    const { key } = this.check;
    const clasp = { name: "lobster clasp", form: "clasp" };
    const entry = this.design.key.find((e) => e.key === key);
    return [
      ...(entry
        ? [
            {
              ...this.role(`Take a clasp without a magnet for ${this.say(key)}`, [key, clasp]),
              measures: [[key, "cautions"]] as [string, Measure][],
            },
          ]
        : []),
      {
        say: "Say that this is not for a child",
        design: { ...this.design, about: { ...this.design.about, forChild: false } },
      },
      ...(entry
        ? [
            {
              ...this.role(`Take a toggle clasp for ${this.say(key)}`, [key, { name: "toggle clasp", form: "clasp" }]),
              measures: [[key, "cautions"]] as [string, Measure][],
            },
          ]
        : []),
    ];
  }

  private lacks(): Candidate[] {
    const { part } = this;
    if (!part) return [];
    const { key, need, have } = this.check;
    const methods = linesOf(this.design, part);
    const line = methods.flatMap((m) => m.lines).find((l) => l.key === key && l.state !== "edited");
    const more = { key, count: Math.ceil(need - have), ...(line?.forEach == null ? {} : { forEach: line.forEach }) };
    return [
      ...methods
        .filter(({ of }) => Object.values(of.roles).includes(key))
        .flatMap(({ of: { definition, method } }): Candidate[] => [
          {
            say: `Put in what ${definition.name.toLowerCase()} takes`,
            design: chooseMethod(this.design, part.id, definition, { at: method.at, ...method.choices }),
          },
          {
            say: `Don’t make it by ${definition.name.toLowerCase()}`,
            design: dropMethod(this.design, part.id, method),
          },
        ]),
      ...this.ofPart(
        `Add ${more.count} of ${this.say(key)}`,
        line?.what === "cut"
          ? { cuts: [...(part.cuts ?? []), { ...more, mm: line.mm }] }
          : { uses: [...(part.uses ?? []), more] },
      ),
    ];
  }
}

/** Pins as they are sold, mm: common practice, from memory. */
const PIN_LENGTHS = [20, 25, 30, 35, 40, 50, 60, 65, 75, 100];

/** A name without a length that does not hold any more. */
function renamed({ name, lengthMm }: KeyEntry, change: Partial<KeyEntry>): string {
  if (change.name) return change.name;
  if (change.lengthMm == null || lengthMm == null) return name;
  return name.replace(`${lengthMm} mm`, `${change.lengthMm} mm`);
}

function freeKey(design: Design, letter: string): string {
  const taken = new Set([...design.key.map((e) => e.key), ...design.parts.flatMap((p) => p.as ?? [])]);
  for (let n = 0; ; n++) {
    const key = n === 0 ? letter : `${letter}${n}`;
    if (!taken.has(key)) return key;
  }
}
