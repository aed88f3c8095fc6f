import type { Design, Piece, Problem } from "../contract/index.ts";
import { type Counting, countWhole, round } from "./count.ts";
import type { Colourway } from "./roles.ts";

export interface Kit {
  counts: Record<string, number>;
  perKit: Record<string, number>;
  lengthsMm: Record<string, number>;
  pieces: Record<string, Piece[]>;
  problems: Problem[];
  /** Every size and option that the kit must serve, counted with all that lies behind: worked out when it is asked. */
  countings: () => Counting[];
}

/**
 * What a kit must hold: for each role the most that any of its sizes and options needs, not the sum; of what is cut,
 * the longest pieces side by side. What is made of offcuts is not in it.
 * @param size one size, or null for every size the design has
 * @param option one option, or null for every option the design has
 * @returns the same object for the same question of the same design, so callers must not change it
 */
export function countKit(design: Design, size: string | null, option: string | null, colourway: Colourway | null): Kit {
  const known = counted.get(design) ?? new Map<string, Kit>();
  counted.set(design, known);
  const asked = questionOf(size, option, colourway);
  let kit = known.get(asked);
  // What was asked for last is forgotten last: a map keeps its keys in the order in which they were put in.
  if (kit) known.delete(asked);
  else kit = count(design, size, option, colourway);
  known.set(asked, kit);
  if (known.size > REMEMBER) known.delete(known.keys().next().value!);
  return kit;
}

/** A design is never changed, only replaced: what was counted of it holds for as long as it is there. */
const counted = new WeakMap<Design, Map<string, Kit>>();
/** Kits remembered of a design: more than the 1,000 variants that a box may have, each in its own colourway. */
const REMEMBER = 1200;

/** What a kit depends on beside its design: lengths along the thread and of links. Holes and colours count nothing. */
function questionOf(size: string | null, option: string | null, colourway: Colourway | null): string {
  let asked = `${size ?? ""}\n${option ?? ""}`;
  for (const key in colourway) {
    const m = colourway[key];
    asked += `\n${key} ${m?.alongMm ?? ""} ${m?.linkMm ?? ""}`;
  }
  return asked;
}

function count(design: Design, size: string | null, option: string | null, colourway: Colourway | null): Kit {
  const sizes = size !== null ? [size] : design.sizes?.length ? design.sizes.map((s) => s.key) : [null];
  const options = option !== null ? [option] : design.options?.length ? design.options.map((o) => o.key) : [null];
  const countings = () =>
    sizes.flatMap((s) => options.map((o) => countWhole(design, { size: s, option: o, colourway })));
  const kit: Kit = { counts: {}, perKit: {}, lengthsMm: {}, pieces: {}, problems: [], countings };
  for (const { answer } of countings()) {
    most(kit.counts, answer.counts);
    most(kit.perKit, answer.perKit);
    for (const [key, pieces] of Object.entries(answer.pieces))
      kit.pieces[key] = sideBySide(kit.pieces[key] ?? [], pieces);
    for (const problem of answer.problems) {
      const same = (p: Problem) => p.message === problem.message && p.part === problem.part && p.from === problem.from;
      if (!kit.problems.some(same)) kit.problems.push(problem);
    }
  }
  for (const [key, pieces] of Object.entries(kit.pieces))
    kit.lengthsMm[key] = round(pieces.reduce((sum, p) => sum + p.mm * p.count, 0));
  return kit;
}

/**
 * Pieces from which either list can be cut, each piece from one of its own: the i-th longest is the longer of the two
 * i-th longest. Equal pieces stay together, so that a million of them cost no more than one.
 */
function sideBySide(a: readonly Piece[], b: readonly Piece[]): Piece[] {
  const found: Piece[] = [];
  const [left, right] = [a.map((p) => ({ ...p })), b.map((p) => ({ ...p }))];
  for (;;) {
    const [x, y] = [left[0], right[0]];
    if (!x && !y) return found;
    const mm = Math.max(x?.mm ?? 0, y?.mm ?? 0);
    const count = Math.min(x?.count ?? Infinity, y?.count ?? Infinity);
    const last = found.at(-1);
    if (last?.mm === mm) last.count += count;
    else found.push({ mm, count });
    for (const list of [left, right]) {
      const first = list[0];
      if (first && (first.count -= count) === 0) list.shift();
    }
  }
}

function most(into: Record<string, number>, from: Record<string, number>) {
  for (const [key, n] of Object.entries(from)) into[key] = Math.max(into[key] ?? 0, n);
}
