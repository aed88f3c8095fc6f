import { makeBilling } from "@jar-count/core/bom";
import type { Component, WhatIfChange } from "@jar-count/core/contract";
import { type BoxSteps, stepsOf, type Tried, tried } from "@jar-count/core/price";
import { expose } from "comlink";
import { config } from "zod";

// The page may not make code out of text (content security policy), and nor may its workers.
config({ jitless: true });

/** What a try comes to, without its lines. */
export interface TriedCost {
  boxes: number;
  run: string;
  perBox: string | null;
  seconds: number;
  variants: { perBox: string | null; boxes: number; sold: BoxSteps["variants"][number]["sold"] }[];
  /** What is wrong in it, in words. */
  problems: string[];
}

let saved: Tried | null = null;
let known = new Map<string, Component>();
/** One bill a what-if: what did not change since it was tried last is not counted again. */
const billings = new Map<string, ReturnType<typeof makeBilling>>();

const brief = (steps: BoxSteps, problems: string[]): TriedCost => ({
  boxes: steps.boxes,
  run: steps.run,
  perBox: steps.perBox,
  seconds: steps.variants.reduce((sum, v) => sum + v.seconds, 0),
  variants: steps.variants.map(({ perBox, boxes, sold }) => ({ perBox, boxes, sold })),
  problems,
});

/** Reckons what would be, beside the page. */
const whatIf = {
  /** Takes over the box as it is saved, and the components that a try may name. */
  hold(of: Tried, components: readonly Component[]): void {
    saved = of;
    known = new Map(components.map((c) => [c.id, c]));
  },
  /** What the box costs with some changes: `id` says which what-if it is, so that the next try of it is quick. */
  reckon(id: string, changes: readonly WhatIfChange[]): TriedCost {
    const { detail, terms } = tried(saved!, changes, known);
    let billing = billings.get(id);
    if (!billing) billings.set(id, (billing = makeBilling()));
    const bill = billing(detail);
    return brief(stepsOf(detail, bill, terms), [...new Set(bill.problems.map((p) => p.message))]);
  },
};
export type WhatIfWorker = typeof whatIf;

expose(whatIf);
