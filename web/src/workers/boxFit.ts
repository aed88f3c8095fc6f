import type { BoxOverrule, Component } from "@jar-count/core/contract";
import { type AskedInBox, type BoxFinding, findingsOf, fittingInstead } from "@jar-count/core/fit";
import { expose } from "comlink";

/** One finding in a box, and the components that would fit in its place. */
export interface FoundInBox extends BoxFinding {
  instead: { id: string; name: string }[];
}

let components: readonly Component[] = [];

/** Judging every design in every colourway takes longer than a frame. */
const work = {
  /** What there is to choose from: sent once, and not with each change of the box. */
  know(all: readonly Component[]) {
    components = all;
  },
  judge(asked: readonly AskedInBox[], overrules: readonly BoxOverrule[]): FoundInBox[] {
    return findingsOf(asked, overrules).map((finding) => {
      const { check, asked: places, stands } = finding;
      const instead = stands.some((s) => s) ? [] : fittingInstead(asked[places[0]!]!, check, components);
      return { ...finding, instead: instead.map(({ id, name }) => ({ id, name })) };
    });
  },
};
export type BoxFitWorker = typeof work;

expose(work);
