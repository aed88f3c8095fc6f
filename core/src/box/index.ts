/** What is saved of a box: the changes between two states of it, and a state with changes made to it. */
export { applyChanges, changesOf, EMPTY_BOX, hasChanges } from "./changes.ts";
