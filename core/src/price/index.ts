/** What a packed box costs, what to ask for it, and what would be if something were otherwise. */
export { type Happened, lookBack, wrongMost, type WrongPlan } from "./lookBack.ts";
export { type OffByOne, offByOne, paidForBy } from "./stakes.ts";
export { type Parcel, parcelOf } from "./parcel.ts";
export { type Missed, type Posted, postageFor } from "./postage.ts";
export {
  atPrice,
  breakEven,
  eatenAt,
  type Eaten,
  endingUp,
  ordersOf,
  type OrderStep,
  priceFor,
  selling,
} from "./price.ts";
export {
  type BoxSteps,
  type Dearer,
  dearerThan,
  frozenCosts,
  type StepLine,
  stepsOf,
  type Terms,
  type VariantSteps,
} from "./steps.ts";
export {
  AT_THE_BENCH,
  measuredRates,
  PAUSE_SECONDS,
  secondsFor,
  type Timed,
  type Work,
  workOfBilled,
  workOfBox,
} from "./work.ts";
export { boughtBy, changedBox, isOfBox, shareBoxes, type Tried, tried } from "./whatIf.ts";
