/** Tables in and out: components, offers, deliveries and counts as CSV, previewed row by row. */
export { guessMapping, INTAKE_COLUMNS, type IntakeColumn } from "./columns.ts";
export { mapped, readTable, tableOf, writeTable } from "./csv.ts";
export { type KnownSales, type SoldBox } from "./sales.ts";
export {
  intakeOf,
  type IntakeKnown,
  type IntakeRow,
  markOfTable,
  offerMeant,
  type Planned,
  type PlannedRow,
  seenOf,
} from "./plan.ts";
export { DECIMAL_MARKS, type DecimalMark } from "./read.ts";
