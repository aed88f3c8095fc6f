/** Two people changed the same record: what does not clash is merged. */
export { type Clash, mergeRecords } from "./merge.ts";
