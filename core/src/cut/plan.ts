import { exact, timesInto } from "../units/index.ts";
import type { Stretch } from "./stretches.ts";

/** So many pieces of one length at one place and of one lot. */
export interface PiecesAt extends Stretch {
  place: string;
  lot: string;
}

/** So many pieces that are cut alike, and what is cut from each of them, the longest first. */
export interface CutStep {
  place: string;
  lot: string;
  fromMm: number;
  pieces: number;
  cuts: { mm: number; count: number; leftMm: number }[];
  /** What is kept of it; 0 where nothing is. */
  leftMm: number;
}

/**
 * Which lengths to cut from which piece: the longest cuts first, each from the shortest piece that it fits (best fit
 * decreasing), pieces of the same length in the order given. A piece that is as long as the cut already is a step with
 * nothing left.
 * @returns what is done with the pieces that are cut, those cut alike in one step, and the cuts that found none. It
 *   takes as long as there are lengths and steps, however many pieces and cuts of each.
 */
export function planCuts(
  pieces: readonly PiecesAt[],
  cuts: readonly Stretch[],
): { steps: CutStep[]; missing: Stretch[] } {
  // Pieces that nothing was cut from yet, and those that were begun, alike ones together.
  const whole = pieces.filter((p) => p.count > 0 && p.mm > 0).map((p) => ({ ...p, mm: exact(p.mm) }));
  const begun: CutStep[] = [];
  const missing: Stretch[] = [];
  for (const asked of [...cuts].sort((a, b) => b.mm - a.mm)) {
    const cut = { ...asked, mm: exact(asked.mm) };
    for (let open = cut.count; open > 0 && cut.mm > 0;) {
      const fits = (mm: number) => mm >= cut.mm;
      let fresh: (typeof whole)[number] | null = null;
      for (const p of whole) if (p.count > 0 && fits(p.mm) && (fresh === null || p.mm < fresh.mm)) fresh = p;
      let step: CutStep | null = null;
      for (const s of begun) if (fits(s.leftMm) && (step === null || s.leftMm < step.leftMm)) step = s;
      if (fresh && (step === null || fresh.mm < step.leftMm)) {
        step = {
          place: fresh.place,
          lot: fresh.lot,
          fromMm: fresh.mm,
          pieces: fresh.count,
          cuts: [],
          leftMm: fresh.mm,
        };
        begun.push(step);
        fresh.count = 0;
      }
      if (step === null) {
        missing.push({ mm: cut.mm, count: open });
        break;
      }
      // As many pieces as are used up alike; or one, of which less is taken.
      const each = timesInto(step.leftMm, cut.mm);
      const pieces = Math.min(step.pieces, Math.max(1, Math.floor(open / each)));
      if (pieces < step.pieces) {
        const others = { ...step, pieces: step.pieces - pieces, cuts: step.cuts.map((c) => ({ ...c })) };
        if (others.cuts.length > 0) begun.splice(begun.indexOf(step) + 1, 0, others);
        else fresh!.count = others.pieces;
        step.pieces = pieces;
      }
      const count = Math.min(open, each);
      step.leftMm = exact(step.leftMm - count * cut.mm);
      step.cuts.push({ mm: cut.mm, count, leftMm: step.leftMm });
      open -= count * pieces;
    }
  }
  return { steps: begun, missing };
}
