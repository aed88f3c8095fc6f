import { unreachable } from "../shorthand/index.ts";
import { type Place, type Strung, unitsOf } from "../count/index.ts";

/** A bead at an end of something: its key and its place in the text; a knot by its length, mm. */
export type End = { key: string; at: Place } | { knotMm: number; at: Place };

export interface Pair {
  a: End;
  b: End;
}

/** What stands at both ends of a node, and which beads touch in it. */
interface Row {
  /** Nothing stands on the strand here: what is before touches what is behind. */
  empty: boolean;
  first: End[];
  last: End[];
  pairs: Pair[];
}

const NOTHING: Row = { empty: true, first: [], last: [], pairs: [] };
/** Room between: what is before doesn't touch what is behind. */
const APART: Row = { empty: false, first: [], last: [], pairs: [] };

const touch = (a: readonly End[], b: readonly End[]): Pair[] => a.flatMap((x) => b.map((y) => ({ a: x, b: y })));

function behind(a: Row, b: Row): Row {
  if (a.empty) return b;
  if (b.empty) return a;
  return { empty: false, first: a.first, last: b.last, pairs: [...a.pairs, ...b.pairs, ...touch(a.last, b.first)] };
}
const backwards = (row: Row): Row => ({ ...row, first: row.last, last: row.first });

/** Which beads of a strand touch each other, each pair of keys once, with the first place where they do. */
export function neighboursIn(node: Strung): Pair[] {
  const seen = new Set<string>();
  const name = (e: End) => ("key" in e ? e.key : `${e.knotMm} mm`);
  return rowOf(node).pairs.filter(({ a, b }) => {
    const pair = [name(a), name(b)].sort().join("\n");
    return !seen.has(pair) && seen.add(pair);
  });
}

/** The beads at the two ends of a strand. */
export const endsOf = (node: Strung): { first: End[]; last: End[] } => rowOf(node);

/** What touches inside something that stands more than once is named once: nested repeats would double it each time. */
function rowOf(node: Strung): Row {
  switch (node.type) {
    case "bead": {
      if (node.n === 0) return NOTHING;
      const end = { key: node.key, at: node.at };
      return { empty: false, first: [end], last: [end], pairs: node.n > 1 ? [{ a: end, b: end }] : [] };
    }
    case "knot": {
      const end = { knotMm: node.strandMm, at: node.at };
      return { empty: false, first: [end], last: [end], pairs: [] };
    }
    case "space":
      return node.strandMm > 0 ? APART : NOTHING;
    case "links":
      return node.n > 0 ? APART : NOTHING;
    case "hang":
      return node.hung.some((h) => h.n > 0) ? APART : NOTHING;
    case "join":
      return node.beads.some((b) => b.n > 0) ? APART : NOTHING;
    case "rest":
      return APART;
    case "series":
      return node.items.map(rowOf).reduce(behind, NOTHING);
    case "times": {
      if (node.n === 0) return NOTHING;
      const one = rowOf(node.item);
      if (node.n === 1) return one;
      const between = node.between ? rowOf(node.between) : NOTHING;
      return behind(behind(one, between), { ...one, pairs: [] });
    }
    case "mirror": {
      const half = rowOf(node.item);
      const back = { ...backwards(half), pairs: [] };
      return behind(behind(half, node.around ? rowOf(node.around) : NOTHING), back);
    }
    case "spaced": {
      const item = rowOf(node.item);
      if (node.gaps === 0 || item.empty) return item;
      const spacer = rowOf(node.spacer);
      const beads = [...item.first, ...item.last, ...item.pairs.flatMap(({ a, b }) => [a, b])];
      const unlike = [...new Map(beads.map((e) => ["key" in e ? e.key : e.knotMm, e])).values()];
      if (spacer.empty) return item;
      return {
        ...item,
        pairs: [...spacer.pairs, ...touch(unlike, spacer.first), ...touch(spacer.last, unlike)],
      };
    }
    case "each": {
      const rows = node.branches.map(rowOf).filter((r) => !r.empty);
      if (rows.length === 0) return NOTHING;
      return {
        empty: false,
        first: rows.flatMap((r) => r.first),
        last: rows.flatMap((r) => r.last),
        pairs: rows.flatMap((r) => r.pairs),
      };
    }
    // These stand off the strand: what is before them touches what is behind. Inside them beads touch as well.
    case "loop":
      return { ...NOTHING, pairs: rowOf(node.item).pairs };
    case "fringe":
      return { ...NOTHING, pairs: behind(rowOf(node.down), rowOf(node.turn)).pairs };
    case "pass":
      return NOTHING;
    default:
      return unreachable(node);
  }
}

/** Two places along a strand from which something hangs, one behind the other. */
export interface Gap {
  /** From the one to the other, mm. */
  mm: number;
  a: Hanging;
  b: Hanging;
}

interface Hanging {
  keys: string[];
  at: Place;
}

interface Run {
  mm: number;
  /** Millimetres before the first and behind the last thing that hangs; none hangs where both are null. */
  ends: { lead: number; first: Hanging; trail: number; last: Hanging } | null;
  gaps: Gap[];
}

const plain = (mm: number): Run => ({ mm, ends: null, gaps: [] });

function then(a: Run, b: Run): Run {
  const mm = a.mm + b.mm;
  const gaps = [...a.gaps, ...b.gaps];
  if (!a.ends) return { mm, ends: b.ends && { ...b.ends, lead: a.mm + b.ends.lead }, gaps };
  if (!b.ends) return { mm, ends: { ...a.ends, trail: a.ends.trail + b.mm }, gaps };
  gaps.push({ mm: a.ends.trail + b.ends.lead, a: a.ends.last, b: b.ends.first });
  return { mm, ends: { ...a.ends, trail: b.ends.trail, last: b.ends.last }, gaps };
}
const turned = ({ mm, ends, gaps }: Run): Run => ({
  mm,
  ends: ends && { lead: ends.trail, first: ends.last, trail: ends.lead, last: ends.first },
  gaps,
});

/** How far apart things hang along a strand, each pair once for each distance. */
export function gapsIn(node: Strung): Gap[] {
  const seen = new Set<string>();
  return runOf(node).gaps.filter(({ mm, a, b }) => {
    const gap = `${mm.toFixed(3)} ${[a.keys.join(), b.keys.join()].sort().join("\n")}`;
    return !seen.has(gap) && seen.add(gap);
  });
}

function runOf(node: Strung): Run {
  switch (node.type) {
    case "hang": {
      const keys = node.hung.filter((h) => h.n > 0).map((h) => h.key);
      if (keys.length === 0) return plain(node.strandMm);
      const hanging = { keys, at: node.at };
      // On chain it hangs from the middle of its own link.
      return {
        mm: node.strandMm,
        ends: { lead: node.strandMm / 2, first: hanging, trail: node.strandMm / 2, last: hanging },
        gaps: [],
      };
    }
    case "series":
      return node.items.map(runOf).reduce(then, plain(0));
    case "times": {
      if (node.n === 0) return plain(0);
      const one = runOf(node.item);
      const between = node.between ? runOf(node.between) : plain(0);
      if (node.n === 1) return one;
      const two = then(then(one, between), { ...one, gaps: [] });
      return { ...two, mm: node.strandMm };
    }
    case "mirror": {
      const half = runOf(node.item);
      return then(then(half, node.around ? runOf(node.around) : plain(0)), { ...turned(half), gaps: [] });
    }
    case "spaced": {
      const item = runOf(node.item);
      const beads = unitsOf(node.item);
      // Spacers are spread over the beads: between two things that hang there is their share of them.
      const factor = item.mm > 0 && beads > 0 ? node.strandMm / item.mm : 1;
      return {
        mm: node.strandMm,
        ends: item.ends && { ...item.ends, lead: item.ends.lead * factor, trail: item.ends.trail * factor },
        gaps: item.gaps.map((g) => ({ ...g, mm: g.mm * factor })),
      };
    }
    default:
      return plain(node.strandMm);
  }
}
