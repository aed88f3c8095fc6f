/** What one line of a scale says. */
export interface Reading {
  grams: number;
  stable: boolean;
  /** Over what the scale can weigh. */
  overload: boolean;
}

/** 1 oz = 28.349523125 g exactly (international avoirdupois pound, 1959); 1 ct = 0.2 g (metric carat, 1907). */
const GRAMS: Record<string, number> = { g: 1, kg: 1000, mg: 0.001, oz: 28.349523125, lb: 453.59237, ct: 0.2 };

const UNSTABLE = /(^|[\s,;])(US|SD|D|UNSTABLE|DYN|M)(?=[\s,;+-]|$)|\?|\*/i;
const OVER = /(^|[\s,;])(OL|OVER|OVERLOAD|ERR|E-?\d+)(?=[\s,;]|$)|^\s*[-^]{3,}\s*$/i;
const NUMBER = /([+-]?)\s*(\d+(?:[.,]\d+)?)\s*(kg|mg|g|oz|lb|ct)?\b/i;

/**
 * Reads a plain-text weighing line: a number with or without a unit, and marks for moving and too heavy as scales
 * commonly send them; unmarked is at rest. `pattern` is for a scale that writes otherwise: a regular expression with
 * the named groups `value`, and if it has them `unit`, `unstable`, `overload`.
 * @returns null for a line that is no weighing
 */
export function readWeighing(
  line: string,
  { pattern = null, unit = "g" }: { pattern?: string | null; unit?: string } = {},
): Reading | null {
  if (pattern) return byPattern(line, pattern, unit);
  if (OVER.test(line)) return { grams: 0, stable: false, overload: true };
  const found = NUMBER.exec(line);
  if (!found) return null;
  const grams = inGrams(found[2]!, found[1] === "-", found[3] ?? unit);
  if (grams === null) return null;
  const marks = line.replace(NUMBER, " ");
  return { grams, stable: !UNSTABLE.test(marks), overload: false };
}

function byPattern(line: string, pattern: string, unit: string): Reading | null {
  const groups = compile(pattern)?.exec(line)?.groups;
  if (!groups) return null;
  if (groups.overload) return { grams: 0, stable: false, overload: true };
  const value = /^\s*([+-]?)\s*(\d+(?:[.,]\d+)?)\s*$/.exec(groups.value ?? "");
  const grams = value && inGrams(value[2]!, value[1] === "-", groups.unit || unit);
  return grams == null ? null : { grams, stable: !groups.unstable, overload: false };
}

/** The pattern as a regular expression, or null if it is none. */
export function compile(pattern: string): RegExp | null {
  try {
    return new RegExp(pattern);
  } catch {
    return null;
  }
}

function inGrams(digits: string, negative: boolean, unit: string): number | null {
  const per = GRAMS[unit.toLowerCase()];
  if (per === undefined) return null;
  const n = Number(digits.replace(",", ".")) * per;
  return negative ? -n : n;
}
