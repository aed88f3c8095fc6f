import { type Assumed, FIT_RULES, type FitCheck, type Unchecked } from "../contract/index.ts";
import type { Colourway, Counting } from "../count/index.ts";
import { checkBody } from "./body.ts";
import { Finder } from "./finder.ts";
import { checkCones, checkLacks, checkPins, checkRings } from "./findings.ts";
import { checkCrimps, checkHoles } from "./holes.ts";
import {
  checkAlike,
  checkCuts,
  checkDrops,
  checkLinks,
  checkMagnets,
  checkPairs,
  checkSlips,
  checkStrength,
} from "./strand.ts";

export interface FitFound {
  /** Every comparison that could be made, by rule; what fails comes first. */
  checks: FitCheck[];
  /** What could not be checked, since a measure is missing. */
  unchecked: Unchecked[];
  /** What was looked at and nobody measured. */
  assumed: Assumed[];
}

const OF_A_PART = [
  checkHoles,
  checkCrimps,
  checkPins,
  checkRings,
  checkCones,
  checkSlips,
  checkCuts,
  checkLinks,
  checkDrops,
  checkAlike,
  checkStrength,
  checkLacks,
];

/**
 * Judges one counted design: does what goes through it pass, does what holds it hold? Reads the count's one walk, and
 * marks what nobody measured. What each rule compares, its units and sources: docs/fit.md.
 * @param components what a colourway puts in place of the roles' own measures, as it was counted with
 */
export function checkFit(counting: Counting, components: Colourway | null = null): FitFound {
  const finder = new Finder(counting, components);
  for (const part of finder.parts) for (const check of OF_A_PART) check(finder, part);
  checkBody(finder);
  checkPairs(finder);
  checkMagnets(finder);
  const order = { fail: 0, warn: 1, fine: 2 };
  const checks = finder.checks.sort(
    (a, b) => order[a.level] - order[b.level] || FIT_RULES.indexOf(a.rule) - FIT_RULES.indexOf(b.rule),
  );
  return { checks, unchecked: finder.unchecked, assumed: [...finder.assumed.values()] };
}

/** A measure that is missing, and how many checks wait for it alone. */
export interface ToMeasure {
  key: string;
  missing: string;
  checks: number;
}

/** The one or two measures that would allow most of the checks that could not be made. */
export function firstToMeasure(unchecked: readonly Unchecked[]): ToMeasure[] {
  const waiting = new Map<string, ToMeasure>();
  for (const { key, missing } of unchecked) {
    const known = waiting.get(`${key} ${missing}`) ?? { key, missing, checks: 0 };
    waiting.set(`${key} ${missing}`, { ...known, checks: known.checks + 1 });
  }
  return [...waiting.values()].sort((a, b) => b.checks - a.checks).slice(0, 2);
}
