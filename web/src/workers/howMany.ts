import {
  bestNumber,
  boxesByShare,
  type Demand,
  demandOf,
  type Outcome,
  outcomeOf,
  type PastMonth,
  profitCurve,
  resample,
  type Resampled,
  reserveFor,
  type ShapeOfDemand,
  type Share,
  type Stakes,
  threePoint,
} from "@jar-count/core/demand";
import { expose } from "comlink";

/** All that the number to make follows from. */
export interface Asked {
  shape: ShapeOfDemand;
  months: readonly PastMonth[];
  guess: { least: number; likely: number; most: number };
  stakes: Stakes;
  presold: number;
  shares: readonly Share[];
  /** How many sales the past's shares are worth. */
  weight: number;
  claims: number;
  /** A number that a person would rather make; null: the best. */
  instead: number | null;
}

export interface Found {
  best: number;
  make: number;
  reserve: number;
  outcome: Outcome;
  profit: number;
  curve: { n: number; profit: number; sellOut: number }[];
  colourways: { make: number; chanceToSellOut: number; expectedLeft: number; expectedShort: number }[];
  resampled: Resampled;
}

/** So often is a month played over. */
const TIMES = 10_000;
const SEED = 20_270_401;

const demand = ({ shape, months, guess }: Asked): Demand =>
  shape === "three-point" ? threePoint(guess.least, guess.likely, guess.most) : demandOf(months, shape);

const work = {
  /** How many to make, what that comes to, and what every other number would. */
  find(asked: Asked): Found {
    const { stakes, presold, shares, months, shape } = asked;
    const of = demand(asked);
    const best = Math.max(presold, bestNumber(of, stakes));
    const make = asked.instead ?? best;
    const byShare = boxesByShare(make, shares);
    // A little beyond what anybody asked for, so that one sees where it goes down.
    const most = Math.max(
      make,
      of.p.findLastIndex((p) => p > 1e-3),
      ...months.map((m) => m.sold),
    );
    const upTo = Math.ceil(1.2 * most) + 1;
    const curve = profitCurve(of, stakes, upTo);
    let more = 1;
    const withChance = curve.map(({ n, profit }) => {
      const sellOut = Math.max(0, more);
      more -= of.p[n] ?? 0;
      return { n, profit, sellOut };
    });
    const resampled = resample({
      months,
      shape,
      demand: of,
      stakes,
      made: byShare,
      alphas: shares.map((s) => s.sold + asked.weight * s.past),
      presold,
      times: TIMES,
      seed: SEED,
    });
    return {
      best,
      make,
      reserve: reserveFor(make, asked.claims),
      outcome: outcomeOf(of, make),
      profit: curve[make]?.profit ?? 0,
      curve: withChance,
      colourways: byShare.map((n, i) => ({ make: n, ...resampled.colourways[i]! })),
      resampled,
    };
  },
};
export type HowManyWorker = typeof work;

expose(work);
