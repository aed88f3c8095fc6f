/** What the wire, the forms and the files have in common: Zod schemas and the types made from them. */
export * from "./design.ts";
export * from "./stock.ts";
export * from "./box.ts";
export * from "./archive.ts";
export { plainMessage } from "./messages.ts";
