/** Cost and price, in decimal arithmetic. */
export * from "./cost.ts";
