/** How many to make: what may be asked for, what one too many and one too few cost, and how colourways share it. */
export {
  type Demand,
  empirical,
  meanOf,
  negativeBinomial,
  normalCdf,
  normalDemand,
  type PastMonth,
  threePoint,
} from "./distribution.ts";
export { type Fitted, fitNormal, sizeOf } from "./fit.ts";
export { bestNumber, howMany, type Outcome, outcomeOf, profitCurve, reserveFor, type Stakes } from "./newsvendor.ts";
export { demandOf, makeBinomial, resample, type Resampled, SHAPES_OF_DEMAND, type ShapeOfDemand } from "./resample.ts";
export { boxesByShare, type PastShares, type Share, sharesOf, weightOfPast } from "./shares.ts";
