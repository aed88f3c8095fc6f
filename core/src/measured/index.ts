/** Roles with the measures that hold, what is assumed of them marked, and what kind of finding they are. */
export * from "./measured.ts";
