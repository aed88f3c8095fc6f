/** So many pieces of one length, mm. */
export interface Stretch {
  mm: number;
  count: number;
}

/** Lengths that differ by less are the same cut; a knife is no finer. */
const WITHIN_MM = 0.001;

/**
 * Whether cuts can all be made from the pieces that are there, and how many of each could not: the longest cuts first,
 * each from the shortest piece that it fits (best fit decreasing, the usual rule of thumb). A sum
 * is not enough: ten offcuts of 5 cm make no necklace.
 * @returns the cuts that found no piece, and the pieces that are left, the shortest first
 */
export function cutFrom(
  stretches: readonly Stretch[],
  cuts: readonly Stretch[],
): { missing: Stretch[]; left: Stretch[] } {
  let left = stretches
    .filter((s) => s.count > 0 && s.mm > WITHIN_MM)
    .map((s) => ({ ...s }))
    .sort((a, b) => a.mm - b.mm);
  const missing: Stretch[] = [];
  for (const cut of [...cuts].sort((a, b) => b.mm - a.mm)) {
    let open = cut.count;
    while (open > 0) {
      const i = left.findIndex((s) => s.mm + WITHIN_MM >= cut.mm);
      if (i < 0) break;
      const from = left[i]!;
      const each = Math.floor((from.mm + WITHIN_MM) / cut.mm);
      // Whole pieces that are used up alike are taken at once.
      const whole = Math.min(from.count, Math.floor(open / each));
      if (whole > 0) {
        take(i, whole, from.mm - each * cut.mm);
        open -= whole * each;
      } else {
        take(i, 1, from.mm - open * cut.mm);
        open = 0;
      }
    }
    if (open > 0) missing.push({ mm: cut.mm, count: open });
  }
  return { missing, left };

  function take(i: number, count: number, rest: number) {
    left[i]!.count -= count;
    const kept = rest > WITHIN_MM ? rest : 0;
    left = left.filter((s) => s.count > 0);
    if (kept > 0) {
      const same = left.find((s) => Math.abs(s.mm - kept) < WITHIN_MM);
      if (same) same.count += count;
      else left.push({ mm: kept, count });
      left.sort((a, b) => a.mm - b.mm);
    }
  }
}

/** How many pieces of one length can be cut from what is there: 0 where no single piece is long enough. */
export const howManyOf = (stretches: readonly Stretch[], mm: number) =>
  stretches.reduce((n, s) => n + s.count * Math.floor((s.mm + WITHIN_MM) / mm), 0);

/** Cuts and more cuts, `times` as often: equal ones together, in either list too, the longest first. */
export function addCuts(cuts: readonly Stretch[], more: readonly Stretch[], times = 1): Stretch[] {
  const sums = new Map<number, number>();
  const add = (mm: number, count: number) => count > 0 && sums.set(mm, (sums.get(mm) ?? 0) + count);
  for (const { mm, count } of cuts) add(mm, count);
  for (const { mm, count } of more) add(mm, count * times);
  return [...sums].map(([mm, count]) => ({ mm, count })).sort((a, b) => b.mm - a.mm);
}
