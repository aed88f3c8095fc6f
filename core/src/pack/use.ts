import type { BoxBill, Packing, PackNeed } from "../contract/index.ts";
import { exact } from "../units/index.ts";

/** A need as using it asks for it. */
type Used = Pick<PackNeed, "quantity" | "used" | "swapped">;

/**
 * What a need's boxes have used in all once so many of them are packed: the run's × packed ÷ boxes, rounded up to
 * whole pieces, or to thousandths of what is kept in grams. However the boxes are packed, the last one brings it to
 * the run's.
 */
export function dueAfter(quantity: number, packed: number, boxes: number, whole: boolean): number {
  if (boxes === 0) return 0;
  const steps = whole ? 1 : 1000;
  const [all, of] = [BigInt(Math.round(quantity * steps)) * BigInt(packed), BigInt(boxes)];
  return Number((all + of - 1n) / of) / steps;
}

/** What is still to be taken of a need until so many boxes are packed: below 0 where some comes back. */
export const takenNext = (need: Used, packed: number, boxes: number, whole: boolean): number =>
  exact(Math.max(0, dueAfter(need.quantity, packed, boxes, whole) - need.swapped) - need.used);

/** What a need's boxes will still take when all are packed. */
export const stillOpen = ({ quantity, used, swapped }: Used): number => exact(Math.max(0, quantity - used - swapped));

/** Whether a need is counted in whole pieces: cuts are. */
export const isWhole = (bill: Pick<BoxBill, "components">, need: Pick<PackNeed, "component" | "cutMm">): boolean =>
  need.cutMm !== null || bill.components.find((c) => c.id === need.component)?.baseUnit === "piece";

/** How many boxes of each variant there are, by its id. */
export const boxesOf = (bill: Pick<BoxBill, "variants">): Map<string, number> =>
  new Map(bill.variants.flatMap((v) => (v.id ? [[v.id, v.boxes] as const] : [])));

/** How many boxes of each variant are packed. */
export function packedOf({ packed }: Pick<Packing, "packed">): Map<string, number> {
  const counts = new Map<string, number>();
  for (const { variant } of packed) counts.set(variant, (counts.get(variant) ?? 0) + 1);
  return counts;
}

/** The first eight signs of an id: enough to tell the variants of one box apart on a label. */
export const shortId = (id: string) => id.slice(0, 8);
