/** How far colours are apart to the eye: apart from their names, so that only what compares them brings it along. */
import { converter, differenceCiede2000, modeLab65, modeRgb, useMode } from "culori/fn";

useMode(modeRgb);
useMode(modeLab65);
const ciede2000 = differenceCiede2000();
const toLab = converter("lab65");
const labs = new Map<string, ReturnType<typeof toLab>>();
/** A colour in CIELAB, worked out once: thousands of components share a few hundred colours. */
function labOf(hex: string) {
  let lab = labs.get(hex);
  if (!lab) labs.set(hex, (lab = toLab(hex)));
  return lab!;
}

/**
 * How far a colour is from the nearest of others, ΔE by CIEDE2000; Infinity where there are none. Of many, only the
 * two that are nearest by plain distance in CIELAB are compared by the formula, which costs a hundred times as much.
 */
export function nearestColour(colour: string, others: readonly string[]): number {
  const { l, a, b } = labOf(colour);
  let [first, second, d1, d2] = ["", "", Infinity, Infinity];
  for (const other of others) {
    const lab = labOf(other);
    const d = (lab.l - l) ** 2 + (lab.a - a) ** 2 + (lab.b - b) ** 2;
    if (d < d1) [second, d2, first, d1] = [first, d1, other, d];
    else if (d < d2) [second, d2] = [other, d];
  }
  return Math.min(Infinity, ...[first, second].filter(Boolean).map((hex) => colourDifference(colour, hex)));
}

/** How far two colours (#rrggbb) are apart to the eye: ΔE by CIEDE2000 (ISO/CIE 11664-6), of the colour library. */
export const colourDifference = (a: string, b: string): number => ciede2000(labOf(a), labOf(b));
