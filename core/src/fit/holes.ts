/** What goes through what: beads' holes, crimps and their covers. */
import { holds } from "../method/index.ts";
import { type Finder, many, mm, type PartAt } from "./finder.ts";
import { isCover, isCrimp, isPin, type Measured, packedMm } from "../measured/index.ts";
import { endsOf } from "./neighbours.ts";
import { bundleMm } from "./packing.ts";

const isBead = ({ kind }: Measured) => kind === "bead" || kind === "focal";

/** The stringing that goes through a part's beads: its own, and what runs beside it; nothing on chain. */
function stringingOf(f: Finder, { part }: PartAt): string[] {
  const own = part.stringing == null ? undefined : f.counting.roles.get(part.stringing);
  if (own?.type !== "stringing" || own.linkMm !== null) return [];
  return [own.key, ...(part.also ?? []).map((a) => a.key)];
}

/** The pin of a part that is strung on nothing: it goes through each bead once. */
function pinOf(f: Finder, { part }: PartAt): string[] {
  const pin = (part.uses ?? []).find((u) => isPin(f.roles.get(u.key)))?.key;
  return pin === undefined || part.stringing != null ? [] : [pin];
}

/** Keys of one line of the rows: of a mix its members, each of which must let everything through. */
function keysUnder(f: Finder, key: string): string[] {
  const role = f.counting.roles.get(key);
  return role?.type === "mix" ? role.members.map((m) => m.key) : [key];
}

/** How thick each stringing is where it is packed, mm; null where one is not measured, which is listed. */
function thicknesses(f: Finder, rule: "hole" | "crimp", of: PartAt, keys: readonly string[]): number[] | null {
  const found = keys.map((key) => packedMm(f.roles.get(key)));
  keys.forEach((key, i) => found[i] == null && f.missing(rule, of, key, "diameterMm"));
  return found.every((d) => d != null) ? found : null;
}

/** Strands of each stringing: all run along all the way, so there are as many of each. */
const bundle = (thick: readonly number[], n: number) => bundleMm(thick.map((d) => ({ mm: d, n: n / thick.length })));

/** Passes through each hole, against what the hole takes. */
export function checkHoles(f: Finder, of: PartAt) {
  const [strung, pin] = [stringingOf(f, of), pinOf(f, of)];
  const keys = strung.length > 0 ? strung : pin;
  if (keys.length === 0) return;
  const { part, passes, methods } = of;
  const ends = endsOf(of.strung.whole);
  const atEnd = new Set([...ends.first, ...ends.last].flatMap((e) => ("key" in e ? [e.key] : [])));
  const again = methods.reduce((sum, m) => sum + (m.each === null ? m.definition.needs.through : 0), 0);
  const name = keys.map((key) => f.say(key)).join(" and ");
  for (const [written, most] of Object.entries(passes)) {
    for (const key of keysUnder(f, written)) {
      const bead = f.roles.get(key);
      if (!bead || isCrimp(bead) || (!isBead(bead) && bead.holeMm == null)) continue;
      const n = keys === pin ? 1 : most + (atEnd.has(written) ? again * (part.strands ?? 1) : 0);
      const thick = thicknesses(f, "hole", of, keys);
      const have = f.ask("hole", of, key, "holeMm");
      if (thick === null || have === null) continue;
      const { mm: need, isEstimate } = bundle(thick, n);
      f.found({
        rule: "hole",
        key,
        need,
        have,
        unit: "mm",
        part: of,
        at: f.busiest(of, written),
        message:
          `${many(n, "pass", "passes")} of ${name} ${n === 1 ? "needs" : "need"} a hole of ` +
          `${isEstimate ? "about " : ""}${mm(need)}; ${f.say(key)}, has ${mm(have)}.`,
      });
    }
  }
}

/** A crimp of which less than this share is filled does not grip: common practice, no source. */
const LEAST_FILLED = 0.5;

/** Crimps of a part, by key, each with how many wires lie in its tube. */
function crimpsOf(f: Finder, { part, strung, passes, methods }: PartAt): Map<string, number> {
  const strands = part.strands ?? 1;
  const found = new Map<string, number>();
  const ends = endsOf(strung.whole);
  for (const [key, n] of Object.entries(passes)) {
    if (!isCrimp(f.roles.get(key))) continue;
    const atEnd = [...ends.first, ...ends.last].some((e) => "key" in e && e.key === key);
    // The wire is looped back through a crimp at an end: rows that write that pass themselves say so.
    const written = n > strands * (1 + (part.reinforce ?? 0)) * (1 + (part.also?.length ?? 0)) + 1e-9;
    found.set(key, atEnd && !written ? 2 * n : n);
  }
  for (const use of part.uses ?? []) {
    if (!isCrimp(f.roles.get(use.key)) || found.has(use.key)) continue;
    const count = typeof use.count === "number" ? use.count : Math.max(...Object.values(use.count));
    found.set(use.key, count >= 2 * strands ? 2 : 2 * strands);
  }
  for (const m of methods) {
    const key = m.roles.crimp;
    const wires = m.definition.needs.wires.find((w) => holds(w.when, m));
    if (key === undefined || !wires || !found.has(key)) continue;
    const each = m.definition.lines.some((line) => line.role === "crimp" && line.perStrand);
    found.set(key, each ? wires.n : wires.n * strands);
  }
  return found;
}

/** Wires in each crimp, and each cover over its crimp. */
export function checkCrimps(f: Finder, of: PartAt) {
  const crimps = crimpsOf(f, of);
  if (crimps.size === 0) return;
  for (const [key, n] of crimps) {
    const keys = stringingOf(f, of);
    const wire = of.methods.find((m) => m.roles.crimp === key)?.roles.wire;
    const inIt = keys.length > 0 ? keys : wire === undefined ? [] : [wire];
    const at = f.first(of, key);
    if (inIt.length === 0) continue;
    const thick = thicknesses(f, "crimp", of, inIt);
    const inner = f.ask("crimp", of, key, "innerMm");
    if (thick === null || inner === null) continue;
    const { mm: filled } = bundle(thick, n);
    const wires = `${many(n, "wire")} of ${inIt.map((k) => f.say(k)).join(" and ")}`;
    const isLoose = filled < LEAST_FILLED * inner - 1e-9 && !of.methods.some((m) => hasDummy(m));
    f.found({
      rule: "crimp",
      key,
      unit: "mm",
      part: of,
      at,
      ...(isLoose
        ? { need: LEAST_FILLED * inner, have: filled, level: "warn" as const }
        : { need: filled, have: inner }),
      message: isLoose
        ? `${wires}, ${n === 1 ? "fills" : "fill"} ${mm(filled)} of ${f.say(key)}, ${mm(inner)} inside: ` +
          "too little for it to grip."
        : `${wires}, ${n === 1 ? "needs" : "need"} ${mm(filled)}; ${f.say(key)}, is ${mm(inner)} inside.`,
    });
  }
  checkCovers(f, of, [...crimps.keys()]);
}

/** A dummy piece lies beside a single wire, so that the crimp grips. */
const hasDummy = (m: PartAt["methods"][number]) => m.values.wires === "single";

/** A tube pressed flat is as wide as half its way round: geometry. Folded or rounded it is no wider than it was. */
const FLAT = Math.PI / 2;
/** Of a cover of which only the outside is known its wall is taken off, mm: common practice, from memory. */
const WALL = 0.5;

function checkCovers(f: Finder, of: PartAt, crimps: readonly string[]) {
  const taken = [...(of.part.uses ?? []).map((u) => u.key), ...of.strung.placings.map((p) => p.key)];
  for (const key of new Set(taken.filter((k) => isCover(f.roles.get(k))))) {
    for (const crimp of crimps) {
      const across = f.ask("cover", of, crimp, "acrossMm");
      const cover = f.roles.get(key)!;
      const have = cover.innerMm ?? (cover.acrossMm == null ? null : cover.acrossMm - WALL);
      if (have === null) f.missing("cover", of, key, "innerMm");
      if (across === null || have === null) continue;
      const isFlat = of.methods.some((m) => m.roles.crimp === crimp && m.definition.needs.closed === "flat");
      const need = across * (isFlat ? FLAT : 1);
      f.found({
        rule: "cover",
        key,
        need,
        have,
        unit: "mm",
        part: of,
        message:
          `${f.say(crimp)}, is ${mm(need)} wide${isFlat ? ", pressed flat" : ""}; ` +
          `${f.say(key)}, takes ${mm(have)}.`,
      });
    }
  }
}
