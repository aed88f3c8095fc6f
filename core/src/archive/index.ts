/** A whole workshop as open files, out and in again. */
export { readArchive, summaryOf, writeArchive, type ArchiveFault, type Files } from "./archive.ts";
