/** Strand shorthand: reading the notation in which designs are written. */
export { formatPattern } from "./format.ts";
export { parsePattern, MAX_TEXT, MAX_DEPTH } from "./parse.ts";
export { parser as strandParser } from "./parser.ts";
export { keyFault, placeOf, RESERVED } from "./syntax.ts";
export type * from "./syntax.ts";
