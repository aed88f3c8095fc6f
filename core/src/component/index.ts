/** Components: their forms and the fields that fit them, mass, packs in other units, and finding them. */
export { colourSaid } from "./called.ts";
export { colourWord, COLOUR_WORDS, type ColourWord } from "./colour.ts";
export { colourDifference, nearestColour } from "./difference.ts";
export { convert, type Amount } from "./convert.ts";
export { CAUTION_WORDS, filledIn, FORM_KNOWN, formsOf, type FormField } from "./forms.ts";
export { DENSITY, pieceMass, volumeMm3, type PieceMass } from "./mass.ts";
export { freeOf, isLow, isShort, SEARCH_NUMBERS, SEARCH_STATES, searchOf, wordsOf } from "./search.ts";
export { inputOf } from "./input.ts";
export {
  choicesFor,
  type Choices,
  codeOf,
  type Fit,
  fitOf,
  newComponent,
  oddOf,
  type Wanted,
  wantedOf,
} from "./fit.ts";
export { agrees, assumedAlong, formSaid, type Said, understand } from "./said.ts";
export { replacementCost, unitCost } from "./price.ts";
