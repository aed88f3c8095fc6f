import type { CostBasis, CostStep, MoneyTerms, WorkStep } from "@jar-count/core/contract";

/** What a step of the cost is called. */
export const STEP_WORDS: Record<CostStep, string> = {
  material: "Material",
  spares: "To spare",
  contents: "Beside the designs",
  packaging: "Packaging",
  labour: "Work",
  postage: "Postage",
  fees: "Fees",
  overhead: "Overhead",
};

/** Whether the carrier whose prices enter the costs is the simulated one: its postage is made up. */
export const isPostageSimulated = ({ money }: { money: Pick<MoneyTerms, "carrier" | "zone"> }): boolean =>
  money.carrier === "" && money.zone !== "";

/** A step's name, with what is made up in it. */
export const stepName = (step: CostStep, terms: Parameters<typeof isPostageSimulated>[0]): string =>
  step === "postage" && isPostageSimulated(terms) ? "Postage (simulated)" : STEP_WORDS[step];

/** What a step of the work is called, and what it is counted in. */
export const WORK_WORDS: Record<WorkStep | "made", { name: string; unit: string }> = {
  count: { name: "Counting out", unit: "pieces" },
  weigh: { name: "Weighing out", unit: "weigh-outs" },
  cut: { name: "Cutting", unit: "cuts" },
  prepare: { name: "Ends of cord and ribbon", unit: "ends" },
  bag: { name: "Bags", unit: "bags" },
  label: { name: "Labels", unit: "labels" },
  "set-up": { name: "Setting up the run", unit: "once a run" },
  made: { name: "Made in the shop", unit: "made" },
};

export const BASIS_WORDS: Record<CostBasis, string> = {
  average: "average paid",
  last: "last paid",
  replacement: "bought new",
};

/** A share in per cent, to a whole one: 0.4 → `40 %`. */
export const sayPart = (part: number) => `${part < 0 ? "−" : ""}${Math.round(Math.abs(part) * 100)} %`;
