import { type Design, DESIGN_VERSION, type DesignSummary } from "@jar-count/core/contract";

/** A design with one empty part, ready to be written. */
export const newDesign = (): Design => ({
  format: "jar-count/design",
  version: DESIGN_VERSION,
  name: "New design",
  sizes: null,
  options: null,
  key: [],
  parts: [{ id: "part-1", name: "Strand", makes: 1, steps: "" }],
  uses: null,
});

/** A design that the server has nothing of: of revision 0. */
export const unsaved = (id: string, design: Design = newDesign()): DesignSummary => ({
  id,
  name: design.name,
  revision: 0,
  savedAt: new Date().toISOString(),
  archived: false,
  components: [],
  lastUsed: null,
  design,
});
