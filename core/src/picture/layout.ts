import type { Laid } from "../contract/index.ts";
import { type Counting, ofSize, type StrungPartOf } from "../count/index.ts";
import type { Appearance } from "./appearance.ts";
import { addPicture, emptyPicture, type Picture, reach } from "./picture.ts";
import { Layout, startOf } from "./placing.ts";
import { layRing } from "./ring.ts";

export const MAX_MARKS = 5000;

/** How a part is to be shown, where there is a choice. */
export interface Laying {
  /** A straight strand where nothing is said. */
  laid?: Laid;
  /** Strands over and under each other instead of side by side. */
  braid?: boolean;
  /** The second of a pair beside it, mirrored. */
  pair?: boolean;
}

/**
 * Lays a part's beads out to scale: along a line, down, or closed to a ring; fringes, loops and what hangs below it,
 * strands of an `each` side by side, sub-assemblies in their places. What stands off the strand is schematic.
 */
export function layOut(
  counting: Counting,
  part: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most = MAX_MARKS,
  { laid = "strand", braid = false, pair = false }: Laying = {},
): Picture {
  const one =
    laid === "ring" && part.rows.length > 0
      ? layRing(counting, part, looks, most)
      : layStrip(counting, part, looks, most, laid, braid);
  return pair ? besideItself(one) : one;
}

function layStrip(
  counting: Counting,
  part: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most: number,
  laid: Laid,
  braid: boolean,
): Picture {
  const layout = new Layout(counting, looks, most, braid);
  const { picture } = layout;
  const turn = laid === "hanging" || laid === "rising" ? 90 : 0;
  picture.strandMm = layout.strand(part, startOf(part.part.id, turn, laid === "rising"));
  picture.path = picture.marks.map(({ x, y }) => ({ x, y }));
  layout.measure();
  if (turn === 0) reach(picture, 0, 0, picture.strandMm, 0);
  layCoils(picture, counting, part);
  return picture;
}

/** How much lower each turn of a coil is drawn than the one before it, and how flat it is seen: a schematic. */
const [COIL_STEP_MM, COIL_FLAT] = [2.5, 0.35];
const MOST_TURNS = 60;

/** Memory wire that the part takes, in its turns and at its size, below whatever is strung. */
function layCoils(picture: Picture, counting: Counting, { part }: StrungPartOf) {
  const below = picture.bottom > picture.top ? picture.bottom + 4 : 0;
  const { size } = counting.answer;
  let left = 0;
  for (const cut of part.cuts ?? []) {
    const role = counting.roles.get(cut.key);
    const coils = ofSize(cut.coils, size);
    const count = ofSize(cut.count, size) ?? 0;
    if (coils === null || role?.type !== "stringing" || !role.coilMm) continue;
    const rx = role.coilMm / (2 * Math.PI);
    const ry = COIL_FLAT * rx;
    for (let n = 0; n < Math.min(count, 6); n++) {
      for (let turn = 0; turn < Math.min(Math.ceil(coils), MOST_TURNS); turn++) {
        const y = below + ry + turn * COIL_STEP_MM;
        picture.coils.push({ x: left + rx, y, rx, ry, share: Math.min(1, coils - turn) });
        reach(picture, left, y - ry, left + 2 * rx, y + ry);
      }
      left += 2 * rx + 6;
    }
  }
}

const PAIR_GAP_MM = 12;

/** A pair: the same, and mirrored beside it. */
export function besideItself(one: Picture): Picture {
  const two = emptyPicture(one.form);
  two.strandMm = one.strandMm;
  [two.left, two.right, two.top, two.bottom] = [one.left, one.right, one.top, one.bottom];
  addPicture(two, one, 0, 0);
  addPicture(two, one, 2 * one.right + PAIR_GAP_MM, 0, true);
  return two;
}
