const GRID = 100; // cells a millimetre
export const MAX_FILL_MM = 2000;

/**
 * Closes a gap with whole beads: the numbers of each that come closest to `gapMm` (running over is allowed), of
 * equally close ones the fewest beads, of those the most of the earlier ones.
 * Dynamic programming over a grid of 0.01 mm.
 * @param lengthsMm up to four bead lengths, each at least 0.01 mm
 * @param gapMm 0 to 2,000
 * @returns how many of each bead
 */
export function closeGap(gapMm: number, lengthsMm: readonly number[]): number[] {
  const steps = lengthsMm.map((mm) => Math.max(1, Math.round(mm * GRID)));
  const kinds = steps.length;
  const reach = Math.ceil(gapMm * GRID) + Math.max(...steps);
  const least = new Int32Array(reach + 1).fill(-1); // beads to come out at just this length; -1: can't
  const chosen = new Int32Array((reach + 1) * kinds);
  least[0] = 0;
  for (let cell = 1; cell <= reach; cell++) {
    for (let kind = 0; kind < kinds; kind++) {
      const before = cell - steps[kind]!;
      if (before < 0 || least[before]! < 0) continue;
      const beads = least[before]! + 1;
      const better = least[cell]! < 0 || beads < least[cell]!;
      if (!better && (beads > least[cell]! || !earlier(chosen, before, kind, cell, kinds))) continue;
      least[cell] = beads;
      for (let k = 0; k < kinds; k++) chosen[cell * kinds + k] = chosen[before * kinds + k]! + (k === kind ? 1 : 0);
    }
  }
  let best = 0;
  for (let cell = 1; cell <= reach; cell++) {
    if (least[cell]! < 0) continue;
    const closer = Math.abs(best / GRID - gapMm) - Math.abs(cell / GRID - gapMm);
    const equal = Math.abs(closer) < 1e-7;
    const wins =
      (!equal && closer > 0) ||
      (equal && (least[cell]! < least[best]! || (least[cell] === least[best] && more(chosen, cell, best, kinds))));
    if (wins) best = cell;
  }
  return Array.from({ length: kinds }, (_, k) => chosen[best * kinds + k]!);
}

/** Whether `before` plus one of `kind` has more of the earlier beads than what stands at `cell`. */
function earlier(chosen: Int32Array, before: number, kind: number, cell: number, kinds: number): boolean {
  for (let k = 0; k < kinds; k++) {
    const difference = chosen[before * kinds + k]! + (k === kind ? 1 : 0) - chosen[cell * kinds + k]!;
    if (difference !== 0) return difference > 0;
  }
  return false;
}

function more(chosen: Int32Array, a: number, b: number, kinds: number): boolean {
  for (let k = 0; k < kinds; k++) {
    const difference = chosen[a * kinds + k]! - chosen[b * kinds + k]!;
    if (difference !== 0) return difference > 0;
  }
  return false;
}
