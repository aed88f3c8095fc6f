import type { Claim, Pool, Supply } from "../contract/index.ts";
import { addCuts, cutFrom, type Stretch, sumOf } from "../cut/index.ts";
import { exact, timesInto } from "../units/index.ts";

/** What is wanted of a component: an amount, or cuts of what is kept by length. */
export type Wanted = Pick<Claim, "quantity" | "cuts">;

/** So much of a component that can be taken from: a sum, or pieces that cuts are laid on. */
export interface Shelf {
  /** What is there: a sum below zero where more was taken than there was; of pieces, their length. */
  left: () => number;
  /** What is wanted and not there, in the base unit; all that is there is taken. */
  take: (wanted: Wanted) => { got: number; missing: Wanted };
  bring: (supply: Pick<Supply, "quantity" | "pieceMm">) => void;
  /** What is there as pieces; none where it is a sum. */
  pieces: () => readonly Stretch[];
}

/** The pieces that an amount of a line comes in: as long as the line says, the rest as one piece. */
export function piecesOf({ quantity, pieceMm }: Pick<Supply, "quantity" | "pieceMm">): Stretch[] {
  const mm = pieceMm ?? quantity;
  if (!(mm > 0) || !(quantity > 0)) return [];
  const count = timesInto(quantity, mm);
  const rest = exact(quantity - count * mm);
  return [...(count > 0 ? [{ mm: exact(mm), count }] : []), ...(rest > 0 ? [{ mm: rest, count: 1 }] : [])];
}

/** A shelf of what is kept by the piece or gram. What was taken by hand already may leave less than nothing. */
export function sumShelf(amount: number): Shelf {
  let left = amount;
  return {
    left: () => exact(left),
    take: ({ quantity }) => {
      const got = exact(Math.max(0, Math.min(quantity, left)));
      left = exact(left - got);
      return { got, missing: { quantity: exact(quantity - got), cuts: [] } };
    },
    bring: ({ quantity }) => void (left = exact(left + quantity)),
    pieces: () => [],
  };
}

/** A shelf of what is kept by length: a sum of offcuts is no piece, so the cutting decides. */
export function pieceShelf(pieces: readonly Stretch[]): Shelf {
  let left: readonly Stretch[] = pieces;
  return {
    left: () => exact(sumOf(left)),
    take: ({ cuts }) => {
      const laid = cutFrom(left, cuts);
      left = laid.left;
      const missing = exact(sumOf(laid.missing));
      return { got: exact(sumOf(cuts) - missing), missing: { quantity: missing, cuts: laid.missing } };
    },
    bring: (supply) => void (left = addCuts(left, piecesOf(supply))),
    pieces: () => left,
  };
}

/** What is on hand of a component, what is held back or set aside by hand taken off it. */
export function shelfOf(pool: Pool, linear: boolean): Shelf {
  if (!linear) return sumShelf(exact(pool.onHand - pool.aside));
  const shelf = pieceShelf(pool.pieces);
  shelf.take({ quantity: 0, cuts: pool.asideCuts });
  return shelf;
}
