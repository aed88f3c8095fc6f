import { BESIDE } from "../bom/index.ts";
import { type BoxBill, type Component, type MoneyTerms, TRADE_RATES, type WorkStep } from "../contract/index.ts";

/** So much of one kind of work on one box: how many of it. */
export interface Work {
  step: Exclude<WorkStep, "set-up">;
  many: number;
}

/** What of a need says how much work it is: of a bill at hand, or of a frozen one. */
interface Worked {
  component: Pick<Component, "kind" | "form" | "baseUnit">;
  piecesPerBox: number | null;
  pieces: readonly { count: number }[];
  bags: readonly { of: string; counted: number; more: number }[];
  beside: readonly { pack: string | null; packs: number; perBox: number }[];
}

const ENDS = new Set(["cord", "ribbon"]);

/**
 * The work on one box: pieces counted by hand, weigh-outs, cuts, ends of cord or ribbon that are burnt or glued (two a
 * cut), bags that are filled, and labels (one a bag, one for the box). Packaging is not counted out.
 */
export function workOfBox({ needs }: { needs: readonly Worked[] }): Work[] {
  const many: Record<Work["step"], number> = { count: 0, weigh: 0, cut: 0, prepare: 0, bag: 0, label: 0 };
  const bags = new Set<string>();
  let bagged = 0;
  for (const { component, piecesPerBox, pieces, bags: of, beside } of needs) {
    if (component.kind === "packaging") {
      if (component.form === "bag") bagged += piecesPerBox ?? 0;
      continue;
    }
    for (const bag of of) if (bag.of !== BESIDE) bags.add(bag.of);
    if (component.baseUnit === "g") many.weigh += of.length - (packsOf(beside) > 0 ? 1 : 0);
    else if (component.baseUnit === "mm") {
      const cuts = pieces.reduce((n, p) => n + p.count, 0) - packsOf(beside);
      many.cut += cuts;
      if (ENDS.has(component.form ?? "")) many.prepare += 2 * cuts;
    } else {
      const packed = beside.reduce((n, b) => n + (b.pack === null ? 0 : b.perBox - b.packs), 0);
      many.count += of.reduce((n, bag) => n + bag.counted + bag.more, 0) - packed;
    }
  }
  // Where bags are listed, each of them is filled; else each design's share is put into one.
  many.bag = bagged > 0 ? bagged : bags.size;
  many.label = many.bag > 0 ? many.bag + 1 : 0;
  return (Object.keys(many) as Work["step"][]).map((step) => ({ step, many: many[step] })).filter((w) => w.many > 0);
}

/** The same by a frozen bill. */
export function workOfBilled({ components }: BoxBill, { lines }: BoxBill["variants"][number]): Work[] {
  const byId = new Map(components.map((c) => [c.id, c]));
  return workOfBox({
    needs: lines.map((line) => ({ ...line, component: byId.get(line.component)!, beside: line.packs })),
  });
}

/** Whole spools and strands need no cut. */
const packsOf = (beside: readonly { pack: string | null; packs: number }[]) =>
  beside.reduce((n, b) => n + (b.pack === null ? 0 : b.packs), 0);

/** Seconds for one of a step: the workshop's rate, else the trade's. */
export const secondsFor = (rates: MoneyTerms["rates"], step: WorkStep): number =>
  (rates.find((r) => r.step === step) ?? TRADE_RATES.find((r) => r.step === step)!).seconds;

/** Steps that are done at the packing bench, box by box, so that its times say something of them. */
export const AT_THE_BENCH: readonly WorkStep[] = ["count", "weigh", "bag", "label"];

/** A longer wait between two boxes is a pause, s. */
export const PAUSE_SECONDS = 1800;

/** One box's packing as it was timed, and what it was made of. */
export interface Timed {
  seconds: number;
  work: readonly Work[];
}

/**
 * Rates as the bench's own times say them: all that is done there is quicker or slower by the same factor, the time
 * that was taken ÷ the time that the rates in use say, over all boxes. A time is of a whole box, so it can't say more.
 * @returns null where no box was timed
 */
export function measuredRates(timed: readonly Timed[], rates: MoneyTerms["rates"]) {
  const planned = timed.map(({ work }) =>
    work.reduce((sum, w) => sum + (AT_THE_BENCH.includes(w.step) ? w.many * secondsFor(rates, w.step) : 0), 0),
  );
  const inAll = planned.reduce((a, b) => a + b, 0);
  if (timed.length === 0 || inAll === 0) return null;
  const taken = timed.reduce((sum, t) => sum + t.seconds, 0);
  const factor = taken / inAll;
  const off = timed.reduce((sum, t, i) => sum + (t.seconds - factor * planned[i]!) ** 2, 0);
  const spread = timed.length > 1 ? Math.sqrt(off / (timed.length - 1)) : 0;
  const mean = taken / timed.length;
  return {
    boxes: timed.length,
    seconds: mean,
    planned: inAll / timed.length,
    spread,
    rates: AT_THE_BENCH.map((step) => {
      const seconds = round(secondsFor(rates, step) * factor);
      return { step, seconds, spread: round((spread / mean) * seconds), n: timed.length, from: "measured" as const };
    }),
  };
}

const round = (seconds: number) => Math.round(seconds * 100) / 100;
