/** Buying: which packs cover a need for the least money, what boxes lack, and orders as letters to suppliers. */
export { choosePacks, type PackChoice, type PackOffer } from "./packs.ts";
export {
  amountOfPacks,
  buyLine,
  type Buying,
  buyList,
  isLate,
  lacksOf,
  lastDayOf,
  type Offered,
  packAmount,
  packsFor,
  piecesOfPacks,
} from "./list.ts";
export { letterRows, letterTotal, orderCsv, orderText, type Letter } from "./letter.ts";
