/** Counting a design: how many, how long, how often through each hole, and what is wrong in it. */
export { count, countWhole, type Counting, type CountOptions, type MadeCut, type StrungPartOf } from "./count.ts";
export type { Colourway, Role } from "./roles.ts";
export { shareOut } from "./roles.ts";
export {
  alongStrand,
  apartMm,
  chainRun,
  childrenOf,
  type Place,
  type Placing,
  segmentsOf,
  type Strung,
  unitsOf,
} from "./strung.ts";
export { awaitsTarget, MAX_NUMBER, MAX_TOTAL, ofSize, type StrungPart } from "./walk.ts";
export { closingKeys } from "./closing.ts";
export { countKit, type Kit } from "./kit.ts";
export { lengthOrigins, onceABox, originsOf, type Origin } from "./origins.ts";
export { changesBetween, type Change } from "./compare.ts";
