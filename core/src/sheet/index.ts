/** The maker's sheet: rows in sentences, level and minutes, and all that stands on it. */
export { type Judged, levelOf, levelOfDesign, type Reason } from "./level.ts";
export { madeOf } from "./made.ts";
export { type Minutes, minutesFor, sayMinutes } from "./minutes.ts";
export { type RowPicture, rowPicturesOf } from "./rowPictures.ts";
export { sentencesOf } from "./sentences.ts";
export { type MakersSheet, revisionOf, sheetFor, type SheetAsked, sheetOfDesign, type SheetPart } from "./sheet.ts";
