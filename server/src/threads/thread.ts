/** What a server thread does: heavy work of our own that needs no database, by typed calls. */
import { billOf } from "@jar-count/core/bom";
import { buyList, choosePacks } from "@jar-count/core/buy";
import type {
  BoxBill,
  BoxDetail,
  CostAnswer,
  CountAnswer,
  CountRequest,
  Design,
  FitAnswer,
  FitCheck,
  FitRequest,
  LengthsAnswer,
  LengthsRequest,
  SentencesAnswer,
  SentencesRequest,
  Shares,
} from "@jar-count/core/contract";
import { billAsCsv, coinPlaces, costOf } from "@jar-count/core/cost";
import { sharingFor } from "@jar-count/core/ahead";
import { count, countKit, countWhole } from "@jar-count/core/count";
import { howMany } from "@jar-count/core/demand";
import { checkFit } from "@jar-count/core/fit";
import { waysToLength } from "@jar-count/core/length";
import { frozenCosts, stepsOf, type Terms } from "@jar-count/core/price";
import { boxBill } from "@jar-count/core/run";
import { sentencesOf } from "@jar-count/core/sheet";
import { waysOut } from "@jar-count/core/ways";
import { expose } from "comlink";
import nodeEndpoint from "comlink/dist/esm/node-adapter.mjs";
import { parentPort } from "node:worker_threads";
import type { z } from "zod";
import { packArchive } from "../archive/index.ts";
import { contentsSheet } from "../labels/contents.ts";
import { makerSheet } from "../labels/maker.ts";
import { orderSheet } from "../labels/order.ts";
import { packLabelSheet } from "../labels/packing.ts";
import { labelSheet } from "../labels/sheet.ts";

/** A size and an option that the design has: the first where none is said. */
const choiceOf = (design: Design, size: string | null | undefined, option: string | null | undefined) => ({
  size: size ?? design.sizes?.[0]?.key ?? null,
  option: option ?? design.options?.[0]?.key ?? null,
});

const work = {
  ready: () => true,
  /** A box's bill of materials with its cost, as CSV. */
  bill(detail: BoxDetail, shares: Shares, packBy: string, { currency, money }: Omit<Terms, "bands">): string {
    const { id, month } = detail.box;
    const bill = billOf(detail, sharingFor(shares, { id, packBy, month }));
    return billAsCsv(detail, bill, costOf(bill, coinPlaces(currency), money.basis));
  },
  /** What a box's run takes of each component. */
  totals(detail: BoxDetail) {
    return billOf(detail).totals.map(({ component, run, cuts }) => ({ component: component.id, run, cuts }));
  },
  /** A box's bill with all that lists are made from. */
  boxBill: (detail: BoxDetail): BoxBill => boxBill(detail, billOf(detail)),
  /** The same, and what is wrong in the box: a bill with something wrong in it is not frozen. */
  billToFreeze(detail: BoxDetail, terms: Terms): { bill: BoxBill; problems: string[] } {
    const bill = billOf(detail);
    const costs = frozenCosts(detail, stepsOf(detail, bill, terms), terms);
    return { bill: { ...boxBill(detail, bill), costs }, problems: bill.problems.map((p) => p.message) };
  },
  /** What one box of each variant costs, by steps. */
  cost(detail: BoxDetail, terms: Terms): CostAnswer {
    const { variants } = stepsOf(detail, billOf(detail), terms);
    return {
      variants: variants.map(({ first, second, steps, perBox }) => ({
        first,
        second,
        steps: steps.map((s) => ({ step: s.step, cost: s.perBox })),
        cost: perBox,
      })),
    };
  },
  contentsSheet,
  buyList,
  choosePacks,
  howMany,
  orderSheet,
  packLabelSheet,
  /** Sheets of jar labels as PDF. */
  labelSheet,
  /** One finished item of a design, counted; and what a kit must hold, where that is asked. */
  count({ design, size, option, components, kit }: z.output<typeof CountRequest>): CountAnswer {
    const colourway = components ?? null;
    const answer = count(design, { size: size ?? null, option: option ?? null, colourway });
    if (!kit) return answer;
    const { counts, perKit, pieces, lengthsMm } = countKit(design, null, null, colourway);
    return { ...answer, kit: { counts, perKit, pieces, lengthsMm } };
  },
  /** Whether one finished item fits, with ways out of what does not. */
  fit({ design, size, option, components }: z.output<typeof FitRequest>): z.input<typeof FitAnswer> {
    const asked = { ...choiceOf(design, size, option), colourway: components ?? null };
    const { checks, unchecked, assumed } = checkFit(countWhole(design, asked), asked.colourway);
    const ways = (check: FitCheck) => (check.level === "fine" ? [] : waysOut(design, asked, check));
    return { checks: checks.map((check) => ({ ...check, ways: ways(check) })), unchecked, assumed };
  },
  lengths({ design, part, size, option, targetMm }: z.output<typeof LengthsRequest>): z.input<typeof LengthsAnswer> {
    return { ways: waysToLength(design, { ...choiceOf(design, size, option), part, targetMm }) };
  },
  sentences({ design, part, level, size }: z.output<typeof SentencesRequest>): z.input<typeof SentencesAnswer> {
    return {
      rows: sentencesOf(
        design,
        design.parts.find((p) => p.id === part)!,
        level,
        size ?? null,
      ),
    };
  },
  makerSheet,
  packArchive,
};
export type ThreadWork = typeof work;

if (parentPort) expose(work, nodeEndpoint(parentPort));
