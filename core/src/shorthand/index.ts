/** Strand shorthand: reading the notation in which designs are written. */
export { formatPattern } from "./format.ts";
export { keysIn, type NamedKey } from "./keys.ts";
export { parsePattern, MAX_TEXT, MAX_DEPTH } from "./parse.ts";
export { everyStep, keyFault, NEW_WORDS, ownPicksOf, placeOf, RESERVED, sequencesOf, unreachable } from "./syntax.ts";
export { strandParser } from "./tree.ts";
export type * from "./syntax.ts";
export { type Construct, CONSTRUCTS, constructOf, type ExampleKeys, findConstructs } from "./constructs.ts";
