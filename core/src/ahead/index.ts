/** Stock ahead: who wants what by which day, what is left for whom, and the day on which something runs out. */
export { aheadOf } from "./ahead.ts";
export { inOrder, packByOf } from "./order.ts";
export { groupBy, sharingFor, sharingNow, without } from "./left.ts";
export { piecesOf, pieceShelf, shelfOf, sumShelf } from "./shelf.ts";
