/** Backups: made, proved in a scratch database, kept by a rule; and archives put in the place of everything. */
export { backUp, backUpBeforeMigration, type Keeper, LONG_WORK } from "./backup.ts";
export { dropParts } from "./folder.ts";
export { dropOldScratches } from "./scratch.ts";
export { undump } from "./dump.ts";
export { replaceWorkshop } from "./replace.ts";
