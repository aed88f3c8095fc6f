/** Packing a committed box: what to pick and cut, what packed boxes have used, how far it is, what a bag weighs. */
export { bagItems } from "./bags.ts";
export {
  assignLots,
  cutList,
  type CutRow,
  type Picked,
  pickList,
  type PickRow,
  piecesOf,
  type PieceRow,
} from "./pick.ts";
export { packableNow, progressOf, settled, type SettledRow, type VariantProgress } from "./progress.ts";
export { boxesOf, dueAfter, isWhole, packedOf, shortId, stillOpen, takenNext } from "./use.ts";
