import type { Design, Piece, Problem } from "../contract/index.ts";
import { type Counting, countWhole } from "./count.ts";
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
 * What a kit must hold: for each role the most that any of its sizes and options needs, not the sum.
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
    for (const [key, mm] of Object.entries(answer.lengthsMm)) {
      if (mm <= (kit.lengthsMm[key] ?? 0)) continue;
      kit.lengthsMm[key] = mm;
      kit.pieces[key] = answer.pieces[key]!;
    }
    for (const problem of answer.problems) {
      const same = (p: Problem) => p.message === problem.message && p.part === problem.part && p.from === problem.from;
      if (!kit.problems.some(same)) kit.problems.push(problem);
    }
  }
  return kit;
}

function most(into: Record<string, number>, from: Record<string, number>) {
  for (const [key, n] of Object.entries(from)) into[key] = Math.max(into[key] ?? 0, n);
}
