/** Cost and price, in decimal arithmetic. */
export * from "./cost.ts";
export { priceOfPacks, worthOf } from "./offer.ts";
export { billAsCsv } from "./csv.ts";
