/**
 * How finely amounts are kept: whole thousandths of a piece or gram, whole ten-thousandths of a millimetre (so that
 * 1/16 in is exact). Anything finer is refused where it comes in, and nothing behind that rounds: sums, differences and
 * products of such numbers are brought back onto the steps only to shed the dust of binary floats.
 */
const STEPS = { piece: 1000, g: 1000, mm: 10_000 };
const FINEST = STEPS.mm;

/**
 * The most of anything that there can be in all: fifteen digits with four behind the point, which a binary float holds
 * as they are written.
 */
export const MOST_IN_ALL = 100_000_000_000;

/** A sum, difference or product of amounts without the dust of binary floats: whole ten-thousandths. */
export const exact = (n: number): number => Math.round(n * FINEST) / FINEST || 0;

/** A size, mm, as finely as a catalogue says it. */
export const toMicrometre = (mm: number): number => Math.round(mm * 1000) / 1000;

/** A new amount on the steps of its unit, to the nearest: for what is measured or converted, never for what is kept. */
export const inSteps = (n: number, unit: keyof typeof STEPS): number => Math.round(n * STEPS[unit]) / STEPS[unit] || 0;

/** The same upwards: never a hair short for a rounding. A millionth is the dust of binary floats and let go. */
export const upInSteps = (n: number, unit: keyof typeof STEPS): number =>
  Math.ceil(n * STEPS[unit] * (1 - 4e-16) - 1e-6) / STEPS[unit] || 0;

/** Whether a number is on the steps of a unit, but for the dust of binary floats. */
export const isInSteps = (n: number, unit: keyof typeof STEPS): boolean =>
  Math.abs(n - inSteps(n, unit)) <= 1e-12 * Math.max(1, Math.abs(n));

/** How often a length goes into another: whole times, and exactly. */
export const timesInto = (long: number, short: number): number =>
  Math.floor(Math.round(long * FINEST) / Math.round(short * FINEST));

/** How many of a length come to at least another one, exactly. */
export const timesToCover = (long: number, short: number): number =>
  Math.ceil(Math.round(long * FINEST) / Math.round(short * FINEST));

/**
 * An amount in so many equal parts: those that do not go up evenly differ by one step, a ten-thousandth, and together
 * they are the amount.
 * @param parts a whole number of at least 1
 */
export function inEqualParts(n: number, parts: number): { each: number; count: number }[] {
  const steps = Math.round(n * FINEST);
  const least = Math.floor(steps / parts);
  const longer = steps - least * parts;
  return [
    { each: least / FINEST, count: parts - longer },
    { each: (least + 1) / FINEST, count: longer },
  ].filter(({ count }) => count > 0);
}

/** Coverage factor of a 95 % interval for a normal distribution (JCGM 100:2008, table G.1). */
export const COVERAGE_95 = 1.96;

/** Half the width of the 95 % interval of a value with this standard uncertainty. */
export const expanded = (u: number): number => COVERAGE_95 * u;
