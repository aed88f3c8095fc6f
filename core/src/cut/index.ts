/** Pieces of wire, cord and chain: what can be cut from which. */
export { addCuts, cutFrom, howManyOf, type Stretch, sumOf } from "./stretches.ts";
export { measuredCut, measuredCuts, RULER_STEP } from "./measured.ts";
export { planCuts, type CutStep, type PiecesAt } from "./plan.ts";
