import type { Design } from "../contract/index.ts";
import { type Counting, segmentsOf, type StrungPartOf } from "../count/index.ts";
import type { Appearance } from "./appearance.ts";
import { alongPoints, circle, type Curve, neckline, turns } from "./curves.ts";
import { type Taken, takenBy } from "./taken.ts";
import { laidOf } from "./laid.ts";
import { besideItself, layOut, MAX_MARKS } from "./layout.ts";
import { addPicture, emptyPicture, type Line, type Picture, type Point, reach } from "./picture.ts";
import { isStoneChain, Layout, measure, startOf } from "./placing.ts";

/** How a piece is worn, or that it lies flat. */
export type Worn = "necklace" | "bracelet" | "earrings" | "flat";

/** Whether a design has a whole to look at: several parts, findings beside them, or something that is joined in it. */
export const hasWhole = (design: Design) =>
  design.parts.length > 1 ||
  ofTheItem(design).some((use) => design.key.some((e) => e.key === use.key && e.kind === "finding")) ||
  design.parts.some((p) => /\bjoin\b/.test(p.steps ?? ""));

/** How a design is worn: as it says, else as its size lets one guess. */
export function wornAs(counting: Counting): Worn {
  const { design, parts, timesUsed } = counting;
  switch (design.about?.kind) {
    case "necklace":
    case "bracelet":
    case "earrings":
      return design.about.kind;
    case "pendant":
    case "ring":
    case "key fob":
    case "other":
      return "flat";
  }
  const tops = parts.filter((p) => p.part.as == null && drawable(p));
  if (/ear-?rings?|\bdrops\b|\bswings\b/i.test(design.name) && tops.some((p) => p.part.makes === 2)) return "earrings";
  if (tops.some((p) => takenBy(p.part, counting).some((t) => t.shape === "ear wire"))) return "earrings";
  const longest = Math.max(0, ...tops.map((p) => (timesUsed.get(p.part.id) ? finishedOf(p) : 0)));
  return longest >= 330 ? "necklace" : longest >= 130 ? "bracelet" : "flat";
}

const finishedOf = ({ part, whole }: StrungPartOf) => whole.strandMm * (part.finishedRatio ?? 1);
const drawable = ({ part, placings, whole }: StrungPartOf) =>
  whole.strandMm > 0 || placings.some((p) => p.picked > 0) || (part.cuts?.length ?? 0) > 0;

/** A part that goes round the neck by itself, beside the longest one. */
const LAYER_MM = 300;
const isLayer = (counting: Counting, strung: StrungPartOf) =>
  (strung.part.makes ?? 1) === 1 && finishedOf(strung) >= LAYER_MM && laidOf(counting, strung).laid === "strand";

const GAP_MM = 8;

/**
 * The whole item as it is worn, to scale: a necklace in the curve in which it hangs, a bracelet closed to its circle,
 * earrings as a pair, anything else flat. What hangs hangs plumb. A schematic: how a piece falls is up to gravity.
 */
export function layWorn(counting: Counting, looks: ReadonlyMap<string, Appearance>, most = MAX_MARKS): Picture {
  const worn = wornAs(counting);
  const tops = counting.parts.filter((p) => p.part.as == null && drawable(p));
  const whole = emptyPicture("worn");
  if (tops.length === 0) return whole;
  const withWhole = takesTheWhole(counting.design, tops, worn);
  const element = (part: StrungPartOf) => laidElement(counting, withWhole(part), looks, most - whole.marks.length);
  if (worn === "earrings") {
    const one = stacked(tops.map(element));
    addPicture(whole, besideItself(one), 0, 0);
  } else if (worn === "flat") {
    addPicture(whole, stacked(tops.flatMap((p) => copies(p, element(p)))), 0, 0);
  } else {
    const reachOf = (p: StrungPartOf) => Math.max(finishedOf(p), memoryWire(counting, p)?.wireMm ?? 0);
    const [main] = [...tops].sort((a, b) => reachOf(b) - reachOf(a));
    const bent = bendMain(counting, main!, looks, most, worn);
    addPicture(whole, bent, 0, 0);
    whole.strandMm = bent.strandMm;
    // Layered strands and chains lie each in a curve of its own, one below the other.
    const layers = worn === "necklace" ? tops.filter((p) => p !== main && isLayer(counting, p)) : [];
    for (const layer of layers) {
      const own = bendMain(counting, layer, looks, most - whole.marks.length, worn);
      addPicture(whole, own, (bent.left + bent.right - own.left - own.right) / 2, bent.top - own.top);
    }
    const rest = tops.filter((p) => p !== main && !layers.includes(p));
    const all = rest.flatMap((p) => copies(p, element(p)));
    // A coil of memory wire goes round with the piece, behind it; anything else stands below its front.
    const isCoil = (p: Picture) => p.coils.length > 0 && p.marks.length === 0;
    for (const coil of all.filter(isCoil)) {
      const up = coil.bottom / 2;
      const coils = coil.coils.map((c) => ({ ...c, y: c.y - up }));
      const behind = { ...coil, coils, top: coil.top - up, bottom: coil.bottom - up };
      addPicture(whole, behind, (bent.left + bent.right - coil.left - coil.right) / 2, 0);
    }
    const others = all.filter((p) => !isCoil(p));
    if (others.length > 0) {
      const below = beside(others);
      const y = worn === "necklace" ? bent.bottom + 2 - below.top : bent.bottom + GAP_MM - below.top;
      addPicture(whole, below, (bent.left + bent.right) / 2 - (below.left + below.right) / 2, y);
    }
  }
  whole.form = "worn";
  return whole;
}

/** What one finished item takes beside its parts. */
const ofTheItem = ({ uses }: Design) => (uses ?? []).filter((u) => (u.per ?? "item") === "item");

/** Findings of the whole item are drawn on its first part: on each of a pair its half of them. */
function takesTheWhole(design: Design, tops: readonly StrungPartOf[], worn: Worn) {
  const own = ofTheItem(design).map(({ key, count }) => ({
    key,
    count: worn === "earrings" ? Math.max(1, Math.round(count / 2)) : count,
  }));
  return (strung: StrungPartOf): StrungPartOf =>
    own.length === 0 || strung !== tops[0]
      ? strung
      : { ...strung, part: { ...strung.part, uses: [...(strung.part.uses ?? []), ...own] } };
}

/** As many of a part as one item needs; of a great many only the first few. */
const copies = ({ part }: StrungPartOf, picture: Picture): Picture[] =>
  Array.from({ length: Math.min(part.makes ?? 1, 6) }, () => picture);

function laidElement(
  counting: Counting,
  strung: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most: number,
): Picture {
  const { laid } = laidOf(counting, strung);
  const picture = layOut(counting, strung, looks, most, { laid, braid: true });
  if (laid === "ring") {
    const layout = new Layout(counting, looks, most);
    // Its findings: what it hangs by stands above it, what closes it at its top.
    layout.ends(takenBy(strung.part, counting), { ...startOf(strung.part.id, 90), y: picture.top }, -picture.top * 2);
    layout.measure();
    addPicture(picture, layout.picture, 0, 0);
  }
  hangPieces(counting, strung, picture, laid);
  return picture;
}

/** Lengths of chain, cord and ribbon that a part takes hang from it; wire is used up in its loops. */
function hangPieces(counting: Counting, strung: StrungPartOf, picture: Picture, laid: string) {
  const pieces: { key: string; mm: number; linkMm: number | null }[] = [];
  for (const cut of strung.cuts) {
    // What is cut for each of its beads goes with them, not on its own.
    if (cut.how !== "named" || cut.forEach) continue;
    const role = counting.roles.get(cut.key);
    if (role?.type !== "stringing" || role.coilMm !== null) continue;
    const said = `${role.entry.form ?? ""} ${role.entry.name}`;
    if (role.linkMm === null && !/cord|ribbon|leather|fringe|lace|tassel/i.test(said)) continue;
    // What the cut itself destroys is not seen.
    const mm = role.linkMm === null ? cut.mm : cut.mm - role.lossLinks * role.linkMm;
    for (let i = 0; i < Math.min(cut.count, 24); i++) pieces.push({ key: cut.key, mm, linkMm: role.linkMm });
  }
  if (pieces.length === 0) return;
  const vertical = laid === "hanging" || laid === "rising";
  const middle = vertical ? 0 : (picture.left + picture.right) / 2;
  const taken = picture.marks.length > 0 || picture.links.length > 0;
  const apart = 2.4;
  pieces.forEach(({ key, mm, linkMm }, i) => {
    // Beside what hangs there already: half of them to the left, half to the right.
    const aside = taken && vertical ? picture.right * 0.6 : 0;
    const side = i % 2 === 0 ? -1 : 1;
    const dx = aside > 0 ? side * (aside + Math.floor(i / 2) * apart) : (i - (pieces.length - 1) / 2) * apart;
    const top = vertical ? 0 : picture.bottom;
    const slant = Math.min(Math.abs(dx), mm * 0.4);
    const points = [
      { x: middle, y: top },
      { x: middle + dx, y: top + slant },
      { x: middle + dx, y: top + Math.max(slant + 1, mm - Math.hypot(dx, slant) + slant) },
    ];
    if (linkMm === null) {
      picture.lines.push({ key, wideMm: 1.2, points, hangsAt: middle });
      return;
    }
    const way = alongPoints(points);
    for (let n = 0; n < Math.round(mm / linkMm); n++) {
      const at = way.at(Math.min((n + 0.5) * linkMm, way.lengthMm));
      picture.links.push({ ...at, lengthMm: linkMm, key, stone: isStoneChain(counting, key), hangsAt: middle });
    }
  });
  for (const { x, y, lengthMm } of picture.links) reach(picture, x - 1, y - lengthMm / 2, x + 1, y + lengthMm / 2);
  for (const line of picture.lines) for (const { x, y } of line.points) reach(picture, x, y, x, y);
}

/** Pictures one below the other, each under the middle of the one before. */
function stacked(list: readonly Picture[]): Picture {
  const all = emptyPicture("worn");
  let y = 0;
  for (const [i, one] of list.entries()) {
    const dy = i === 0 ? 0 : y - one.top;
    const dx = i === 0 ? 0 : (all.left + all.right) / 2 - (one.left + one.right) / 2;
    addPicture(all, one, dx, dy);
    y = dy + one.bottom + 2;
    all.strandMm = Math.max(all.strandMm, one.strandMm);
  }
  return all;
}

/** Pictures side by side. */
function beside(list: readonly Picture[]): Picture {
  const all = emptyPicture("worn");
  let x = 0;
  for (const one of list) {
    addPicture(all, one, x - one.left, 0);
    x += one.right - one.left + GAP_MM / 2;
  }
  return all;
}

/** The longest part, bent to the curve in which it is worn; its findings that close it stand where its ends meet. */
function bendMain(
  counting: Counting,
  main: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most: number,
  worn: "necklace" | "bracelet",
): Picture {
  const layout = new Layout(counting, looks, most, true);
  const strandMm = layout.strand({ ...main, part: { ...main.part, uses: [] } }, startOf(main.part.id, 0));
  const taken = closers(counting, main);
  const out = layout.ends(taken, startOf(main.part.id, 0), strandMm);
  const lengthMm = strandMm + out.start + out.end;
  const { picture } = layout;
  layout.measure();
  hangPieces(counting, main, picture, "strand");
  const front = frontOf(picture, strandMm);
  const coiled = memoryWire(counting, main);
  let curve: Curve;
  if (coiled) {
    curve = turns(coiled.coilMm, front, coiled.wireMm);
    // The wire goes on beyond the beads, in its own turns.
    const beyond = Math.max(0, coiled.wireMm - strandMm) / 2;
    const points = [
      { x: -beyond, y: 0 },
      { x: strandMm + beyond, y: 0 },
    ];
    picture.lines.unshift({ key: main.part.stringing!, wideMm: 0.7, points });
  } else if (worn === "necklace" && lengthMm > 200) curve = neckline(lengthMm, front + out.start);
  else curve = circle(lengthMm, Math.PI - (2 * Math.PI * (front + out.start)) / lengthMm);
  const bent = bend(picture, { ...curve, at: (mm) => curve.at(mm + out.start) });
  bent.strandMm = strandMm;
  // A wrist is drawn where the piece is seen from the front; a coil of several turns is seen from above.
  if (worn === "bracelet" && (!coiled || coiled.wireMm <= 1.3 * coiled.coilMm)) bent.body.push(...wristOf(counting));
  measure(bent, looks);
  return bent;
}

/** The memory wire that a part is strung on: how long one turn and its whole cut are, mm. */
function memoryWire({ roles }: Counting, { part, cuts }: StrungPartOf): { coilMm: number; wireMm: number } | null {
  const role = part.stringing == null ? undefined : roles.get(part.stringing);
  if (role?.type !== "stringing" || role.coilMm === null) return null;
  const wireMm = Math.max(0, ...cuts.filter((c) => c.how === "strung").map((c) => c.mm));
  return { coilMm: role.coilMm, wireMm };
}

/** The findings of a piece that close it or stand at its ends: its part's, and those of the whole item. */
function closers(counting: Counting, main: StrungPartOf): Taken[] {
  const joined = segmentsOf(main.whole).length > 1;
  const own = takenBy(main.part, counting);
  const all = takenBy({ uses: ofTheItem(counting.design) }, counting);
  // In a piece whose parts are joined, the findings of the whole item are the small ones between them.
  return joined ? own : [...own, ...all.filter((t) => t.shape !== "jump ring")];
}

/** Where along a strand its front is: under the middle of what hangs deepest, else its own middle. */
function frontOf(picture: Picture, strandMm: number): number {
  let [sum, weight] = [0, 0];
  for (const m of picture.marks) {
    if (m.hangsAt === undefined || m.y < 4) continue;
    const w = m.y ** 2;
    [sum, weight] = [sum + w * m.hangsAt, weight + w];
  }
  const found = weight > 0 ? sum / weight : strandMm / 2;
  return Math.min(Math.max(found, strandMm * 0.3), strandMm * 0.7);
}

/** The outline of the wrist that the middle size fits: its way round as a circle. */
function wristOf({ design, answer }: Counting): Point[] {
  const mm = design.sizes?.find((s) => s.key === answer.size)?.bodyMm;
  if (!mm) return [];
  const wrist = circle(mm);
  return Array.from({ length: 73 }, (_, i) => {
    const { x, y } = wrist.at((mm * i) / 72);
    return { x, y };
  });
}

/** Lays a straight picture along a curve: what is strung turns with it, what hangs stays plumb. */
export function bend(picture: Picture, curve: Curve): Picture {
  const bent = emptyPicture("worn");
  const spot = (x: number, y: number, hangsAt: number | undefined) => {
    const at = curve.at(hangsAt ?? x);
    if (hangsAt !== undefined) return { x: at.x + (x - hangsAt), y: at.y + y, turn: 0 };
    const angle = (at.turn * Math.PI) / 180;
    return { x: at.x - y * Math.sin(angle), y: at.y + y * Math.cos(angle), turn: at.turn };
  };
  const put = <T extends Point & { turn: number; hangsAt?: number }>(p: T): T => {
    const at = spot(p.x, p.y, p.hangsAt);
    return { ...p, x: at.x, y: at.y, turn: p.turn + at.turn };
  };
  bent.marks = picture.marks.map(put);
  bent.fittings = picture.fittings.map(put);
  bent.links = picture.links.map(put);
  bent.lines = picture.lines.map((line): Line => {
    if (line.hangsAt !== undefined)
      return { ...line, points: line.points.map((p) => strip(spot(p.x, p.y, line.hangsAt))) };
    return { ...line, points: finely(line.points).map((p) => strip(spot(p.x, p.y, undefined))) };
  });
  bent.path = bent.marks.map(({ x, y }) => ({ x, y }));
  bent.leftOut = picture.leftOut;
  return bent;
}

const strip = ({ x, y }: Point): Point => ({ x, y });

/** A line with points close enough that it can be bent. */
function finely(points: readonly Point[]): Point[] {
  if (points.length < 2) return [...points];
  const way = alongPoints(points);
  const n = Math.min(2000, Math.max(points.length, Math.ceil(way.lengthMm / 2)));
  return Array.from({ length: n + 1 }, (_, i) => strip(way.at((way.lengthMm * i) / n)));
}
