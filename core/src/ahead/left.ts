import type { Sharing } from "../bom/index.ts";
import type { Claim, OpenBox, Pool, Shares } from "../contract/index.ts";
import { addCuts, cutFrom, type Stretch } from "../cut/index.ts";
import { exact } from "../units/index.ts";
import { notBefore } from "../day/index.ts";
import { inOrder } from "./order.ts";
import { piecesOf, pieceShelf, type Shelf, shelfOf, sumShelf, type Wanted } from "./shelf.ts";

/**
 * What is left of each component for one box, and who takes the rest. Committed boxes come first, by what they speak
 * for; what stands open of them, and planned boxes, take their turn by the day they are packed, the month and the id.
 * What an order brings by the box's day is there for it; a line past its day counts as today, one without a day never.
 * A box that is not open any more has had what it took.
 * @param own the box as it is planned now, which may differ from what the shares hold of it
 */
export function sharingFor(shares: Shares, own: Pick<OpenBox, "id" | "packBy" | "month">): Sharing {
  const mine = { ...own, packBy: notBefore(own.packBy, shares.today) };
  const boxes = inOrder(shares.boxes);
  if (!boxes.some((b) => b.id === own.id)) return ({ run }) => ({ left: run, short: 0, because: [] });
  const firmFirst = [...boxes.filter((b) => b.state !== "planned"), ...boxes.filter((b) => b.state === "planned")];
  const turnOf = new Map(firmFirst.map((b, i) => [b.id, i]));
  // The box stands where its own day puts it, even if that changed and is not saved yet.
  const rank = inOrder([...boxes.filter((b) => b.id !== own.id), own]);
  const before = new Set(rank.slice(0, rank.indexOf(own)).map((b) => b.id));
  const { pools, claims, supplies } = byComponent(shares);

  return (total) => {
    const { component } = total;
    const pool = pools.get(component.id);
    if (!pool) return null;
    const linear = component.baseUnit === "mm";
    const wanted = claims.get(component.id) ?? [];
    const committed = wanted.filter((c) => c.from === "stock");
    const together = linear ? layTogether(pool, committed) : null;
    const shelf = together ?? shelfOf(pool, linear);
    const takers = new Map<string, number>();
    let ownGot: Wanted = { quantity: 0, cuts: [] };
    const take = (from: Shelf | null, claim: Claim) => {
      const { got, missing } = from?.take(claim) ?? { got: claim.quantity, missing: { cuts: [] as Claim["cuts"] } };
      if (claim.box !== own.id) takers.set(claim.box, (takers.get(claim.box) ?? 0) + got);
      else {
        const cuts = without(claim.cuts, missing.cuts);
        ownGot = { quantity: ownGot.quantity + got, cuts: [...ownGot.cuts, ...cuts] };
      }
    };
    for (const claim of committed) take(together ? null : shelf, claim);
    for (const claim of wanted) if (claim.from === "used" && claim.box === own.id) take(null, claim);
    const inTime = (supplies.get(component.id) ?? []).filter(
      (s) => s.due !== null && notBefore(s.due, shares.today) <= mine.packBy,
    );
    for (const supply of inTime) {
      const coming = linear ? pieceShelf(piecesOf(supply)) : sumShelf(supply.quantity);
      for (const claim of wanted) if (claim.from === supply.line) take(coming, claim);
      // What nobody speaks for of it is there for whoever comes.
      shelf.bring({ quantity: coming.left(), pieceMm: supply.pieceMm });
    }
    // A box that is covered whole comes before all that are only planned; what stands open of it takes its turn.
    if (exact(total.run - ownGot.quantity) > 0) {
      for (const claim of wanted) if (claim.from === null && before.has(claim.box)) take(shelf, claim);
    }
    const left = exact(Math.max(0, ownGot.quantity + shelf.left()));
    const pieces = linear ? addCuts(ownGot.cuts, shelf.pieces()) : [];
    const { missing } = linear
      ? shelf.take({ quantity: total.run, cuts: without(total.cuts, ownGot.cuts) })
      : { missing: { quantity: total.run - left, cuts: [] } };
    const short = exact(Math.max(0, missing.quantity));
    if (short === 0) return { left, short, because: [] };
    const because = [...takers].flatMap(([box, n]) => (n > 0 ? [{ box, quantity: exact(n) }] : []));
    because.sort((a, b) => turnOf.get(a.box)! - turnOf.get(b.box)!);
    return { left, short, because, ...(linear ? { lacking: missing.cuts, pieces } : {}) };
  };
}

/**
 * The same of what is there now, whatever is on the way. A committed box may take what nobody else speaks for, as
 * packing does; a planned one comes after those that are packed before it.
 */
export function sharingNow(shares: Shares, own: Pick<OpenBox, "id" | "packBy" | "month">): Sharing {
  const firm = shares.boxes.some((b) => b.id === own.id && b.state !== "planned");
  const claims = firm ? shares.claims.filter((c) => c.from !== null || c.box === own.id) : shares.claims;
  return sharingFor({ ...shares, claims, supplies: [] }, own);
}

const sorted = new WeakMap<Shares, ReturnType<typeof sortOut>>();
/** The same shares sorted by component: once, however many boxes ask. */
function byComponent(shares: Shares) {
  const known = sorted.get(shares) ?? sortOut(shares);
  sorted.set(shares, known);
  return known;
}
function sortOut(shares: Shares) {
  const placeOf = new Map(inOrder(shares.boxes).map((b, i) => [b.id, i]));
  const claims = groupBy(shares.claims, (c) => c.component);
  for (const list of claims.values()) list.sort((a, b) => placeOf.get(a.box)! - placeOf.get(b.box)!);
  return {
    pools: new Map(shares.pools.map((p) => [p.component, p])),
    claims,
    supplies: groupBy(shares.supplies, (s) => s.component),
  };
}

/** What is left of the pieces where all that is spoken for can be laid on them together; null where it can't. */
function layTogether(pool: Pool, committed: readonly Claim[]): Shelf | null {
  const cuts = committed.reduce((all, c) => addCuts(all, c.cuts), addCuts([], pool.asideCuts));
  const { left, missing } = cutFrom(pool.pieces, cuts);
  return missing.length === 0 ? pieceShelf(left) : null;
}

/** Cuts less others of the same lengths. */
export function without(cuts: readonly Stretch[], others: readonly Stretch[]): Stretch[] {
  const off = new Map(addCuts([], others).map((o) => [o.mm, o.count]));
  return addCuts([], cuts).flatMap((c) => {
    const count = c.count - (off.get(c.mm) ?? 0);
    return count > 0 ? [{ mm: c.mm, count }] : [];
  });
}

export function groupBy<T>(list: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of list) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}
