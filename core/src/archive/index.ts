/** A whole workshop as open files, out and in again. */
export { emptyArchive } from "./empty.ts";
export { beyondItsVersion, readArchive, summaryOf, writeArchive, type ArchiveFault, type Files } from "./archive.ts";
