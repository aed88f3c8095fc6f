/** What the wire, the forms and the files have in common: Zod schemas and the types made from them. */
export * from "./design.ts";
