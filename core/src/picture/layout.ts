import { childrenOf, type Counting, ofSize, type Strung, type StrungPartOf } from "../count/index.ts";
import type { Appearance } from "./appearance.ts";
import type { Mark, Picture } from "./picture.ts";
import { Layout } from "./placing.ts";
import { closesToRing, layRing } from "./ring.ts";

export const MAX_MARKS = 5000;

/**
 * Lays a part's beads out to scale along its strand: fringes, loops and what hangs below it, strands of an `each`
 * side by side, sub-assemblies in their places. What stands off the strand is schematic.
 */
export function layOut(
  counting: Counting,
  part: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most = MAX_MARKS,
  how: Laying = {},
): Picture {
  const picture =
    how.ring && closesToRing(part) ? layRing(counting, part, looks, most) : layStrip(counting, part, looks, most);
  if (how.braid) braid(picture, part.part.strands ?? 1);
  if (how.pair) pair(picture);
  return picture;
}

/** How a part is to be shown, where there is a choice. */
export interface Laying {
  /** Rounds closed to rings, where the rows say that they close. */
  ring?: boolean;
  /** Strands over and under each other instead of side by side. */
  braid?: boolean;
  /** The second of a pair beside it, mirrored. */
  pair?: boolean;
}

function layStrip(
  counting: Counting,
  part: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most: number,
): Picture {
  const layout = new Layout(counting, looks, most);
  const strands = part.part.strands ?? 1;
  layout.across = laneGap(part.whole, looks);
  layout.lanes = strands;
  const end = layout.place(part.whole, { x: 0, y: 0, turn: 0, part: part.part.id, back: false, depth: 0, lane: null });
  const { picture } = layout;
  if (part.part.as == null || part.whole.strandMm > 0) {
    for (let lane = 0; lane < strands; lane++) {
      const y = layout.laneY(lane);
      picture.threads.unshift({ x1: -6, y1: y, x2: end + 6, y2: y });
    }
  }
  picture.strandMm = end;
  picture.path = picture.marks.map(({ x, y }) => ({ x, y }));
  for (const mark of picture.marks) layout.include(mark);
  for (const link of picture.links)
    layout.stretch(link.x - link.lengthMm / 2, link.y - 2, link.x + link.lengthMm / 2, link.y + 2);
  layout.stretch(0, 0, end, 0);
  layCoils(layout, part);
  return picture;
}

/** How much lower each turn of a coil is drawn than the one before it, and how flat it is seen: a schematic. */
const [COIL_STEP_MM, COIL_FLAT] = [2.5, 0.35];
const MOST_TURNS = 60;

/** Memory wire that the part takes, in its turns and at its size, below whatever is strung. */
function layCoils(layout: Layout, { part }: StrungPartOf) {
  const { picture, counting } = layout;
  const below = picture.bottom > picture.top ? picture.bottom + 4 : 0;
  let left = 0;
  for (const said of part.cuts ?? []) {
    const { size } = counting.answer;
    const cut = { key: said.key, coils: ofSize(said.coils, size), count: ofSize(said.count, size) ?? 0 };
    const role = counting.roles.get(cut.key);
    if (cut.coils === null || role?.type !== "stringing" || !role.coilMm) continue;
    const rx = role.coilMm / (2 * Math.PI);
    const ry = COIL_FLAT * rx;
    for (let n = 0; n < Math.min(cut.count, 6); n++) {
      for (let turn = 0; turn < Math.min(Math.ceil(cut.coils), MOST_TURNS); turn++) {
        const y = below + ry + turn * COIL_STEP_MM;
        picture.coils.push({ x: left + rx, y, rx, ry, share: Math.min(1, cut.coils - turn) });
        layout.stretch(left, y - ry, left + 2 * rx, y + ry);
      }
      left += 2 * rx + 6;
    }
  }
}

/** Strands of a loose braid swing from lane to lane, one after the other: a schematic. */
function braid(picture: Picture, strands: number) {
  const lanes = [...new Set(picture.marks.flatMap((m) => m.lane ?? []))];
  if (lanes.length < 2) return;
  const ys = lanes.map((lane) => picture.marks.find((m) => m.lane === lane)!.y);
  const reach = (Math.max(...ys) - Math.min(...ys)) / 2;
  const middle = (Math.max(...ys) + Math.min(...ys)) / 2;
  const wave = Math.max(30, reach * 6);
  for (const mark of picture.marks) {
    if (mark.lane === null) continue;
    const angle = (2 * Math.PI * mark.x) / wave + (2 * Math.PI * mark.lane) / strands;
    mark.y = middle + reach * Math.sin(angle);
    mark.turn += (Math.atan((reach * 2 * Math.PI * Math.cos(angle)) / wave) * 180) / Math.PI;
  }
  picture.threads = picture.threads.slice(strands);
}

/** The second of a pair: the same, mirrored, beside the first. */
function pair(picture: Picture) {
  const gap = 12;
  const axis = picture.right + gap / 2;
  const over = (x: number) => 2 * axis - x;
  picture.marks.push(...picture.marks.map((m): Mark => ({ ...m, x: over(m.x), turn: -m.turn, flipped: !m.flipped })));
  picture.links.push(...picture.links.map((l) => ({ ...l, x: over(l.x) })));
  picture.coils.push(...picture.coils.map((c) => ({ ...c, x: over(c.x) })));
  picture.threads.push(...picture.threads.map((t) => ({ x1: over(t.x1), y1: t.y1, x2: over(t.x2), y2: t.y2 })));
  picture.right = over(picture.left);
}

/** Strands of an `each` lie as far apart as the widest bead on them needs. */
function laneGap(node: Strung, looks: ReadonlyMap<string, Appearance>): number {
  let gap = 1;
  const visit = (n: Strung, inEach: boolean) => {
    if (n.type === "bead" && inEach) gap = Math.max(gap, looks.get(n.key)?.acrossMm ?? n.alongMm);
    // What stands off the strands does not push them apart.
    else if (n.type !== "fringe" && n.type !== "loop" && n.type !== "pass") {
      for (const child of childrenOf(n)) visit(child, inEach || n.type === "each");
    }
  };
  visit(node, false);
  return gap + 0.3;
}
