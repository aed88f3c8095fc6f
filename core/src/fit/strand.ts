/** What holds along a strand: beads that slip, cuts, chain, what hangs, and what stands beside what. */
import type { Form } from "../contract/index.ts";
import { chainRun, ofSize, segmentsOf, type StrungPartOf } from "../count/index.ts";
import { lengthOf } from "../method/index.ts";
import { type Finder, long, many, mm, type PartAt } from "./finder.ts";
import { gramsOf, isCrimp, isMagnet, type Measured } from "../measured/index.ts";
import { type End, type Gap, gapsIn, neighboursIn } from "./neighbours.ts";

const isBead = (of: Measured | undefined) => of?.kind === "bead" || of?.kind === "focal";

/** A bead that slips into its neighbour's hole, or over a knot. */
export function checkSlips(f: Finder, of: PartAt) {
  const wide = (e: End): { mm: number; say: string } | null => {
    if ("knotMm" in e) return { mm: e.knotMm, say: `a knot of ${mm(e.knotMm)}` };
    const role = f.roles.get(e.key);
    if (!isBead(role) && !isCrimp(role)) return null;
    const across = role!.acrossMm;
    if (across == null) f.missing("slip", of, e.key, "acrossMm");
    else f.notice(e.key, "acrossMm");
    return across == null ? null : { mm: across, say: `${f.say(e.key)}, ${mm(across)} across` };
  };
  for (const { a, b } of neighboursIn(of.strung.whole)) {
    for (const [holed, other] of [
      [a, b],
      [b, a],
    ] as const) {
      if (!("key" in holed) || ("key" in other && other.key === holed.key)) continue;
      const hole = f.roles.get(holed.key)?.holeMm;
      if (hole == null) continue; // listed by the rule of holes
      const beside = wide(other);
      if (beside === null) continue;
      f.found({
        rule: "slip",
        key: "key" in other ? other.key : holed.key,
        need: hole,
        have: beside.mm,
        unit: "mm",
        part: of,
        at: other.at,
        // As wide as the hole, it sits in it and does not come out again.
        level: hole > beside.mm - 1e-9 ? "fail" : "fine",
        message: `${f.say(holed.key)}, has a hole of ${mm(hole)} beside ${beside.say}.`,
      });
    }
  }
}

/** Working length at each end where nobody said any, mm: common practice, no source. */
const WORKING: Partial<Record<Form, number>> = {
  "beading wire": 50,
  thread: 100,
  "stretch cord": 60,
  "memory wire": 6,
};
/** A fixed cut is called wasteful when it is this much longer than need be, both as a share and in mm. */
const WASTE = { share: 0.5, mm: 150 };

/** Cuts of stringing against the thread's way and what the ends take. */
export function checkCuts(f: Finder, of: PartAt) {
  const { part, strung, methods } = of;
  const { size } = f.counting.answer;
  if (part.stringing == null || !strung.pattern.text.trim()) return;
  const role = f.counting.roles.get(part.stringing);
  if (role?.type !== "stringing" || role.linkMm !== null) return;
  const cuts = strung.cuts.filter((c) => c.how === "strung");
  const all = segmentsOf(strung.whole);
  const segments = all.length > 1 ? all.filter((s) => s.strung) : all;
  const asked = Math.max(0, ...methods.map((m) => lengthOf(m.definition.needs.tail, m, f.measure, true) ?? 0));
  const fixed = ofSize(part.cutMm, size);
  const nobodySaid = fixed === null && !part.tailMm && asked === 0;
  const working = nobodySaid ? (WORKING[(f.roles.get(role.key)?.form ?? "") as Form] ?? 0) : 0;
  const tail = Math.max(part.tailMm ?? 0, asked, working);
  const strands = part.folded ? 2 : 1;
  const along = strands * (1 + (part.takeUp ?? 0)) * (1 + (part.reinforce ?? 0));
  cuts.forEach((cut, i) => {
    const segment = segments[i];
    if (!segment) return;
    const need = along * segment.pathMm + 2 * tail;
    const isWaste =
      fixed !== null &&
      (part.tailMm ?? 0) > 0 &&
      (part.strands ?? 1) < 3 &&
      cut.mm > (1 + WASTE.share) * need &&
      cut.mm - need > WASTE.mm;
    const isShort = need > cut.mm + 0.01;
    f.found({
      rule: "cut",
      key: role.key,
      need,
      have: cut.mm,
      unit: "mm",
      part: of,
      level: isShort ? (nobodySaid ? "warn" : "fail") : isWaste ? "warn" : "fine",
      message:
        `${long(along * segment.pathMm)} of thread’s way and two ends of ${long(tail)} need ${long(need)} of ` +
        `${f.say(role.key)}; a cut is ${long(cut.mm)}${isWaste ? ", which wastes the rest" : ""}.`,
    });
  });
}

/** Chain: links lost by cutting one piece, and charms that face the same way. */
export function checkLinks(f: Finder, of: PartAt) {
  const { part, strung } = of;
  const role = part.stringing == null ? undefined : f.counting.roles.get(part.stringing);
  for (const cut of part.cuts ?? []) {
    const chain = f.counting.roles.get(cut.key);
    if (chain?.type === "stringing" && chain.linkMm !== null && chain.entry.lossLinks == null)
      f.missing("links", of, cut.key, "lossLinks");
  }
  if (role?.type !== "stringing" || role.linkMm === null) return;
  if (role.entry.lossLinks == null) f.missing("links", of, role.key, "lossLinks");
  const { linkMm } = role;
  const fixed = ofSize(part.cutMm, f.counting.answer.size);
  if (fixed !== null) {
    const need = linksNeeded(strung, role.lossLinks);
    const have = Math.ceil(fixed / linkMm - 1e-6);
    f.found({
      rule: "links",
      key: role.key,
      need,
      have,
      unit: "links",
      part: of,
      message:
        `The rows need ${many(need, "link")} of ${f.say(role.key)}, lost ones included; ` +
        `a piece of ${long(fixed)} has ${have}.`,
    });
  }
  if (f.roles.get(role.key)?.twisted !== true) return;
  for (const gap of gapsIn(strung.whole)) {
    const links = Math.round(gap.mm / linkMm);
    const isOdd = links % 2 !== 0;
    f.found({
      rule: "links",
      key: role.key,
      need: isOdd ? links + 1 : links,
      have: links,
      unit: "links",
      part: of,
      at: gap.b.at,
      message:
        `On the twisted links of ${f.say(role.key)}, only every second one hangs the same way: ` +
        `${gap.a.keys.join(" and ")} and ${gap.b.keys.join(" and ")} are ${many(links, "link")} apart` +
        `${isOdd ? ", so they face different ways" : ""}.`,
    });
  }
}

/** Links that a piece of chain must have to be divided as the rows say: each division destroys some. */
function linksNeeded({ whole }: StrungPartOf, loss: number): number {
  const run = chainRun(whole);
  const pieces = [run.first, ...(run.divided ? [run.last] : [])].filter((n) => n > 0);
  let [links, many] = [pieces.reduce((sum, n) => sum + n, 0), pieces.length];
  for (const [n, times] of run.inner) if (n > 0) [links, many] = [links + n * times, many + times];
  return links + Math.max(0, many - 1) * loss;
}

/** Drops that hang too close to hang freely. */
export function checkDrops(f: Finder, of: PartAt) {
  if (of.part.stringing == null) return;
  for (const gap of gapsIn(of.strung.whole)) {
    const [a, b] = [widthOf(f, of, gap.a), widthOf(f, of, gap.b)];
    if (a === null || b === null) continue;
    f.found({
      rule: "drops",
      key: gap.b.keys[0]!,
      need: (a + b) / 2,
      have: gap.mm,
      unit: "mm",
      part: of,
      at: gap.b.at,
      level: (a + b) / 2 > gap.mm + 0.005 ? "warn" : "fine",
      message:
        `${f.say(gap.a.keys[0]!)}, and ${f.say(gap.b.keys[0]!)}, need ${mm((a + b) / 2)} from middle to middle ` +
        `to hang freely; they are ${mm(gap.mm)} apart.`,
    });
  }
}

/** How wide what hangs at a place is, mm; the widest bead of a drop that is made. */
function widthOf(f: Finder, of: PartAt, { keys }: Gap["a"]): number | null {
  const widths = keys.map((key) => {
    const role = f.counting.roles.get(key);
    if (role?.type !== "sub") return f.ask("drops", of, key, "acrossMm");
    const inside = f.parts.find((p) => p.part === role.part)?.strung.placings ?? [];
    const beads = [...new Set(inside.map((p) => p.key))].filter((k) => isBead(f.roles.get(k)));
    const all = beads.map((k) => f.ask("drops", of, k, "acrossMm"));
    return all.length > 0 && all.every((w) => w !== null) ? Math.max(...all) : null;
  });
  return widths.every((w) => w !== null) ? Math.max(...widths) : null;
}

/** No two alike side by side, where that is asked: none may be more than half, rounded up. */
export function checkAlike(f: Finder, of: PartAt) {
  if (of.part.noTwoAlike !== true) return;
  const beads = new Map<string, number>();
  for (const { key, picked, how } of of.strung.placings) {
    if (how !== "strung" || picked === 0) continue;
    const shares = f.counting.shares.get(key);
    const role = f.counting.roles.get(key);
    if (!shares || role?.type !== "mix") beads.set(key, (beads.get(key) ?? 0) + picked);
    else {
      const all = shares.reduce((sum, n) => sum + n, 0);
      role.members.forEach((m, i) => beads.set(m.key, (beads.get(m.key) ?? 0) + (shares[i]! * picked) / all));
    }
  }
  const n = [...beads.values()].reduce((sum, x) => sum + x, 0);
  const [key, most] = [...beads].reduce((a, b) => (b[1] > a[1] ? b : a), ["", 0]);
  if (n === 0) return;
  f.found({
    rule: "alike",
    key,
    need: Math.round(most * 1000) / 1000,
    have: Math.ceil(n / 2),
    unit: "pieces",
    part: of,
    message:
      `${many(Number(most.toFixed(1)), "bead")} of ${f.say(key)}, among ${Number(n.toFixed(1))}: for no two alike ` +
      `to stand side by side, none may be more than ${Math.ceil(n / 2)}.`,
  });
}

/** How many times what hangs on a strand it must bear, since it is tugged at: common practice, from memory. */
const TUG = 10;

/** Stringing against the weight of what is on it. */
export function checkStrength(f: Finder, of: PartAt) {
  const { part } = of;
  if (part.stringing == null) return;
  const role = f.roles.get(part.stringing);
  if (!role) return;
  const hasHung = of.strung.placings.some((p) => p.how === "hung" && p.picked > 0);
  if (role.breakKg == null && !hasHung) return;
  const breaks = f.ask("strength", of, role.key, "breakKg");
  const unknown = new Set<string>();
  const grams = gramsIn(f, of, unknown, 0);
  for (const key of unknown) f.missing("strength", of, key, "massG");
  if (breaks === null || unknown.size > 0) return;
  const strands = Math.max(1, part.strands ?? 1) * (1 + (part.also ?? []).filter((a) => a.key === role.key).length);
  f.found({
    rule: "strength",
    key: role.key,
    need: (TUG * grams) / 1000,
    have: breaks * strands,
    unit: "kg",
    part: of,
    message:
      `${Number(grams.toFixed(1))} g hang on ${f.say(role.key)}, which should bear ten times that, ` +
      `${Number(((TUG * grams) / 1000).toFixed(2))} kg; it breaks at ${Number((breaks * strands).toFixed(2))} kg.`,
  });
}

/** What is on one of a part, g; keys that nobody weighed are put into `unknown`. */
function gramsIn(f: Finder, { strung }: PartAt, unknown: Set<string>, depth: number): number {
  if (depth > 32) return 0;
  let sum = 0;
  const add = (key: string, n: number) => {
    const role = f.counting.roles.get(key);
    if (role?.type === "sub") {
      const inside = f.parts.find((p) => p.part === role.part);
      if (inside) sum += n * gramsIn(f, inside, unknown, depth + 1);
    } else if (role?.type === "mix") {
      const shares = f.counting.shares.get(key) ?? [];
      const all = shares.reduce((total, x) => total + x, 0);
      if (all > 0) role.members.forEach((m, i) => add(m.key, (n * shares[i]!) / all));
    } else {
      const grams = f.roles.has(key) ? gramsOf(f.roles.get(key)!) : null;
      if (grams === null) unknown.add(key);
      else sum += n * grams;
    }
  };
  for (const { key, picked, how } of strung.placings) {
    if (picked === 0) continue;
    add(key, picked);
    if (how === "hung") for (const use of f.counting.roles.get(key)?.hangsBy ?? []) add(use.key, picked * use.count);
  }
  return sum;
}

/** One-sided beads come in mirrored pairs: in earrings, and wherever there is more than one. */
export function checkPairs(f: Finder) {
  const { design, answer } = f.counting;
  for (const entry of design.key) {
    if (!entry.handed) continue;
    const n = answer.counts[entry.key] ?? 0;
    if (n === 0 || (n === 1 && design.about?.kind !== "earrings")) continue;
    f.found({
      rule: "pair",
      key: entry.key,
      need: 2 * Math.ceil(n / 2),
      have: n,
      unit: "pieces",
      part: null,
      message:
        n % 2 === 0
          ? `${f.say(entry.key)}, is one-sided: ${n} of it are ${many(n / 2, "mirrored pair")}.`
          : `${f.say(entry.key)}, is one-sided, and of ${n} one has no mirrored mate.`,
    });
  }
}

/** No magnet in what a child makes or wears. */
export function checkMagnets(f: Finder) {
  const { design, answer } = f.counting;
  if (design.about?.forChild !== true) return;
  for (const [key, role] of f.roles) {
    const n = (answer.counts[key] ?? 0) + (answer.perKit[key] ?? 0);
    if (n === 0 || !isMagnet(role)) continue;
    f.found({
      rule: "magnet",
      key,
      need: n,
      have: 0,
      unit: "pieces",
      part: null,
      message: `${f.say(key)}, is a magnet, and this is for a child: small magnets must never be swallowed.`,
    });
  }
}
