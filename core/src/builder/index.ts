/**
 * Building by pointing: small, readable edits of a part's text for what was done to its beads, and of keys for the
 * whole design.
 */
export {
  beadsBetween,
  between,
  bySizeStretch,
  copyRow,
  describeStretch,
  fringeStretch,
  insertBeside,
  loopStretch,
  mirrorStretch,
  moveStretch,
  passStretch,
  removeStretch,
  repeatStretch,
  setCount,
  spacedStretch,
  type BeadAt,
  type Edited,
} from "./edit.ts";
export { isMirroredPair, keyUse, renameKey } from "./keys.ts";
export { lettersApart, type Mend, mendsOf, partCalled, wordMeant } from "./mend.ts";
