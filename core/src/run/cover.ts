import type { BoxBill, Pool, Supply } from "../contract/index.ts";
import { addCuts, cutFrom, type Stretch, sumOf } from "../cut/index.ts";
import { exact } from "../units/index.ts";
import { piecesOf, shelfOf } from "../ahead/index.ts";

/** What a variant's boxes need of a component: an amount, or `quantity` cuts of a length. */
export interface NeedOf {
  /** The variant's id. */
  variant: string;
  component: string;
  cutMm: number | null;
  quantity: number;
  /** Of which so much is to spare; 0 for cuts, whose spare ones can't be told from the others. */
  spare: number;
}

/** The needs of a bill whose variants are saved, variant by variant, cut by cut. */
export function needsOfBill({ variants }: BoxBill): NeedOf[] {
  return variants.flatMap(({ id, boxes, lines }) =>
    lines.flatMap(({ component, run, spare, pieces }): NeedOf[] => {
      const variant = id ?? "";
      if (boxes === 0 || run === 0) return [];
      if (pieces.length === 0) {
        const over = exact(Math.min(run, spare * boxes));
        return [{ variant, component, cutMm: null, quantity: run, spare: over }];
      }
      return pieces.map((p) => ({
        variant,
        component,
        cutMm: p.mm,
        quantity: p.count * boxes,
        spare: 0,
      }));
    }),
  );
}

/** A line of an order that needs can be covered from, and what others speak for on it. */
export interface Line extends Supply {
  spoken: { quantity: number; cuts: Stretch[] };
}

/** So much of a need that is covered: from stock, or from an order's line. */
export interface Covered<N extends NeedOf> {
  need: N;
  quantity: number;
  orderLine: string | null;
}

/**
 * Covers needs from what is free in stock, then from order lines, the earliest first, those without a day last; what is
 * spoken for already keeps its place. Of what is kept by length the cutting decides whether all cuts can be laid on the
 * pieces together.
 * @param pools what there is of each component
 * @param spoken what boxes speak for in stock already, a component: amounts, and cuts
 * @param lines those that come in time, or that the box spoke for before they were late
 */
export function cover<N extends NeedOf>(
  needs: readonly N[],
  pools: readonly Pool[],
  spoken: ReadonlyMap<string, { quantity: number; cuts: Stretch[] }>,
  lines: readonly Line[],
): { covered: Covered<N>[]; lacking: Covered<N>[] } {
  const poolOf = new Map(pools.map((p) => [p.component, p]));
  const open = new Map<string, N[]>();
  for (const need of needs) open.set(need.component, [...(open.get(need.component) ?? []), need]);
  const covered: Covered<N>[] = [];
  const lacking: Covered<N>[] = [];
  for (const [component, wanted] of open) {
    const linear = wanted[0]!.cutMm !== null;
    const pool = poolOf.get(component) ?? { component, onHand: 0, aside: 0, pieces: [], asideCuts: [] };
    const taken = spoken.get(component) ?? { quantity: 0, cuts: [] };
    const ordered = lines
      .filter((l) => l.component === component)
      .sort((a, b) => compare(a.due ?? NEVER, b.due ?? NEVER) || compare(a.line, b.line));
    let rest = wanted.map((need) => ({ need, quantity: need.quantity }));
    const takeFrom = (orderLine: string | null, fits: (asked: typeof rest) => Map<N, number>) => {
      const got = fits(rest);
      rest = rest.flatMap(({ need, quantity }) => {
        const n = got.get(need) ?? 0;
        if (n > 0) covered.push({ need, quantity: n, orderLine });
        const open = exact(quantity - n);
        return open > 0 ? [{ need, quantity: open }] : [];
      });
    };
    if (!linear) {
      const shelf = shelfOf(pool, false);
      let free = Math.max(0, exact(shelf.left() - taken.quantity));
      const inTurn = (asked: typeof rest) => {
        const got = new Map<N, number>();
        for (const { need, quantity } of asked) {
          const n = Math.min(quantity, free);
          if (n > 0) got.set(need, n);
          free = exact(free - n);
        }
        return got;
      };
      takeFrom(null, inTurn);
      for (const line of ordered) {
        free = Math.max(0, exact(line.quantity - line.spoken.quantity));
        takeFrom(line.line, inTurn);
      }
    } else {
      const lay = (pieces: readonly Stretch[], before: readonly Stretch[]) => (asked: typeof rest) =>
        laidTogether(pieces, before, asked);
      takeFrom(null, lay(pool.pieces, [...pool.asideCuts, ...taken.cuts]));
      for (const line of ordered) takeFrom(line.line, lay(piecesOf(line), line.spoken.cuts));
    }
    lacking.push(...rest.map((r) => ({ ...r, orderLine: null })));
  }
  return { covered, lacking };
}

/**
 * How many of each need's cuts can be laid on the pieces beside those that lie there already, none of which may lose
 * its place for it.
 */
function laidTogether<N extends NeedOf>(
  pieces: readonly Stretch[],
  before: readonly Stretch[],
  asked: readonly { need: N; quantity: number }[],
): Map<N, number> {
  const cutsOf = (list: typeof asked) =>
    list.reduce<Stretch[]>((all, { need, quantity }) => addCuts(all, [{ mm: need.cutMm!, count: quantity }]), []);
  const whole = cutFrom(pieces, addCuts(before, cutsOf(asked)));
  if (whole.missing.length === 0) return new Map(asked.map(({ need, quantity }) => [need, quantity]));
  // Not all together: those that lie there first, the others on what is left.
  const kept = cutFrom(pieces, before);
  if (kept.missing.length > 0) return new Map();
  const { missing } = cutFrom(kept.left, cutsOf(asked));
  const lacking = new Map(missing.map((m) => [m.mm, m.count]));
  const got = new Map<N, number>();
  // The last of equal cuts go without.
  for (const { need, quantity } of [...asked].reverse()) {
    const without = Math.min(quantity, lacking.get(need.cutMm!) ?? 0);
    lacking.set(need.cutMm!, (lacking.get(need.cutMm!) ?? 0) - without);
    if (quantity > without) got.set(need, quantity - without);
  }
  return got;
}

const NEVER = "9999-12-31";
const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

/** What a covered or lacking part of a need comes to in the base unit. */
export const amountOf = ({ need, quantity }: Covered<NeedOf>): number =>
  exact(need.cutMm === null ? quantity : sumOf([{ mm: need.cutMm, count: quantity }]));
