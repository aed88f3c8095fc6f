/** A run of boxes: its frozen bill, what covers it, and the lists that are made from it. */
export { boxBill, totalsOfBill } from "./freeze.ts";
export { amountOf, cover, type Covered, type Line, type NeedOf, needsOfBill } from "./cover.ts";
export {
  cautionWords,
  type Contents,
  type ContentsItem,
  contentsOf,
  contentsText,
  DEFER,
  type KeyCard,
  sayHowMuch,
  sayMakes,
  sayTaken,
} from "./contents.ts";
