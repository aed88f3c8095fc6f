import type { Design, Piece, Problem } from "../contract/design.ts";
import { type Counting, countWhole } from "./count.ts";
import type { Colourway } from "./roles.ts";

export interface Kit {
  counts: Record<string, number>;
  perKit: Record<string, number>;
  lengthsMm: Record<string, number>;
  pieces: Record<string, Piece[]>;
  problems: Problem[];
  /** Every size and option that the kit must serve, counted. */
  ways: Counting[];
}

/**
 * What a kit must hold: for each role the most that any of its sizes and options needs, not the sum.
 * @param size one size, or null for every size the design has
 * @param option one option, or null for every option the design has
 * @returns the same object for the same question of the same design, so callers must not change it
 */
export function countKit(design: Design, size: string | null, option: string | null, colourway: Colourway | null): Kit {
  const measures =
    colourway &&
    Object.entries(colourway).map(([key, m]) => `${key} ${m?.alongMm ?? ""} ${m?.holeMm ?? ""} ${m?.linkMm ?? ""}`);
  const asked = JSON.stringify([size, option, measures]);
  const known = counted.get(design) ?? new Map<string, Kit>();
  counted.set(design, known);
  let kit = known.get(asked);
  if (!kit) {
    if (known.size >= REMEMBER) known.clear();
    known.set(asked, (kit = count(design, size, option, colourway)));
  }
  return kit;
}

/** A design is never changed, only replaced: what was counted of it holds for as long as it is there. */
const counted = new WeakMap<Design, Map<string, Kit>>();
const REMEMBER = 100;

function count(design: Design, size: string | null, option: string | null, colourway: Colourway | null): Kit {
  const sizes = size !== null ? [size] : design.sizes?.length ? design.sizes.map((s) => s.key) : [null];
  const options = option !== null ? [option] : design.options?.length ? design.options.map((o) => o.key) : [null];
  const ways = sizes.flatMap((s) => options.map((o) => countWhole(design, { size: s, option: o, colourway })));
  const kit: Kit = { counts: {}, perKit: {}, lengthsMm: {}, pieces: {}, problems: [], ways };
  for (const { answer } of ways) {
    most(kit.counts, answer.counts);
    most(kit.perKit, answer.perKit);
    for (const [key, mm] of Object.entries(answer.lengthsMm)) {
      if (mm <= (kit.lengthsMm[key] ?? 0)) continue;
      kit.lengthsMm[key] = mm;
      kit.pieces[key] = answer.pieces[key]!;
    }
    for (const problem of answer.problems) {
      if (
        !kit.problems.some((p) => p.message === problem.message && p.part === problem.part && p.from === problem.from)
      ) {
        kit.problems.push(problem);
      }
    }
  }
  return kit;
}

function most(into: Record<string, number>, from: Record<string, number>) {
  for (const [key, n] of Object.entries(from)) into[key] = Math.max(into[key] ?? 0, n);
}
