/** Pieces of wire, cord and chain: what can be cut from which. */
export { addCuts, cutFrom, howManyOf, type Stretch } from "./stretches.ts";
