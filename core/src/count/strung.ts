import { unreachable, type Which } from "../shorthand/index.ts";

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
    | { type: "bead"; key: string; n: number; alongMm: number; hole: number; at: Place }
    // A spacer between every two beads that stand on the strand of the item, directly before the second.
    | { type: "spaced"; item: Strung; spacer: Strung; gaps: number }
    | { type: "space"; at: Place }
    | { type: "knot"; at: Place }
    | { type: "links"; n: number; at: Place }
    | { type: "hang"; hung: Hung[]; onChain: boolean; at: Place }
    // Linked in and not strung: the cut ends before it, and a new one begins behind it.
    | { type: "join"; beads: BeadNode[] }
    // The member that takes up what is left: as long as that comes to.
    | { type: "rest"; key: string; at: Place }
    | { type: "series"; items: Strung[] }
    | { type: "times"; n: number; item: Strung; between: Strung | null }
    | { type: "mirror"; item: Strung; around: Strung | null }
    | { type: "each"; branches: Strung[]; strands: number }
    | { type: "fringe"; down: Strung; turn: Strung }
    | { type: "loop"; item: Strung }
    // `which`: the one bead of its key, from 1, that is passed; null where any of them may be.
    | { type: "pass"; item: Strung; times: number; which: Which | null }
  );

export type BeadNode = Extract<Strung, { type: "bead" }>;

/** What hangs from a place, side by side with the others there. */
export interface Hung {
  key: string;
  n: number;
  at: Place;
}

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
    case "rest":
      return [];
    case "spaced":
      return node.gaps > 0 ? [node.item, node.spacer] : [node.item];
    case "join":
      return node.beads;
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

export function bead(of: Pick<BeadNode, "key" | "n" | "alongMm" | "hole" | "at">): BeadNode {
  const mm = of.n * of.alongMm;
  return { type: "bead", ...of, strandMm: mm, pathMm: mm };
}

export function spaced(item: Strung, spacer: Strung): Strung {
  const gaps = Math.max(unitsOf(item) - 1, 0);
  return {
    type: "spaced",
    item,
    spacer,
    gaps,
    strandMm: item.strandMm + gaps * spacer.strandMm,
    pathMm: item.pathMm + gaps * spacer.pathMm,
  };
}

export const mirror = (item: Strung, around: Strung | null): Strung => ({
  type: "mirror",
  item,
  around,
  strandMm: 2 * item.strandMm + (around?.strandMm ?? 0),
  pathMm: 2 * item.pathMm + (around?.pathMm ?? 0),
});

/** Beads that stand on the strand in a node, repeats multiplied: an `each` is one, what is off the strand none. */
export function unitsOf(node: Strung): number {
  switch (node.type) {
    case "bead":
      return node.n;
    case "spaced":
      return unitsOf(node.item) + node.gaps * unitsOf(node.spacer);
    case "series":
      return node.items.reduce((sum, item) => sum + unitsOf(item), 0);
    case "times":
      return node.n * unitsOf(node.item) + (node.between ? Math.max(node.n - 1, 0) * unitsOf(node.between) : 0);
    case "mirror":
      return 2 * unitsOf(node.item) + (node.around ? unitsOf(node.around) : 0);
    case "each":
      return node.branches.some((branch) => unitsOf(branch) > 0) ? 1 : 0;
    case "space":
    case "knot":
    case "links":
    case "hang":
    case "join":
    case "rest":
    case "fringe":
    case "loop":
    case "pass":
      return 0;
    default:
      return unreachable(node);
  }
}

/** How much of a node's strand runs through `each`: strands side by side, that can be laid round one another, mm. */
export function apartMm(node: Strung): number {
  if (node.type === "each") return node.strandMm;
  if (node.type === "times") return node.n * apartMm(node.item);
  if (node.type === "mirror") return 2 * apartMm(node.item);
  return childrenOf(node).reduce((sum, child) => sum + apartMm(child), 0);
}

/** One bead's place in the text, and how many of it that place puts in one part. */
export interface Placing {
  key: string;
  at: Place;
  /** Beads picked up here in one part. */
  picked: number;
  /** Threads that go through holes of this key because of this place. */
  through: number;
  /** Through which of its holes they go, from 1. */
  hole: number;
  /** The bead that is passed, where it is named. */
  which: Which | null;
  /** How it comes in: strung, hung (so that it brings what it hangs by), linked in, or taking up what is left. */
  how: "strung" | "hung" | "joined" | "rest";
}

/**
 * Lists what every place in the text picks up and passes through, repeats multiplied out of numbers, never of beads.
 */
export function placings(root: Strung, strands: number): Placing[] {
  const found: Placing[] = [];
  const off = (key: string, at: Place, picked: number, how: Placing["how"]) =>
    found.push({ key, at, picked, through: 0, hole: 1, which: null, how });
  // `width`: how many threads run side by side here; `picks`: how many beads one written bead stands for.
  const visit = (
    node: Strung,
    n: number,
    picks: number,
    width: number,
    passing: boolean,
    which: Which | null = null,
  ) => {
    switch (node.type) {
      case "bead":
        found.push({
          key: node.key,
          at: node.at,
          picked: passing ? 0 : node.n * n * picks,
          through: node.n * n * width,
          hole: node.hole,
          which,
          how: "strung",
        });
        return;
      case "spaced":
        visit(node.item, n, picks, width, passing, which);
        if (node.gaps > 0) visit(node.spacer, n * node.gaps, picks, width, passing, which);
        return;
      case "hang":
        if (passing) return;
        for (const { key, n: many, at } of node.hung) off(key, at, many * n * picks, "hung");
        return;
      case "join":
        if (passing) return;
        for (const { key, n: many, at } of node.beads) off(key, at, many * n * picks, "joined");
        return;
      case "rest":
        if (!passing) off(node.key, node.at, n * picks, "rest");
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
        visit(node.item, n * node.times, picks, width, true, node.which);
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
 * Whether the nth bead of a key (from 0, in the order in which they are strung) is picked outside an `each`, so that
 * every strand goes through it; null where there is no such bead.
 */
export function isOnEveryStrand(root: Strung, key: string, nth: number): boolean | null {
  const many = (node: Strung): number => {
    switch (node.type) {
      case "bead":
        return node.key === key ? node.n : 0;
      case "spaced":
        return many(node.item) + node.gaps * many(node.spacer);
      case "times":
        return node.n * many(node.item) + (node.between ? Math.max(node.n - 1, 0) * many(node.between) : 0);
      case "mirror":
        return 2 * many(node.item) + (node.around ? many(node.around) : 0);
      case "each": {
        const sum = node.branches.reduce((total, branch) => total + many(branch), 0);
        return node.branches.length === 1 ? sum * node.strands : sum;
      }
      case "pass":
      case "join":
        return 0;
      default:
        return childrenOf(node).reduce((sum, child) => sum + many(child), 0);
    }
  };
  const find = (node: Strung, at: number): boolean | null => {
    switch (node.type) {
      case "bead":
        return true;
      case "spaced": {
        // Which of the item's and the spacers' own comes when makes no difference to how many strands go through it,
        // but where one of them stands in an `each`.
        const own = many(node.item);
        return at < own ? find(node.item, at) : find(node.spacer, (at - own) % many(node.spacer));
      }
      case "times": {
        const [own, gap] = [many(node.item), node.between ? many(node.between) : 0];
        const inTurn = at % (own + gap);
        return inTurn < own ? find(node.item, inTurn) : find(node.between!, inTurn - own);
      }
      case "mirror": {
        const [half, middle] = [many(node.item), node.around ? many(node.around) : 0];
        if (at < half) return find(node.item, at);
        return at < half + middle ? find(node.around!, at - half) : find(node.item, 2 * half + middle - 1 - at);
      }
      case "each":
        return false;
      default: {
        let before = 0;
        for (const child of childrenOf(node)) {
          const own = many(child);
          if (at < before + own) return find(child, at - before);
          before += own;
        }
        return null;
      }
    }
  };
  return nth >= 0 && nth < many(root) ? find(root, nth) : null;
}

/** One length of thread between two joins: how far it travels, its beads, and whether anything is strung on it. */
export interface Segment {
  pathMm: number;
  units: number;
  strung: boolean;
}

const nothing = (): Segment => ({ pathMm: 0, units: 0, strung: false });

/** The cuts of one strand: one, or one between every two joins. Joins stand at the top level only, never in repeats. */
export function segmentsOf(node: Strung): Segment[] {
  switch (node.type) {
    case "join":
      return node.beads.some((b) => b.n > 0) ? [nothing(), nothing()] : [nothing()];
    case "series":
      return node.items.map(segmentsOf).reduce(meet, [nothing()]);
    case "mirror": {
      const half = segmentsOf(node.item);
      const there = node.around ? meet(half, segmentsOf(node.around)) : half;
      return meet(there, [...half].reverse());
    }
    case "spaced": {
      const each = unitsOf(node.spacer);
      let begun = false;
      return segmentsOf(node.item).map(({ pathMm, units, strung }) => {
        // Every bead but the first of all has a spacer before it.
        const gaps = units === 0 || begun ? units : units - 1;
        begun ||= units > 0;
        return { pathMm: pathMm + gaps * node.spacer.pathMm, units: units + gaps * each, strung };
      });
    }
    default:
      return [{ pathMm: node.pathMm, units: unitsOf(node), strung: isStrung(node) }];
  }
}

/** Puts segments behind segments: the last of the one and the first of the other are one length of thread. */
function meet(a: Segment[], b: Segment[]): Segment[] {
  const [last, first] = [a.at(-1)!, b[0]!];
  const one = {
    pathMm: last.pathMm + first.pathMm,
    units: last.units + first.units,
    strung: last.strung || first.strung,
  };
  return [...a.slice(0, -1), one, ...b.slice(1)];
}

/** Whether thread is used in a node: a pick, a pass, a knot, room, a loop or a fringe. */
function isStrung(node: Strung): boolean {
  switch (node.type) {
    case "bead":
      return node.n > 0;
    case "space":
    case "knot":
    case "links":
    case "loop":
    case "fringe":
      return true;
    case "times":
      return node.n > 0 && (isStrung(node.item) || (node.between !== null && node.n > 1 && isStrung(node.between)));
    case "pass":
      return node.times > 0 && isStrung(node.item);
    case "hang":
    case "join":
    case "rest":
      return false;
    case "series":
    case "mirror":
    case "each":
    case "spaced":
      return childrenOf(node).some(isStrung);
    default:
      return unreachable(node);
  }
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
      return node.n > 0 ? divided() : links(0);
    case "spaced":
      return spacedRun(chainRun(node.item), chainRun(node.spacer), node.gaps);
    case "join":
      return node.beads.some((b) => b.n > 0) ? divided() : links(0);
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
    case "rest":
      return links(0);
    default:
      return unreachable(node);
  }
}

/** A run with a spacer before every bead but the first: its own links go before and behind its own beads. */
function spacedRun(run: ChainRun, spacer: ChainRun, gaps: number): ChainRun {
  if (!run.divided || gaps === 0) return run;
  const inner = new Map<number, number>();
  for (const [n, count] of run.inner) addTo(inner, n + spacer.first, count);
  if (!spacer.divided) return { ...run, inner };
  for (const [n, count] of spacer.inner) addTo(inner, n, count * gaps);
  addTo(inner, spacer.last, gaps);
  return { ...run, inner };
}

const divided = (): ChainRun => ({ divided: true, first: 0, last: 0, inner: new Map() });
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

/** Beads of each key along one strand, as they add to its length: of strands side by side the longest counts. */
export function alongStrand(node: Strung, n = 1, into = new Map<string, number>()): Map<string, number> {
  const go = (child: Strung, times: number) => alongStrand(child, n * times, into);
  switch (node.type) {
    case "bead":
      into.set(node.key, (into.get(node.key) ?? 0) + n * node.n);
      break;
    case "times":
      go(node.item, node.n);
      if (node.between && node.n > 1) go(node.between, node.n - 1);
      break;
    case "mirror":
      go(node.item, 2);
      if (node.around) go(node.around, 1);
      break;
    case "spaced":
      go(node.item, 1);
      go(node.spacer, node.gaps);
      break;
    case "each": {
      const [longest] = [...node.branches].sort((a, b) => b.strandMm - a.strandMm);
      if (longest) go(longest, 1);
      break;
    }
    case "series":
    case "join":
      childrenOf(node).forEach((child) => go(child, 1));
      break;
    default: // stands off the strand, or has no beads
  }
  return into;
}
