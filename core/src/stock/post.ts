import { exact, isInSteps, MOST_IN_ALL } from "../units/index.ts";
import Big from "big.js";
import type { BaseUnit } from "../contract/index.ts";

/** Where some of a component is: at a place, of a lot, in pieces of one length (0 for what has none). */
export interface Spot {
  component: string;
  place: string;
  lot: string;
  stretchMm: number;
}

/** What the book holds at a spot: base units, or pieces where it is kept by length; and the variance of that. */
export interface SpotBalance extends Spot {
  quantity: number;
  variance: number;
}

/** A component in all, in its base unit. Values are decimal text to 8 places, in the home currency. */
export interface Total {
  component: string;
  name: string;
  baseUnit: BaseUnit;
  onHand: number;
  value: string;
  /** Paid last for a base unit; null where nothing was. */
  lastCost: string | null;
  /** What a base unit would cost now; null where nobody knows. */
  replacement: string | null;
}

/**
 * One change at a spot: so much more or less, or set to what was counted. `madeOfBefore` costs what went before it;
 * `cameFromBefore` is what went just before it, at its worth.
 */
export type Move = Spot & { entered?: string; orderLine?: string | null; need?: string | null } & (
    | {
        quantity: number;
        u?: number;
        cost?: string | null;
        value?: string;
        varianceAfter?: number;
        madeOfBefore?: boolean;
        cameFromBefore?: boolean;
      }
    | { counted: number; u: number }
  );

export interface Moved extends Spot {
  quantity: number;
  counted: number | null;
  u: number;
  /** Variance of the spot's balance after it. */
  varianceAfter: number;
  value: string;
  /** What was paid for it in all; null where that is not known. */
  cost: string | null;
  entered: string;
  /** How much of the component there is after it, in its base unit. */
  balance: number;
  /** The order line that it is a delivery of, or takes back. */
  orderLine: string | null;
  /** The need of a run that it is used for. */
  need: string | null;
}

export interface StockFault {
  /** Which move, from 0. */
  move: number;
  message: string;
  /** What the spot holds. */
  holds: number;
}

const PLACES = 8;
/** The most that all of a component may be worth: whatever is derived from it can still be written down. */
const MOST_WORTH = new Big("1e22");
export const spotKey = ({ component, place, lot, stretchMm }: Spot) => `${component} ${place} ${stretchMm} ${lot}`;

/**
 * Posts moves one after another onto what the book holds, and returns the ledger's lines with the state after them.
 * Nothing goes below zero: the first moves that would are reported, and then nothing of it may be used. What comes
 * without a price is valued at the moving average, else at the last or the replacement cost; what goes, at the moving
 * average. Mutates the maps it is given.
 */
export function post(
  spots: Map<string, SpotBalance>,
  totals: Map<string, Total>,
  moves: readonly Move[],
): { moved: Moved[]; faults: StockFault[] } {
  const moved: Moved[] = [];
  const faults: StockFault[] = [];
  moves.forEach((asked, i) => {
    // A length read from feet is no longer or shorter than the same one read from millimetres.
    const move = { ...asked, stretchMm: exact(asked.stretchMm) };
    const total = totals.get(move.component);
    if (!total) return void faults.push({ move: i, message: "There is no such component.", holds: 0 });
    const unfit = unfitFor(total, move.stretchMm, "counted" in move ? move.counted : move.quantity);
    if (unfit) return void faults.push({ move: i, message: unfit, holds: 0 });
    const key = spotKey(move);
    const { component, place, lot, stretchMm } = move;
    const at = spots.get(key) ?? { component, place, lot, stretchMm, quantity: 0, variance: 0 };
    const counted = "counted" in move ? exact(move.counted) : null;
    const quantity = counted === null ? exact((move as { quantity: number }).quantity) : exact(counted - at.quantity);
    const after = exact(at.quantity + quantity);
    const amount = exact(quantity * (stretchMm > 0 ? stretchMm : 1));
    const onHand = exact(total.onHand + amount);
    if (after < 0 || onHand < 0) {
      return void faults.push({
        move: i,
        message:
          `The book holds only ${at.quantity.toLocaleString("en")} of ${total.name} there. Count what ` +
          "is in the jar, or take less.",
        holds: at.quantity,
      });
    }
    if (onHand > MOST_IN_ALL) {
      return void faults.push({
        move: i,
        message: `That would be more of ${total.name} than can be counted exactly. Check the amount and its length.`,
        holds: at.quantity,
      });
    }
    const paid =
      "madeOfBefore" in move && move.madeOfBefore
        ? moved.reduce((sum, m) => sum.minus(m.value), new Big(0)).toFixed(PLACES)
        : "cost" in move
          ? move.cost
          : undefined;
    const told =
      "cameFromBefore" in move && move.cameFromBefore
        ? new Big(0).minus(moved.at(-1)?.value ?? 0).toFixed(PLACES)
        : "value" in move
          ? move.value
          : undefined;
    // What takes the last of it takes all of its worth: the worth is always the sum of the ledger's.
    const value = onHand === 0 ? new Big(0).minus(total.value) : valueOf(total, amount, told, paid);
    if (new Big(total.value).plus(value).gt(MOST_WORTH)) {
      return void faults.push({
        move: i,
        message: `${total.name} would be worth more than can be written down. Check what it cost.`,
        holds: at.quantity,
      });
    }
    const u = move.u ?? 0;
    const varianceAfter =
      "varianceAfter" in move && move.varianceAfter !== undefined
        ? move.varianceAfter
        : counted !== null
          ? u * u
          : at.variance + u * u;
    spots.set(key, { ...at, quantity: after, variance: varianceAfter });
    total.onHand = onHand;
    total.value = new Big(total.value).plus(value).toFixed(PLACES);
    const cost = amount > 0 ? (paid ?? null) : null;
    if (cost !== null) total.lastCost = new Big(cost).div(amount).toFixed(PLACES);
    moved.push({
      component,
      place,
      lot,
      stretchMm,
      quantity,
      counted,
      u,
      varianceAfter,
      value: value.toFixed(PLACES),
      cost,
      entered: move.entered ?? "",
      balance: onHand,
      orderLine: move.orderLine ?? null,
      need: move.need ?? null,
    });
  });
  return { moved, faults };
}

/**
 * Why an amount can't be one of a component: only what is kept by length lies in pieces of a length; pieces are whole,
 * grams whole thousandths. Null where it can.
 */
export function unfitFor(
  { name, baseUnit }: Pick<Total, "name" | "baseUnit">,
  stretchMm: number,
  n: number,
): string | null {
  if (baseUnit === "mm" && !(stretchMm > 0)) return `${name} is kept by length: say how long each piece is.`;
  if (baseUnit !== "mm" && stretchMm > 0) return `${name} is not kept by length: leave the length of a piece out.`;
  if (baseUnit !== "g" && !(Number.isInteger(exact(n)) && isInSteps(n, "mm"))) {
    return `${name} is kept in ${stretchMm > 0 ? "pieces of a length" : "pieces"}: write a whole number.`;
  }
  if (baseUnit === "g" && !isInSteps(n, "g")) return `${name} is kept to a thousandth of a gram: write no more.`;
  return null;
}

/** What a change is worth: as given, else by the averages; never more out than is there. */
function valueOf(total: Total, amount: number, told: string | undefined, cost: string | null | undefined): Big {
  const value = new Big(total.value);
  if (told !== undefined) {
    const asked = new Big(told);
    return asked.lt(0) && asked.abs().gt(value) ? value.times(-1) : asked;
  }
  if (cost != null && amount > 0) return new Big(cost);
  if (amount >= 0) return new Big(unitValue(total) ?? 0).times(amount).round(PLACES);
  return total.onHand === 0 ? new Big(0) : value.times(amount).div(total.onHand).round(PLACES);
}

/** The moving average of what is on hand, else the last paid, else what it would cost now: decimal text a base unit. */
export function unitValue(total: Pick<Total, "onHand" | "value" | "lastCost" | "replacement">): string | null {
  const value = new Big(total.value);
  if (total.onHand > 0 && value.gt(0)) return value.div(total.onHand).toFixed(PLACES);
  return total.lastCost ?? total.replacement;
}
