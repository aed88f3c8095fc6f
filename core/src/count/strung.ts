import { unreachable } from "../shorthand/index.ts";

/**
 * A part's text with sizes and fits settled: the placed beads, still multiplied. The count, the
 * picture and every “where does this number come from” read this tree; nothing else reads the text.
 * Every node knows what it adds to the strand and to the thread's path, once, in millimetres.
 */
export interface Place {
  from: number;
  to: number;
}

interface Extent {
  strandMm: number;
  pathMm: number;
}

export type Strung = Extent &
  (
    | { type: "bead"; key: string; n: number; alongMm: number; at: Place }
    | { type: "space"; at: Place }
    | { type: "knot"; at: Place }
    | { type: "links"; n: number; at: Place }
    | { type: "hang"; key: string; onChain: boolean; at: Place }
    | { type: "series"; items: Strung[] }
    | { type: "times"; n: number; item: Strung; between: Strung | null }
    | { type: "mirror"; item: Strung; around: Strung | null }
    | { type: "each"; branches: Strung[]; strands: number }
    | { type: "fringe"; down: Strung; turn: Strung }
    | { type: "loop"; item: Strung }
    | { type: "pass"; item: Strung; times: number }
  );

/**
 * The nodes directly under one, in order. A new kind of node must be named here, and every measure that only looks for
 * something in a tree goes down by it: so none is skipped without anybody noticing.
 */
export function childrenOf(node: Strung): readonly Strung[] {
  switch (node.type) {
    case "bead":
    case "space":
    case "knot":
    case "links":
    case "hang":
      return [];
    case "series":
      return node.items;
    case "times":
      return node.between ? [node.item, node.between] : [node.item];
    case "mirror":
      return node.around ? [node.item, node.around] : [node.item];
    case "each":
      return node.branches;
    case "fringe":
      return [node.down, node.turn];
    case "loop":
    case "pass":
      return [node.item];
    default:
      return unreachable(node);
  }
}

export const series = (items: Strung[]): Strung => ({
  type: "series",
  items,
  strandMm: items.reduce((sum, item) => sum + item.strandMm, 0),
  pathMm: items.reduce((sum, item) => sum + item.pathMm, 0),
});

export const times = (n: number, item: Strung, between: Strung | null): Strung => {
  const gaps = between ? Math.max(n - 1, 0) : 0;
  return {
    type: "times",
    n,
    item,
    between,
    strandMm: n * item.strandMm + gaps * (between?.strandMm ?? 0),
    pathMm: n * item.pathMm + gaps * (between?.pathMm ?? 0),
  };
};

/** One bead's place in the text, and how many of it that place puts in one part. */
export interface Placing {
  key: string;
  at: Place;
  /** Beads picked up here in one part. */
  picked: number;
  /** Threads that go through holes of this key because of this place. */
  through: number;
  /** Whether it hangs, and so brings what it hangs by. */
  hangs: boolean;
}

/**
 * Lists what every place in the text picks up and passes through, repeats multiplied out of numbers, never of beads.
 */
export function placings(root: Strung, strands: number): Placing[] {
  const found: Placing[] = [];
  // `width`: how many threads run side by side here; `picks`: how many beads one written bead stands for.
  const visit = (node: Strung, n: number, picks: number, width: number, passing: boolean) => {
    switch (node.type) {
      case "bead":
        found.push({
          key: node.key,
          at: node.at,
          picked: passing ? 0 : node.n * n * picks,
          through: node.n * n * width,
          hangs: false,
        });
        return;
      case "hang":
        if (!passing) found.push({ key: node.key, at: node.at, picked: n * picks, through: 0, hangs: true });
        return;
      case "series":
        for (const item of node.items) visit(item, n, picks, width, passing);
        return;
      case "times":
        visit(node.item, n * node.n, picks, width, passing);
        if (node.between && node.n > 1) visit(node.between, n * (node.n - 1), picks, width, passing);
        return;
      case "mirror":
        visit(node.item, n * 2, picks, width, passing);
        if (node.around) visit(node.around, n, picks, width, passing);
        return;
      case "each": {
        const alike = node.branches.length === 1 ? node.strands : 1;
        for (const branch of node.branches) visit(branch, n, alike, alike, passing);
        return;
      }
      case "fringe":
        visit(node.down, n, picks, width, passing);
        visit(node.down, n, picks, width, true);
        visit(node.turn, n, picks, width, passing);
        return;
      case "loop":
        visit(node.item, n, picks, width, passing);
        return;
      case "pass":
        visit(node.item, n * node.times, picks, width, true);
        return;
      case "space":
      case "knot":
      case "links":
        return;
      default:
        return unreachable(node);
    }
  };
  visit(root, 1, 1, strands, false);
  return found;
}

/**
 * The stretches of chain between beads: open-ended on both sides, so that stretches join when put in a row.
 * `inner` maps a number of links to how many stretches have it.
 */
export interface ChainRun {
  divided: boolean;
  first: number;
  last: number;
  inner: Map<number, number>;
}

/**
 * Divides a chain at its beads by joining and multiplying stretches, without writing repeats out.
 * @returns a run of its own, which the caller may change
 */
export function chainRun(node: Strung): ChainRun {
  switch (node.type) {
    case "links":
      return links(node.n);
    case "hang":
      return links(node.onChain ? 1 : 0);
    case "bead":
      return node.n > 0 ? { divided: true, first: 0, last: 0, inner: new Map() } : links(0);
    case "series":
      return node.items.reduce((run, item) => join(run, chainRun(item)), links(0));
    case "times": {
      const each = chainRun(node.item);
      if (!node.between || node.n < 2) return repeat(each, node.n);
      const again = repeat(join(chainRun(node.between), each), node.n - 1);
      return join(each, again);
    }
    case "mirror": {
      const half = chainRun(node.item);
      const back = { ...half, first: half.last, last: half.first, inner: new Map(half.inner) };
      return join(node.around ? join(half, chainRun(node.around)) : half, back);
    }
    // What stands beside or off the chain takes no link of it and does not divide it.
    case "space":
    case "knot":
    case "each":
    case "fringe":
    case "loop":
    case "pass":
      return links(0);
    default:
      return unreachable(node);
  }
}

const links = (n: number): ChainRun => ({ divided: false, first: n, last: 0, inner: new Map() });

/** Puts `b` behind `a`, in `a`: copied at every bead, a long row would take the square of its length. */
function join(a: ChainRun, b: ChainRun): ChainRun {
  if (!a.divided && !b.divided) return links(a.first + b.first);
  if (!a.divided) return { ...b, first: a.first + b.first };
  if (!b.divided) {
    a.last += b.first;
    return a;
  }
  addTo(a.inner, a.last + b.first, 1);
  for (const [n, count] of b.inner) addTo(a.inner, n, count);
  a.last = b.last;
  return a;
}

function repeat(run: ChainRun, n: number): ChainRun {
  if (n < 1) return links(0);
  if (!run.divided) return links(run.first * n);
  const inner = new Map([...run.inner].map(([length, count]) => [length, count * n]));
  if (n > 1) addTo(inner, run.last + run.first, n - 1);
  return { ...run, inner };
}

export function addTo<K>(sums: Map<K, number>, key: K, n: number) {
  if (n !== 0) sums.set(key, (sums.get(key) ?? 0) + n);
}
