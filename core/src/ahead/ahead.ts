import type { Ahead, AheadComponent, Claim, OpenBox, Pool, Shares, Supply } from "../contract/index.ts";
import { addCuts, cutFrom, type Stretch, sumOf } from "../cut/index.ts";
import { exact } from "../units/index.ts";
import { notBefore } from "../day/index.ts";
import { inOrder } from "./order.ts";
import { groupBy } from "./left.ts";
import { piecesOf } from "./shelf.ts";

type Step = AheadComponent["steps"][number];

/**
 * Stock from day to day: projected on hand after each delivery and each box (gross to net requirements without lots).
 * On one day deliveries come before boxes, and boxes in the order of who comes first. What is past its day counts as
 * today; an order without a day covers nothing; what is set aside by hand is taken from the beginning. Of what is kept
 * by length, cuts are laid on pieces: where some can't be, `left` is what they lack, below zero, whatever the sum says.
 * @param from first day that is listed; what happens before it is reckoned with all the same
 * @param until last day, itself included
 */
export function aheadOf(shares: Shares, linear: (component: string) => boolean, from: string, until: string): Ahead {
  const place = new Map(inOrder(shares.boxes).map((b, i) => [b.id, { ...b, place: i }]));
  const claims = groupBy(shares.claims, (c) => c.component);
  const supplies = groupBy(shares.supplies, (s) => s.component);
  const components = shares.pools.flatMap((pool) => {
    const events = eventsOf(claims.get(pool.component) ?? [], supplies.get(pool.component) ?? [], place, shares.today);
    const inTime = events.filter((e) => e.on <= until);
    const lefts = linear(pool.component) ? leftsOfPieces(pool, inTime) : leftsOfSums(pool, inTime);
    const steps = inTime
      .map(({ on, kind, id, quantity }, i): Step => ({ on, kind, id, quantity, left: lefts[i]! }))
      .filter((s) => s.on >= from);
    if (steps.length === 0) return [];
    const deepest = Math.min(...steps.map((s) => s.left));
    const out = steps.find((s) => s.left < 0);
    return [
      {
        component: pool.component,
        onHand: pool.onHand,
        steps,
        runsOutOn: out?.on ?? null,
        short: deepest < 0 ? -deepest : 0,
      },
    ];
  });
  return { components };
}

/** Something that changes stock on a day. */
interface Event extends Omit<Step, "left"> {
  place: number;
  pieces: Stretch[];
}

function eventsOf(
  claims: readonly Claim[],
  supplies: readonly Supply[],
  place: ReadonlyMap<string, OpenBox & { place: number }>,
  today: string,
): Event[] {
  const events = new Map<string, Event>();
  const add = (event: Event) => {
    const key = `${event.on} ${event.kind} ${event.id}`;
    const known = events.get(key);
    if (!known) return void events.set(key, event);
    known.quantity = exact(known.quantity + event.quantity);
    known.pieces = addCuts(known.pieces, event.pieces);
  };
  for (const s of supplies) {
    if (s.due === null || !(s.quantity > 0)) continue;
    const on = notBefore(s.due, today);
    add({ on, kind: "order", id: s.order, quantity: s.quantity, place: -1, pieces: piecesOf(s) });
  }
  for (const c of claims) {
    const box = place.get(c.box);
    if (!box || c.from === "used" || !(c.quantity > 0)) continue;
    // Of one day, those that are committed take first.
    const turn = box.place + (box.state === "planned" ? place.size : 0);
    const on = notBefore(box.packBy, today);
    add({ on, kind: "box", id: c.box, quantity: -c.quantity, place: turn, pieces: c.cuts });
  }
  return [...events.values()].sort((a, b) => (a.on < b.on ? -1 : a.on > b.on ? 1 : a.place - b.place));
}

function leftsOfSums(pool: Pool, events: readonly Event[]): number[] {
  let left = exact(pool.onHand - pool.aside);
  return events.map((e) => (left = exact(left + e.quantity)));
}

function leftsOfPieces(pool: Pool, events: readonly Event[]): number[] {
  let { left, missing } = cutFrom(pool.pieces, pool.asideCuts);
  // Between two deliveries nothing need be cut in the order of the boxes: what fits together is there for all of them.
  let [pieces, cuts] = [pool.pieces as readonly Stretch[], addCuts([], pool.asideCuts)];
  return events.map((e) => {
    if (e.kind === "order") {
      pieces = addCuts(left, e.pieces);
      cuts = addCuts([], missing);
      ({ left, missing } = cutFrom(pieces, cuts));
    } else {
      cuts = addCuts(cuts, e.pieces);
      const [together, inTurn] = [cutFrom(pieces, cuts), cutFrom(left, [...missing, ...e.pieces])];
      ({ left, missing } = sumOf(together.missing) <= sumOf(inTurn.missing) ? together : inTurn);
    }
    return exact(missing.length > 0 ? -sumOf(missing) : sumOf(left));
  });
}
