/** An archive as bytes: packed and sealed, and opened again only if it is whole. No database, so that threads do it. */
export { openArchive, packArchive, type Opened, type Unfit, type Whole } from "./pack.ts";
