import type { BoxOverrule, Component, FitCheck } from "@jar-count/core/contract";
import { type AskedInBox, type BoxFinding, findingsOf, fittingInstead } from "@jar-count/core/fit";
import { expose } from "comlink";

/** A component by name, to be chosen. */
export interface Named {
  id: string;
  name: string;
}

let components: readonly Component[] = [];

/** Judging every design in every colourway takes longer than a frame. */
const work = {
  /** What there is to choose from: sent once, where something does not fit. */
  know(all: readonly Component[]) {
    components = all;
  },
  judge: (asked: readonly AskedInBox[], overrules: readonly BoxOverrule[]): BoxFinding[] =>
    findingsOf(asked, overrules),
  /** Components that would fit in the place of each that does not. */
  instead: (wrong: readonly { asked: AskedInBox; check: FitCheck }[]): Named[][] =>
    wrong.map(({ asked, check }) => fittingInstead(asked, check, components).map(({ id, name }) => ({ id, name }))),
};
export type BoxFitWorker = typeof work;

expose(work);
