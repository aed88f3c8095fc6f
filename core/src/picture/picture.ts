/** A picture as numbers: where each bead, link, coil and thread lies, in millimetres. */
/** One bead as it is drawn, in millimetres; `x`, `y` is its middle, y grows downwards. */
export interface Mark {
  /** The key as written in the text: a mix's key for a bead of a mix. */
  key: string;
  /** The plain role that is drawn: a member of the mix. */
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
  /** Drawn the other way round: the second of a mirrored pair. */
  flipped?: boolean;
}

export interface ChainLink {
  x: number;
  y: number;
  lengthMm: number;
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
  links: ChainLink[];
  coils: CoilTurn[];
  /** Strand threads to draw under the beads, as straight lines. */
  threads: { x1: number; y1: number; x2: number; y2: number }[];
  strandMm: number;
  /** How it is laid: along a line, or closed to a ring round the middle. */
  form: "strip" | "ring";
  /** The thread's way from hole to hole, as far as it is known. */
  path: { x: number; y: number }[];
  left: number;
  right: number;
  top: number;
  bottom: number;
  /** Beads left out because the picture would hold more than can be drawn. */
  leftOut: number;
}
