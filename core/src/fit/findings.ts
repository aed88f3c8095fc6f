/** Findings against what they hold: pins, rings, cones and caps, and what a method needs and the bag lacks. */
import type { PartUse } from "../contract/index.ts";
import { ofSize } from "../count/index.ts";
import { lengthOf, linesOf } from "../method/index.ts";
import { MM_PER_INCH } from "../units/index.ts";
import { type Finder, long, many, mm, type PartAt } from "./finder.ts";
import { isCrimp, isHiding, isPin, isRing, packedMm } from "./measured.ts";
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

/** Findings and cuts that a method needs and the part does not take any more. */
export function checkLacks(f: Finder, of: PartAt) {
  for (const { of: method, lines } of linesOf(f.counting.design, of.part)) {
    for (const line of lines) {
      if (line.what === "also" || line.state === "edited") continue;
      const inRows = of.strung.placings.reduce((sum, p) => (p.key === line.key ? sum + p.picked : sum), 0);
      const listed = line.what === "cut" ? of.part.cuts : of.part.uses;
      const taken = (listed ?? []).reduce(
        (sum, l) => (l.key === line.key ? sum + (ofSize(l.count, f.counting.answer.size) ?? 0) : sum),
        inRows,
      );
      f.found({
        rule: "lacks",
        key: line.key,
        need: line.count,
        have: taken,
        unit: "pieces",
        part: of,
        message: `${method.definition.name} takes ${line.count} of ${f.say(line.key)}; ${of.part.name} has ${taken}.`,
      });
    }
  }
}
