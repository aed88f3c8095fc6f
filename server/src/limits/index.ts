/** What bytes that others made may be: told before they are read. */
export { beyondTable, MOST_DEPTH, MOST_OF_TABLE, sizeOfJson, sizeOfTable, type TableSize } from "./limits.ts";
