/** Lengths and gauges: what people write, what files keep (millimetres) and what screens show; and how finely. */
export {
  gaugeMm,
  inUnit,
  MM_PER_INCH,
  plainNumber,
  readLength,
  sayCut,
  sayLength,
  sayRun,
  sayNear,
  sayTyped,
  type LengthUnit,
} from "./length.ts";
export { digestOf } from "./digest.ts";
export {
  COVERAGE_95,
  exact,
  expanded,
  inEqualParts,
  inSteps,
  isInSteps,
  MOST_IN_ALL,
  timesInto,
  timesToCover,
  toMicrometre,
  upInSteps,
} from "./precision.ts";
