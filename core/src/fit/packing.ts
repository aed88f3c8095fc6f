/**
 * D ÷ d: the hole that so many equal round strands need, as a multiple of their thickness, from 1 to 10. Circles in a
 * circle, three places: Graham, Lubachevsky, Nurmela, Östergård, Discrete Mathematics 181 (1998).
 */
export const PACKED = [1, 2, 2.155, 2.414, 2.701, 3, 3, 3.305, 3.613, 3.813] as const;

/** How densely many equal circles lie in a circle, where there are more than ten: an estimate. */
const DENSITY = 0.69;

export interface Bundle {
  mm: number;
  /** Strands of unlike thickness, or more than ten: the published table has neither. */
  isEstimate: boolean;
}

/**
 * The narrowest hole that strands side by side pass, mm.
 * @param strands thicknesses, mm, each with how many there are of it
 */
export function bundleMm(strands: readonly { mm: number; n: number }[]): Bundle {
  const n = strands.reduce((sum, s) => sum + s.n, 0);
  if (n === 0) return { mm: 0, isEstimate: false };
  const alike = strands.every((s) => Math.abs(s.mm - strands[0]!.mm) < 1e-9);
  const d = alike ? strands[0]!.mm : Math.sqrt(strands.reduce((sum, s) => sum + s.n * s.mm ** 2, 0) / n);
  const ratio = n <= PACKED.length ? PACKED[n - 1]! : Math.sqrt(n / DENSITY);
  return { mm: d * ratio, isEstimate: !alike || n > PACKED.length };
}
