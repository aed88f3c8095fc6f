/**
 * What the wire, the forms and the files have in common: Zod schemas with the types made from them, one file a subject,
 * and in `api.ts` the one table of the server's routes.
 */
export * from "./kinds.ts";
export * from "./values.ts";
export * from "./design.ts";
export * from "./count.ts";
export * from "./method.ts";
export * from "./fit.ts";
export * from "./library.ts";
export * from "./component.ts";
export * from "./spare.ts";
export * from "./ledger.ts";
export * from "./reservation.ts";
export * from "./jar.ts";
export * from "./intake.ts";
export * from "./label.ts";
export * from "./order.ts";
export * from "./stocktake.ts";
export * from "./workshop.ts";
export * from "./money.ts";
export * from "./sale.ts";
export * from "./box.ts";
export * from "./ahead.ts";
export * from "./run.ts";
export * from "./buy.ts";
export * from "./pack.ts";
export * from "./archive.ts";
export * from "./problems.ts";
export * from "./problem.ts";
export * from "./text.ts";
export * from "./routes.ts";
export * from "./api.ts";
export { plainMessage } from "./messages.ts";
