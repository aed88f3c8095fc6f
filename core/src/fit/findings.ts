/** Findings against what they hold: pins, rings, cones and caps, and what a method needs and the bag lacks. */
import type { Design, PartUse } from "../contract/index.ts";
import { ofSize } from "../count/index.ts";
import { type Brought, hangsBy, isSameThing, lengthOf, linesOf, mayBeInRows, type PartLine } from "../method/index.ts";
import { MM_PER_INCH } from "../units/index.ts";
import { type Finder, long, many, mm, type PartAt } from "./finder.ts";
import { isCrimp, isHiding, isPin, isRing, packedMm } from "../measured/index.ts";
import { endsOf } from "./neighbours.ts";
import { bundleMm } from "./packing.ts";

/** Wire above the last bead that one simple loop takes: common practice, no source. */
const SIMPLE_LOOP = (3 / 8) * MM_PER_INCH;

/** Each pin against the stack on it and the loop above. */
export function checkPins(f: Finder, of: PartAt) {
  const { part, strung, methods } = of;
  for (const use of part.uses ?? []) {
    if (!isPin(f.roles.get(use.key))) continue;
    const stack = stackOn(f, of, use);
    if (stack === null || stack <= 0) continue;
    const have = f.ask("pin", of, use.key, "lengthMm");
    if (have === null) continue;
    const method = methods.find((m) => m.roles.pin === use.key && m.definition.needs.above.length > 0);
    const above = method ? lengthOf(method.definition.needs.above, method, f.measure) : SIMPLE_LOOP;
    if (above === null) {
      f.missing("pin", of, use.key, "diameterMm");
      continue;
    }
    const loop = method ? method.definition.name.toLowerCase() : "a simple loop";
    f.found({
      rule: "pin",
      key: use.key,
      need: stack + above,
      have,
      unit: "mm",
      part: of,
      at: strung.placings.find((p) => p.how === "strung")?.at ?? null,
      message:
        `A stack of ${long(stack)} and ${long(above)} for ${loop} ` +
        `need a pin of ${long(stack + above)}; ${f.say(use.key)}, is ${long(have)} long.`,
    });
  }
}

/** How much stands on one pin, mm: the whole part, or the one bead that has a pin each; null where that isn't clear. */
function stackOn(f: Finder, { strung }: PartAt, use: PartUse): number | null {
  if (use.forEach != null) return f.roles.get(use.forEach)?.alongMm ?? null;
  return ofSize(use.count, f.counting.answer.size) === 1 ? strung.whole.strandMm : null;
}

/** Each ring against what hangs in it, and what it hangs on. */
export function checkRings(f: Finder, of: PartAt) {
  const { part, strung, methods } = of;
  const hung = new Set<string>();
  for (const p of strung.placings) if (p.how === "hung" && p.picked > 0) hung.add(p.key);
  for (const key of hung) {
    const role = f.counting.roles.get(key);
    const rings = (role?.hangsBy ?? []).map((u) => u.key);
    for (const m of methods) if (m.each === key && m.roles.ring !== undefined) rings.push(m.roles.ring);
    for (const ring of new Set(rings.filter((k) => isRing(f.roles.get(k))))) {
      const thick = thicknessOf(f, of, key);
      const have = f.ask("ring", of, ring, "innerMm");
      if (thick === null || have === null) continue;
      const on = part.stringing == null ? 0 : (f.roles.get(part.stringing)?.diameterMm ?? 0);
      f.found({
        rule: "ring",
        key: ring,
        need: thick + on,
        have,
        unit: "mm",
        part: of,
        at: f.first(of, key),
        message:
          `${f.say(key)}, is ${mm(thick)} thick where it hangs` +
          `${on > 0 ? `, with ${mm(on)} of ${f.say(part.stringing!)}, beside it` : ""}; ` +
          `${f.say(ring)}, is ${mm(have)} inside.`,
      });
    }
  }
}

/** How thick something is where a ring goes through: of a drop on a pin, its wire. */
function thicknessOf(f: Finder, of: PartAt, key: string): number | null {
  const role = f.counting.roles.get(key);
  if (role?.type !== "sub") return f.ask("ring", of, key, "thickMm");
  const pin = role.part.uses?.find((u) => isPin(f.roles.get(u.key)))?.key;
  return pin === undefined ? null : f.ask("ring", of, pin, "diameterMm");
}

/** Each cone or cap against what it hides: how wide it is in a bundle, and how deep. */
export function checkCones(f: Finder, of: PartAt) {
  const { part, strung, methods } = of;
  const strands = part.strands ?? 1;
  for (const use of part.uses ?? []) {
    const over = f.roles.get(use.key);
    if (!isHiding(over) || (over!.form === "bead cap" && strands === 1)) continue;
    const method = methods.find((m) => m.roles.cone === use.key || m.roles.end === use.key);
    const ends = endsOf(strung.whole);
    const inRows = [...ends.first, ...ends.last].flatMap((e) =>
      "key" in e && isCrimp(f.roles.get(e.key)) ? [e.key] : [],
    );
    const crimp = inRows[0] ?? (part.uses ?? []).find((u) => isCrimp(f.roles.get(u.key)))?.key;
    const knot = [...ends.first, ...ends.last].find((e) => "knotMm" in e);
    const deep = method ? lengthOf(method.definition.needs.deep, method, f.measure, true) : null;
    const what = crimp === undefined ? part.stringing : crimp;
    if (what == null) continue;
    const one = crimp === undefined ? packedMm(f.roles.get(what)) : f.ask("cone", of, crimp, "acrossMm");
    if (one === null && crimp === undefined) f.missing("cone", of, what, "diameterMm");
    const have = f.ask("cone", of, use.key, "innerMm");
    const hides = `${many(strands, crimp === undefined ? "strand" : "crimp")} of ${f.say(what)}`;
    if (one !== null && have !== null) {
      const need = bundleMm([{ mm: one, n: strands }]).mm;
      f.found({
        rule: "cone",
        key: use.key,
        need,
        have,
        unit: "mm",
        part: of,
        message: `${hides}, side by side are ${mm(need)} wide; ${f.say(use.key)}, is ${mm(have)} inside.`,
      });
    }
    const inside = crimp === undefined ? (knot && "knotMm" in knot ? knot.knotMm : null) : f.measure(crimp, "alongMm");
    if (crimp !== undefined && inside === null) f.missing("cone", of, crimp, "alongMm");
    if (inside === null && deep === null) continue;
    if (inside === null && (deep ?? 0) <= 0) continue;
    const depth = f.ask("cone", of, use.key, "lengthMm");
    if (depth === null) continue;
    const need = (inside ?? 0) + (deep ?? 0);
    f.found({
      rule: "cone",
      key: use.key,
      need,
      have: depth,
      unit: "mm",
      part: of,
      message: `What ${f.say(use.key)}, hides is ${mm(need)} deep; it is ${mm(depth)} deep inside.`,
    });
  }
}

/**
 * Findings and cuts that methods need and the part does not take any more: what several methods take of one thing is
 * needed together. A line that somebody edited is left as it is, and not looked at.
 */
export function checkLacks(f: Finder, of: PartAt) {
  const { design, answer } = f.counting;
  const { part } = of;
  const needs: { lines: Brought[]; names: string[]; need: number }[] = [];
  const edited: { by: string; line: Brought }[] = [];
  for (const { of: method, lines } of linesOf(design, part)) {
    for (const line of lines) {
      if (line.what === "also") continue;
      if (line.state === "edited") {
        edited.push({ by: method.definition.id, line });
        continue;
      }
      const isOne = (known: Brought) => isSameThing(known, line) && (known.what === "cut") === (line.what === "cut");
      let known = needs.find((n) => isOne(n.lines[0]!));
      if (!known) needs.push((known = { lines: [], names: [], need: 0 }));
      known.lines.push(line);
      known.need += line.count;
      if (!known.names.includes(method.definition.name)) known.names.push(method.definition.name);
    }
  }
  const isEdited = (l: PartLine) =>
    edited.some(({ by, line }) => l.by === by && l.key === line.key && (l.forEach ?? null) === line.forEach);
  for (const { lines, names, need } of needs) {
    const line = lines[0]!;
    const written = line.what === "cut" ? (part.cuts ?? []) : [...(part.uses ?? []), ...hungBy(design, line)];
    let have = written
      .filter((l) => isSameThing(l, line) && !isEdited(l))
      .reduce((sum, l) => sum + (ofSize(l.count, answer.size) ?? 0), 0);
    if (line.what !== "cut" && (mayBeInRows(design, line) || lines.some((l) => l.what === "join")))
      for (const p of of.strung.placings) if (p.key === line.key) have += p.picked;
    f.found({
      rule: "lacks",
      key: line.key,
      need,
      have,
      unit: "pieces",
      part: of,
      message:
        `${names.join(" and ")} ${names.length === 1 ? "takes" : "take"} ${need} of ${f.say(line.key)}` +
        `${line.mm === null ? "" : `, ${long(line.mm)} each`}` +
        `${line.forEach === null ? "" : `, for each ${line.forEach}`}; ${part.name} has ${have}.`,
    });
  }
}

const hungBy = (design: Design, { forEach }: Brought) => (forEach === null ? [] : hangsBy(design, forEach));
