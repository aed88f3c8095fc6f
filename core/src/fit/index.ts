/** Whether a design fits: what goes through what, what holds what, and the ways out where it does not. */
export { checkFit, firstToMeasure, type FitFound, type ToMeasure } from "./check.ts";
export { long as sayLong, mm as sayMm } from "./finder.ts";
export { neighboursIn } from "./neighbours.ts";
export { judgeAgain, letStand, overruleAmong, overruleOf, overrulesIn } from "./overrules.ts";
export { bundleMm, PACKED } from "./packing.ts";
export { askedOfBox, type AskedInBox, type BoxFinding, findingsOf, fittingInstead, judgeInBox } from "./inBox.ts";
