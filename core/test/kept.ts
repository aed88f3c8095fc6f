import { readdirSync, readFileSync } from "node:fs";
import { Archive, Design } from "../src/contract/index.ts";

/** A design and what it is called in a test's name. */
export interface Kept {
  name: string;
  design: Design;
}

const read = (folder: URL) =>
  readdirSync(folder).map((file) => JSON.parse(readFileSync(new URL(file, folder), "utf8")) as unknown);

/** The worked designs. */
export const EXAMPLES: Kept[] = read(new URL("./examples/", import.meta.url)).map((example) => {
  const design = Design.parse((example as { design: unknown }).design);
  return { name: design.name, design };
});

const demo: Kept[] = read(new URL("../../demo/designs/", import.meta.url)).map((file) => {
  const { design } = Archive.shape.designs.element.parse(file).revisions.at(-1)!;
  return { name: design.name, design };
});

/** Demo designs that fail the checks on purpose, to show them. */
export const SAMPLERS = demo.filter(({ name }) => name.startsWith("Sampler"));
export const DEMO = demo.filter((d) => !SAMPLERS.includes(d));
