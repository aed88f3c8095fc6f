const GRID = 100; // cells a millimetre
export const MAX_FILL_MM = 2000;

/**
 * Closes a gap with whole beads: the numbers of each that come closest to `gapMm` (running over is allowed), of
 * equally close ones the fewest beads, of those the most of the earlier ones.
 * Dynamic programming over a grid of 0.01 mm. Which of two equally long rows has more of the earlier beads is read off
 * one number, their counts as digits of a large base: adding a bead adds its digit.
 * @param lengthsMm up to four bead lengths, each at least 0.01 mm
 * @param gapMm 0 to 2,000
 * @returns how many of each bead
 */
export function closeGap(gapMm: number, lengthsMm: readonly number[]): number[] {
  const steps = lengthsMm.map((mm) => Math.max(1, Math.round(mm * GRID)));
  const kinds = steps.length;
  const gap = Math.ceil(gapMm * GRID);
  // The shortest bead alone comes within half of its length: nothing further off can be closest.
  const shortest = Math.min(...steps);
  if (shortest > 2 * gap) return steps.map(() => 0);
  const reach = gap + Math.ceil(shortest / 2);
  // With the fewest beads known, the last kind's count follows from the others': at most three digits. Their base is
  // over the most beads there can be, and three digits of it are below 2^53, where every whole number is exact.
  const base = 208_000;
  const digits = steps.map((_, kind) => (kind === kinds - 1 && kinds > 1 ? 0 : base ** (2 - kind)));
  const least = new Int32Array(reach + 1).fill(-1); // beads to come out at just this length; -1: can't
  const rank = new Float64Array(reach + 1);
  least[0] = 0;
  for (let cell = 1; cell <= reach; cell++) {
    let [fewest, highest] = [-1, 0];
    for (let kind = 0; kind < kinds; kind++) {
      const before = cell - steps[kind]!;
      if (before < 0 || least[before]! < 0) continue;
      const beads = least[before]! + 1;
      const order = rank[before]! + digits[kind]!;
      if (fewest < 0 || beads < fewest || (beads === fewest && order > highest)) [fewest, highest] = [beads, order];
    }
    least[cell] = fewest;
    rank[cell] = highest;
  }
  let best = 0;
  for (let cell = 1; cell <= reach; cell++) {
    if (least[cell]! < 0) continue;
    const closer = Math.abs(best / GRID - gapMm) - Math.abs(cell / GRID - gapMm);
    const equal = Math.abs(closer) < 1e-7;
    const fewer = least[best]! - least[cell]!;
    if ((!equal && closer > 0) || (equal && (fewer > 0 || (fewer === 0 && rank[cell]! > rank[best]!)))) best = cell;
  }
  return countsAt(least[best]!, rank[best]!, digits);
}

/** Reads the counts off a row's number of beads and its rank. */
function countsAt(beads: number, rank: number, digits: readonly number[]): number[] {
  let [left, rest] = [beads, rank];
  return digits.map((digit) => {
    const n = digit === 0 ? left : Math.floor(rest / digit);
    rest -= n * digit;
    left -= n;
    return n;
  });
}
