/** How ends, links and knots are made: what each method brings, and what it asks of what is there. */
export {
  cautionsOf,
  type ChosenMethod,
  definitionsIn,
  holds,
  lengthOf,
  type MeasureOf,
  methodsOf,
  minutesOf,
  namedBy,
  toolsOf,
} from "./chosen.ts";
export {
  type Brought,
  type Choice,
  chooseMethod,
  dropMethod,
  hangsBy,
  isSameThing,
  linesOf,
  mayBeInRows,
  type PartLine,
  roleFor,
} from "./choose.ts";
export { SHIPPED } from "./shipped.ts";
