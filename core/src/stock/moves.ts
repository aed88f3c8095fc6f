import { exact } from "../units/index.ts";
import type { z } from "zod";
import { type BaseUnit, REASONS, type StockEntry as StockEntryContract } from "../contract/index.ts";
import { cutFrom } from "../cut/index.ts";
import { type SpotBalance, type Move, type Spot, spotKey } from "./post.ts";

type Entry = z.output<typeof StockEntryContract>;

/**
 * What an entry moves, given what the book holds of the components it touches.
 * @param place where it happens when the entry names no place
 * @returns the moves in order, or why there can be none
 */
export function movesOf(
  component: { id: string; name: string; baseUnit: BaseUnit },
  entry: Entry,
  spots: ReadonlyMap<string, SpotBalance>,
  place: string,
): { moves: Move[] } | { fault: string; pointer: string } {
  const linear = component.baseUnit === "mm";
  const at: Spot = {
    component: component.id,
    place: entry.place ?? place,
    lot: entry.lot,
    stretchMm: linear ? (entry.stretchMm ?? 0) : 0,
  };
  if (entry.kind === "cut") return cutMoves(component, entry, at, spots);
  // A length without pieces is one piece of that length.
  const { quantity } = entry;
  const isOnePiece = linear && at.stretchMm === 0;
  const spot = isOnePiece ? { ...at, stretchMm: quantity } : at;
  const n = isOnePiece ? 1 : quantity;
  switch (entry.kind) {
    case "counted":
      if (isOnePiece) return { fault: "Say how long each piece is that you counted.", pointer: "/stretchMm" };
      return { moves: [{ ...at, counted: quantity, u: entry.u, entered: entry.entered }] };
    case "moved":
    case "held back":
      return {
        moves: [
          { ...spot, quantity: -n },
          { ...spot, place: entry.to, quantity: n, cameFromBefore: true },
        ],
      };
    case "made": {
      const taken: Move[] = [];
      for (const { component: from, quantity: wanted } of entry.from) {
        const found = takeFrom(spots, from, wanted);
        if (!found)
          return {
            fault: "Not enough of what it is made of is in the jars.",
            pointer: `/from/${entry.from.findIndex((f) => f.component === from)}/quantity`,
          };
        taken.push(...found);
      }
      return { moves: [...taken, { ...spot, quantity: n, madeOfBefore: true }] };
    }
    default: {
      if (REASONS[entry.kind].effect === "in")
        return { moves: [{ ...spot, quantity: n, cost: entry.cost ?? null, u: entry.u ?? 0 }] };
      const before = spots.get(spotKey(spot));
      const first: Move[] =
        entry.countFirst && (before?.quantity ?? 0) < n
          ? [{ ...spot, counted: n, u: 0, entered: "counted with what was used" }]
          : [];
      return { moves: [...first, { ...spot, quantity: -n }] };
    }
  }
}

/** Cuts from the pieces of a place and lot, the shortest that will do first, or from one length where that is named. */
function cutMoves(
  component: { name: string; baseUnit: BaseUnit },
  entry: Extract<Entry, { kind: "cut" }>,
  at: Spot,
  spots: ReadonlyMap<string, SpotBalance>,
): { moves: Move[] } | { fault: string; pointer: string } {
  if (component.baseUnit !== "mm")
    return { fault: `${component.name} is not kept by length, so nothing can be cut of it.`, pointer: "/cutMm" };
  const here = [...spots.values()].filter(
    (h) =>
      h.component === at.component &&
      h.place === at.place &&
      h.lot === at.lot &&
      (at.stretchMm === 0 || h.stretchMm === at.stretchMm),
  );
  const { missing, left } = cutFrom(
    here.map((h) => ({ mm: h.stretchMm, count: h.quantity })),
    [{ mm: entry.cutMm, count: entry.count }],
  );
  if (missing.length > 0) {
    const { count } = missing[0]!;
    const what = count === entry.count ? "it" : `the last ${count}`;
    return {
      fault: `No piece there is long enough for ${what}. Join none: take another spool, or fewer.`,
      pointer: "/cutMm",
    };
  }
  const change = new Map<number, number>();
  for (const h of here) change.set(exact(h.stretchMm), -h.quantity);
  for (const l of left) change.set(exact(l.mm), (change.get(exact(l.mm)) ?? 0) + l.count);
  return {
    moves: [...change]
      .filter(([, n]) => n !== 0)
      .sort((a, b) => a[1] - b[1])
      .map(([stretchMm, quantity]) => ({ ...at, stretchMm, quantity })),
  };
}

/** So much of a component from wherever it stands, the fullest jar first; null where there is not so much. */
function takeFrom(spots: ReadonlyMap<string, SpotBalance>, component: string, wanted: number): Move[] | null {
  const moves: Move[] = [];
  let open = wanted;
  for (const h of [...spots.values()]
    .filter((x) => x.component === component && x.quantity > 0)
    .sort((a, b) => b.quantity - a.quantity)) {
    if (open <= 0) break;
    const each = h.stretchMm > 0 ? h.stretchMm : 1;
    if (h.stretchMm > 0) {
      // Kept by length: cut from one piece, the rest of it kept.
      if (h.stretchMm < open) continue;
      const rest = exact(h.stretchMm - open);
      moves.push({ component, place: h.place, lot: h.lot, stretchMm: h.stretchMm, quantity: -1 });
      if (rest > 0) moves.push({ component, place: h.place, lot: h.lot, stretchMm: rest, quantity: 1 });
      open = 0;
    } else {
      const n = Math.min(h.quantity, open);
      moves.push({ component, place: h.place, lot: h.lot, stretchMm: 0, quantity: -n });
      open = exact(open - n * each);
    }
  }
  return open > 0 ? null : moves;
}

/** Moves all that lies at other places to one; what is held back stays. @param held the places that hold back */
export const movesTo = (place: string, spots: Iterable<SpotBalance>, held: ReadonlySet<string>): Move[] =>
  [...spots].flatMap(({ component, place: from, lot, stretchMm, quantity }): Move[] => {
    if (quantity <= 0 || from === place || held.has(from)) return [];
    const spot = { component, lot, stretchMm };
    return [
      { ...spot, place: from, quantity: -quantity },
      { ...spot, place, quantity, cameFromBefore: true },
    ];
  });
