import { addCuts, type Stretch } from "./stretches.ts";
import type { LengthUnit } from "../units/index.ts";
import { exact, MM_PER_INCH, timesToCover, upInSteps } from "../units/index.ts";

/** The marks of a ruler, mm: what a cut is measured by. A sixteenth of an inch is 1.5875 mm exactly. */
export const RULER_STEP: Readonly<Record<LengthUnit, number>> = { in: MM_PER_INCH / 16, mm: 1 };

/**
 * A cut as a person makes it, never shorter than what is asked: up to the next mark of the ruler; of chain, up to the
 * next whole link. The same length stands in bill, list, cut plan, stock, order and cost.
 * @param mm what is asked, as it was counted
 * @param ruler none: as it was counted
 * @param linkMm how long a link is, of chain
 */
export function measuredCut(mm: number, ruler: LengthUnit | null, linkMm?: number | null): number {
  if (ruler === null) return upInSteps(mm, "mm");
  // A link may be finer than lengths are kept.
  if (linkMm) return upInSteps(Math.ceil(mm / linkMm - 1e-6) * linkMm, "mm");
  const step = RULER_STEP[ruler];
  return exact(timesToCover(upInSteps(mm, "mm"), step) * step);
}

/** The same of several cuts: those that are measured alike are one. */
export const measuredCuts = (cuts: readonly Stretch[], ruler: LengthUnit | null, linkMm?: number | null): Stretch[] =>
  addCuts(
    [],
    cuts.map(({ mm, count }) => ({ mm: measuredCut(mm, ruler, linkMm), count })),
  );
