import { exact, timesInto } from "../units/index.ts";

/** So many pieces of one length, mm. */
export interface Stretch {
  mm: number;
  count: number;
}

/**
 * Whether cuts can all be made from the pieces that are there, and how many of each could not: the longest cuts first,
 * each from the shortest piece that it fits (best fit decreasing, the usual rule of thumb). A sum
 * is not enough: ten offcuts of 5 cm make no necklace. Lengths are whole ten-thousandths of a millimetre: what is left
 * and what was cut are together as long as what was there.
 * @returns the cuts that found no piece, and the pieces that are left, the shortest first
 */
export function cutFrom(
  stretches: readonly Stretch[],
  cuts: readonly Stretch[],
): { missing: Stretch[]; left: Stretch[] } {
  let left = stretches
    .filter((s) => s.count > 0 && s.mm > 0)
    .map((s) => ({ mm: exact(s.mm), count: s.count }))
    .sort((a, b) => a.mm - b.mm);
  const missing: Stretch[] = [];
  for (const { mm, count } of [...cuts].sort((a, b) => b.mm - a.mm)) {
    const long = exact(mm);
    let open = count;
    while (open > 0 && long > 0) {
      const i = left.findIndex((s) => s.mm >= long);
      if (i < 0) break;
      const from = left[i]!;
      const each = timesInto(from.mm, long);
      // Whole pieces that are used up alike are taken at once.
      const whole = Math.min(from.count, Math.floor(open / each));
      if (whole > 0) {
        take(i, whole, exact(from.mm - each * long));
        open -= whole * each;
      } else {
        take(i, 1, exact(from.mm - open * long));
        open = 0;
      }
    }
    if (open > 0) missing.push({ mm: long, count: open });
  }
  return { missing, left };

  function take(i: number, count: number, rest: number) {
    left[i]!.count -= count;
    left = left.filter((s) => s.count > 0);
    if (rest > 0) {
      const same = left.find((s) => s.mm === rest);
      if (same) same.count += count;
      else left.push({ mm: rest, count });
      left.sort((a, b) => a.mm - b.mm);
    }
  }
}

/** How many pieces of one length can be cut from what is there: 0 where no single piece is long enough. */
export const howManyOf = (stretches: readonly Stretch[], mm: number) =>
  stretches.reduce((n, s) => n + s.count * timesInto(s.mm, mm), 0);

/** How long pieces are together. */
export const sumOf = (cuts: readonly Stretch[]) => exact(cuts.reduce((sum, c) => sum + c.mm * c.count, 0));

/** Cuts and more cuts, `times` as often: equal ones together, in either list too, the longest first. */
export function addCuts(cuts: readonly Stretch[], more: readonly Stretch[], times = 1): Stretch[] {
  const sums = new Map<number, number>();
  const add = (mm: number, count: number) => count > 0 && sums.set(mm, (sums.get(mm) ?? 0) + count);
  for (const { mm, count } of cuts) add(mm, count);
  for (const { mm, count } of more) add(mm, count * times);
  return [...sums].map(([mm, count]) => ({ mm, count })).sort((a, b) => b.mm - a.mm);
}
