import type { Offer } from "../contract/index.ts";
import { coinPlaces, coinsOf, sayCoins, tenThousandths } from "../cost/index.ts";
import { exact } from "../units/index.ts";

/** What choosing packs asks of an offer: what a pack holds, and its price by the number of packs. */
export type PackOffer = Pick<Offer, "amount" | "price" | "steps" | "minimum">;

export interface PackChoice {
  /** By the offer's index, each with its line's total: decimal text. */
  chosen: { offer: number; packs: number; price: string }[];
  total: string;
  /** Bought in all, and how much of it is over what is needed: in the unit of the need. */
  amount: number;
  over: number;
  /** Whether it is known to be the best one: false where the search was given up. */
  proved: boolean;
}

/** An offer's packs from so many to so many, at one price. */
interface Segment {
  from: number;
  to: number;
  /** A pack's price in ten-thousandths, and in coins. */
  price: number;
  coins: number;
}

interface Prepared {
  amount: number;
  segments: Segment[];
}

/** What is compared: coins, then what is over, then the number of packs. */
interface Found {
  coins: number;
  over: number;
  packs: number;
  counts: number[];
}

/** Amounts are reckoned in ten-thousandths: whole ones, in every unit. */
const STEPS_OF_ONE = 10_000;
/** So many steps a search may take, and so many states it may remember. */
const STEPS = 3_000_000;
const REMEMBERED = 500_000;

/**
 * The packs that cover a need for the least money; of equal ones those with less over, then fewer packs, then more of
 * the earlier offer. A step's price holds for all packs of its offer; a minimum holds only for an offer that is chosen;
 * offers mix. Each line is rounded to the currency's smallest coin.
 *
 * Depth first over the offers, each from many packs to few. What is still open can't cost less than at the best rate of
 * the offers that follow (a bound by linear relaxation), which leaves only a short range of packs to try; the same rest
 * reached for no less money is not tried again. Amounts are in ten-thousandths and money in coins: all of it exact.
 * @returns null where there is no offer that could cover it
 */
export function choosePacks(need: number, currency: string, offers: readonly PackOffer[]): PackChoice | null {
  const places = coinPlaces(currency);
  const share = 10 ** (4 - places);
  const list = offers.map((o) => prepare(o, share));
  const wanted = Math.round(exact(need) * STEPS_OF_ONE);
  if (wanted <= 0) return { chosen: [], total: sayCoins(0, places), amount: 0, over: 0, proved: true };

  const n = list.length;
  // By depth: the best rate of the offers from there on, coins a ten-thousandth, and the largest pack.
  const rate = new Array<number>(n + 1).fill(Infinity);
  const largest = new Array<number>(n + 1).fill(0);
  for (let k = n - 1; k >= 0; k--) {
    const { amount, segments } = list[k]!;
    rate[k] = segments.reduce((least, s) => Math.min(least, s.coins / amount), rate[k + 1]!);
    largest[k] = Math.max(largest[k + 1]!, amount);
  }
  // What costs more than can be reckoned exactly is no choice.
  const lineOf = ({ price }: Segment, packs: number) => coinsOf(price, packs, places);

  let best: Found | null = null;
  // What was found by one offer alone is not yet known to come first of its equals.
  let inOrder = false;
  for (const [k, { amount, segments }] of list.entries()) {
    const fewest = Math.ceil(wanted / amount);
    for (const segment of segments) {
      const packs = Math.max(fewest, segment.from);
      if (packs > segment.to) continue;
      const counts = new Array<number>(n).fill(0);
      counts[k] = packs;
      const found = { coins: lineOf(segment, packs), over: packs * amount - wanted, packs, counts };
      if (Number.isFinite(found.coins) && (best === null || compare(found, best) < 0)) best = found;
    }
  }
  if (best === null) return null;

  const seen: (Map<number, { coins: number; packs: number }> | undefined)[] = [];
  let remembered = 0;
  let steps = 0;
  const counts = new Array<number>(n).fill(0);
  search(0, wanted, 0, 0);
  const found: Found = best;
  return {
    chosen: found.counts.flatMap((packs, offer) => {
      if (packs === 0) return [];
      const segment = list[offer]!.segments.find((s) => packs >= s.from && packs <= s.to)!;
      return [{ offer, packs, price: sayCoins(lineOf(segment, packs), places) }];
    }),
    total: sayCoins(found.coins, places),
    amount: exact((wanted + found.over) / STEPS_OF_ONE),
    over: exact((wanted + found.over) / STEPS_OF_ONE - need),
    proved: steps <= STEPS,
  };

  function search(k: number, rest: number, coins: number, packs: number) {
    if (++steps > STEPS) return;
    const known = best!;
    if (rest <= 0) {
      const now = { coins, over: -rest, packs };
      const by = compare(now, known);
      if (by < 0 || (by === 0 && !inOrder)) {
        best = { ...now, counts: [...counts] };
        inOrder = true;
      }
      return;
    }
    if (k === n || isHopeless(k, rest, coins, packs)) return;
    // From the first offer on, each rest is come to once.
    if (k > 0) {
      const here = (seen[k] ??= new Map());
      const before = here.get(rest);
      if (before && before.coins <= coins && before.packs <= packs) return;
      if (before || remembered++ < REMEMBERED) here.set(rest, { coins, packs });
    }

    const { amount, segments } = list[k]!;
    const fewest = Math.ceil(rest / amount);
    // A price step beyond what is needed may still be cheaper in total: its first packs, and no more.
    for (let i = segments.length - 1; i >= 0; i--) {
      const segment = segments[i]!;
      if (segment.from >= fewest) take(segment, segment.from);
      else {
        const top = Math.min(segment.to, fewest);
        const [low, high] = k + 1 === n ? [fewest, fewest] : rangeOf(segment, amount, k, rest, coins);
        for (let m = Math.min(top, high); m >= Math.max(segment.from, low); m--) {
          take(segment, m);
          if (steps > STEPS) return;
        }
      }
    }
    search(k + 1, rest, coins, packs);

    function take(segment: Segment, m: number) {
      const line = lineOf(segment, m);
      if (coins + line > best!.coins) return;
      counts[k] = m;
      search(k + 1, rest - m * amount, coins + line, packs + m);
      counts[k] = 0;
    }
  }

  /** Rounding may take half a coin off each line that is still to come. */
  function slackAt(k: number, coins: number) {
    return 0.5 * (n - k) + 1e-6 + 1e-12 * coins;
  }

  function isHopeless(k: number, rest: number, coins: number, packs: number): boolean {
    const least = Math.ceil(coins + rest * rate[k]! - slackAt(k, coins) - 1e-9);
    const known = best!;
    if (least > known.coins) return true;
    if (least < known.coins || known.over > 0) return false;
    const fewest = packs + Math.ceil(rest / largest[k]!);
    return inOrder ? fewest >= known.packs : fewest > known.packs;
  }

  /** Which numbers of packs can still lead to no more than the best that is known. */
  function rangeOf({ coins: each }: Segment, amount: number, k: number, rest: number, coins: number) {
    const next = rate[k + 1]!;
    const dearer = each - amount * next;
    const left = best!.coins - coins - rest * next + slackAt(k, best!.coins);
    if (Math.abs(dearer) < 1e-12) return [0, Infinity] as const;
    return dearer > 0
      ? ([0, Math.floor(left / dearer + 1e-9)] as const)
      : ([Math.ceil(left / dearer - 1e-9), Infinity] as const);
  }
}

function prepare({ amount, price, steps, minimum }: PackOffer, share: number): Prepared {
  const starts = [{ from: 1, price }, ...(steps.length > 1 ? [...steps].sort((a, b) => a.from - b.from) : steps)];
  const segments: Segment[] = [];
  for (const [i, s] of starts.entries()) {
    const from = Math.max(s.from, minimum);
    const to = (starts[i + 1]?.from ?? Infinity) - 1;
    const each = tenThousandths(s.price);
    if (from <= to) segments.push({ from, to, price: each, coins: each / share });
  }
  return { amount: Math.round(amount * STEPS_OF_ONE), segments };
}

const compare = (a: Omit<Found, "counts">, b: Omit<Found, "counts">) =>
  a.coins - b.coins || a.over - b.over || a.packs - b.packs;
