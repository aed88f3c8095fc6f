import type { Shape } from "../contract/index.ts";

/** A picture as numbers: where each bead, finding, link, cord and knot lies, in millimetres. */

/** What hangs plumb knows from where along the strand it hangs: however the strand is bent, it hangs straight down. */
export interface Plumb {
  /** Millimetres along the strand, from its start. */
  hangsAt?: number;
}

/** One bead as it is drawn, in millimetres; `x`, `y` is its middle, y grows downwards. */
export interface Mark extends Plumb {
  /** The key as written in the text: a mix's key for a bead of a mix. */
  key: string;
  /** The look that is drawn: a plain role, a member of the mix. */
  drawn: string;
  x: number;
  y: number;
  /** Which way the thread runs through it: 0 to the right, 90 downwards, degrees. */
  turn: number;
  /** Where it was written: the part, and offsets in its text. */
  part: string;
  from: number;
  to: number;
  /** Which bead of its pick it is, from 0. */
  nth: number;
  /** Which of several strands it lies on, from 0; null where it sits on all of them or stands off them. */
  lane: number | null;
  /** Drawn under what does not lie behind. */
  behind?: boolean;
  /** Drawn the other way round: the second of a mirrored pair. */
  flipped?: boolean;
}

/** A finding that no row names, or a knot: drawn in its place, and no bead that could be picked. */
export interface Fitting extends Plumb {
  /** The role, whose look it has; null for what has none, such as a bare loop. */
  key: string | null;
  shape: FittingShape | Shape;
  x: number;
  y: number;
  turn: number;
  alongMm: number;
  acrossMm: number;
  flipped?: boolean;
}

export const FITTING_SHAPES = [
  "ear wire",
  "post",
  "jump ring",
  "toggle ring",
  "toggle bar",
  "lobster",
  "hook",
  "magnetic",
  "box clasp",
  "crimp",
  "crimp cover",
  "cone",
  "cap",
  "cord end",
  "connector",
  "tassel",
  "guard",
  "pin head",
  "loop",
  "wrapped loop",
  "coiled drop",
  "ribbon end",
  "knot",
] as const;
export type FittingShape = (typeof FITTING_SHAPES)[number];

export interface ChainLink extends Plumb {
  x: number;
  y: number;
  lengthMm: number;
  /** Which way the chain runs, degrees. */
  turn: number;
  /** The chain that it is of. */
  key: string | null;
  /** Of stone chain: every link holds a stone. */
  stone: boolean;
}

export interface Point {
  x: number;
  y: number;
}

/** Thread, wire, cord or ribbon, as it is seen between the beads. */
export interface Line extends Plumb {
  /** The role it is; null where none is named. */
  key: string | null;
  /** How thick it is drawn, mm. */
  wideMm: number;
  points: Point[];
}

/** One turn of memory wire, seen a little from above: an ellipse, or the part of one that the last turn makes. */
export interface CoilTurn {
  x: number;
  y: number;
  rx: number;
  ry: number;
  /** How much of a whole turn, 0 to 1. */
  share: number;
}

export interface Picture {
  marks: Mark[];
  fittings: Fitting[];
  links: ChainLink[];
  coils: CoilTurn[];
  /** Lies under the beads. */
  lines: Line[];
  strandMm: number;
  /** How it is laid: along a line, closed to a ring round the middle, or the whole piece as it is worn. */
  form: "strip" | "ring" | "worn";
  /** The thread's way from hole to hole, as far as it is known. */
  path: Point[];
  /** What the wearer's neck or wrist is drawn as, softly; empty where there is none. */
  body: Point[];
  left: number;
  right: number;
  top: number;
  bottom: number;
  /** Beads left out because the picture would hold more than can be drawn. */
  leftOut: number;
}

export const emptyPicture = (form: Picture["form"]): Picture => ({
  marks: [],
  fittings: [],
  links: [],
  coils: [],
  lines: [],
  strandMm: 0,
  form,
  path: [],
  body: [],
  left: 0,
  right: 0,
  top: 0,
  bottom: 0,
  leftOut: 0,
});

/** Puts all of one picture into another, moved, and mirrored left to right where asked. */
export function addPicture(into: Picture, from: Picture, dx: number, dy: number, flip = false) {
  const put = <T extends Point & { turn?: number; flipped?: boolean }>(p: T): T => ({
    ...p,
    x: (flip ? -p.x : p.x) + dx,
    y: p.y + dy,
    ...(flip && p.turn !== undefined ? { turn: -p.turn, flipped: !p.flipped } : {}),
  });
  for (const mark of from.marks) into.marks.push(put(mark));
  for (const fitting of from.fittings) into.fittings.push(put(fitting));
  for (const link of from.links) into.links.push(put(link));
  for (const coil of from.coils) into.coils.push({ ...coil, x: (flip ? -coil.x : coil.x) + dx, y: coil.y + dy });
  for (const line of from.lines) into.lines.push({ ...line, points: line.points.map(put) });
  for (const point of from.path) into.path.push(put(point));
  for (const point of from.body) into.body.push(put(point));
  into.leftOut += from.leftOut;
  const [left, right] = flip ? [-from.right, -from.left] : [from.left, from.right];
  reach(into, left + dx, from.top + dy, right + dx, from.bottom + dy);
}

/** Widens a picture's bounds to hold a box. */
export function reach(p: Picture, left: number, top: number, right: number, bottom: number) {
  p.left = Math.min(p.left, left);
  p.top = Math.min(p.top, top);
  p.right = Math.max(p.right, right);
  p.bottom = Math.max(p.bottom, bottom);
}
