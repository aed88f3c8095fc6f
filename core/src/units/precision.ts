/**
 * Amounts of stock (mm, g, pieces) are kept to 3 places: a micrometre or a milligram is finer than anybody measures,
 * and sums of what was typed stay free of binary dust.
 */
export const toThousandth = (n: number): number => Math.round(n * 1000) / 1000 || 0;

/** Coverage factor of a 95 % interval for a normal distribution (JCGM 100:2008, table G.1). */
export const COVERAGE_95 = 1.96;

/** Half the width of the 95 % interval of a value with this standard uncertainty. */
export const expanded = (u: number): number => COVERAGE_95 * u;
