/** Things that many tests speak of, with as little about them as will do. Invented. */
import type { Component } from "../src/contract/index.ts";

/** An id that is easy to read. */
export const id = (n: number) => `6f1c2f2e-0000-4000-8000-${String(n).padStart(12, "0")}`;

/** Several of them, to be taken apart by name. */
export const ids = <N extends number[]>(...numbers: N) => numbers.map(id) as { [K in keyof N]: string };

/** A component of which nothing is known but what a test says. */
export const component = (n: number, c: Partial<Component> = {}): Component => ({
  id: id(n),
  version: 1,
  code: `C${n}`,
  name: `thing ${n}`,
  kind: "bead",
  colour: "#888888",
  finish: "matt",
  baseUnit: "piece",
  cautions: [],
  notes: "",
  offers: [],
  onHand: 0,
  u: 0,
  spokenFor: 0,
  onTheWay: 0,
  averageCost: null,
  lastCost: null,
  moved: true,
  ...c,
});
