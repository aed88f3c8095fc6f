import type { Design } from "../src/contract/index.ts";
import { Design as Contract } from "../src/contract/index.ts";
import { count, type CountOptions } from "../src/count/index.ts";

type Rough = Partial<Omit<Design, "parts" | "key">> & { key?: object[]; parts?: object[] };

/**
 * Beads with easy lengths: A 2, B 3, C 5, s 1.4 mm; W 4 mm with two holes; D hangs by a jump ring; TH thread, CH chain
 * of 4 mm links.
 */
export const KEY = [
  { key: "A", name: "A", kind: "bead", alongMm: 2 },
  { key: "B", name: "B", kind: "bead", alongMm: 3 },
  { key: "C", name: "C", kind: "bead", alongMm: 5 },
  { key: "W", name: "wedge", kind: "bead", alongMm: 4, holes: 2 },
  { key: "s", name: "seed", kind: "bead", alongMm: 1.4 },
  { key: "D", name: "drop", kind: "focal", alongMm: 4, hangsBy: [{ key: "JR", count: 1 }] },
  { key: "JR", name: "jump ring", kind: "finding" },
  { key: "TH", name: "thread", kind: "stringing" },
  { key: "CH", name: "chain", kind: "stringing", linkMm: 4, lossLinks: 1 },
];

export const design = ({ key = KEY, parts = [], ...rest }: Rough): Design =>
  Contract.parse({ format: "jar-count/design", version: 2, name: "Test", key, parts, ...rest });

/** A design of one part with these rows. */
export const written = (steps: string, part: object = {}, rest: Rough = {}): Design =>
  design({ ...rest, parts: [{ id: "p", name: "P", steps, ...part }] });

export const counted = (steps: string, part: object = {}, rest: Rough = {}, options: CountOptions = {}) =>
  count(written(steps, part, rest), options);
