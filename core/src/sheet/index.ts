/** The maker's sheet: rows in sentences, level and minutes, and all that stands on it. */
export { sentencesOf } from "./sentences.ts";
