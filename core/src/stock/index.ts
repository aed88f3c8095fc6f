/**
 * The stock ledger's arithmetic: what a move does to balances and values, and sharing what a delivery costs beside
 * its goods.
 */
export { shareCharge } from "./landed.ts";
export { movesOf, movesTo } from "./moves.ts";
export {
  post,
  spotKey,
  unfitFor,
  unitValue,
  type SpotBalance,
  type Move,
  type Moved,
  type Spot,
  type StockFault,
  type Total,
} from "./post.ts";
