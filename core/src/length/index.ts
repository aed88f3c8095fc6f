/** Lengths: what a piece comes out at, and ways to bring it to another. */
export {
  endsMm,
  finishedMm,
  insideMm,
  isThickAssumed,
  type Member,
  rowSpread,
  seriesOf,
  spreadOf,
  strandFor,
  strandOf,
  thickMm,
  USUAL_EASE,
} from "./finished.ts";
export { equalStrands, type Unequal } from "./equal.ts";
export { edited, extentOf, type Knob, lengthsIn } from "./knobs.ts";
export { candidatesFor, countedWays, knobsOf, type LengthsAsked, waysToLength } from "./ways.ts";
