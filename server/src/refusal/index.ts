/** How the server says no: in one shape, with a code, at the place that is wrong; and reading a body by its schema. */
export { readAs, readParams } from "./read.ts";
export { notFound, Refusal, stale, wrongAt } from "./refusal.ts";
