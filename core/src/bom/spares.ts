import type { Component, SpareRule } from "../contract/index.ts";
import { replacementCost, unitCost } from "../component/index.ts";

/** What is in a bag, as far as a rule asks. */
interface InBag {
  /** Pieces, or cuts; grams where nothing can be counted. */
  counted: number;
  /** Closes a size. */
  closes: boolean;
  said: number | null;
  packed: boolean;
  /** What one piece costs as a part of what the box's material costs; null where that is not known. */
  share: number | null;
}

/** What a base unit costs as rules of shares have it: new by its first offer, else as it was paid last. */
export const steadyCost = (c: Component): number | null => {
  const cost = replacementCost(c) ?? c.lastCost;
  return cost == null ? null : Number(cost);
};

/** What gave a spare that no rule gave. */
export const SAID_HERE = "as said for this box";

/**
 * How much more goes into a bag: what a person said, else by the first rule that fits. In what is counted there: whole
 * pieces or cuts, grams of what can't be counted.
 */
export function spareOf(
  component: Component,
  bag: InBag,
  rules: readonly SpareRule[],
): { more: number; rule: string | null } {
  if (bag.said !== null) return { more: bag.said, rule: SAID_HERE };
  const rule = bag.packed ? undefined : rules.find((r) => fits(r, component, bag));
  if (!rule) return { more: 0, rule: null };
  const asked = rule.add + rule.part * bag.counted;
  const whole = component.baseUnit !== "g" || component.perGram != null;
  // A spare is whole, however little of one a part comes to; the dust of binary floats is no piece.
  return { more: whole ? Math.ceil(asked - 1e-9) || 0 : asked, rule: rule.name };
}

function fits(rule: SpareRule, c: Component, { counted, closes, share }: InBag): boolean {
  const among = <T>(list: readonly T[], value: T | null | undefined) =>
    list.length === 0 || (value != null && list.includes(value));
  if (!among(rule.kinds, c.kind) || !among(rule.forms, c.form) || !among(rule.units, c.baseUnit)) return false;
  if (rule.sizes.length > 0 && !rule.sizes.some((s) => s.toLowerCase() === c.size?.toLowerCase())) return false;
  if (rule.closes && !closes) return false;
  if (rule.from != null && counted < rule.from) return false;
  if (rule.to != null && counted > rule.to) return false;
  if (rule.shareOver != null && !(share !== null && share > rule.shareOver + 1e-9)) return false;
  if (rule.costFrom == null && rule.costTo == null) return true;
  const cost = unitCost(c);
  if (cost === null) return false;
  return Number(cost) >= Number(rule.costFrom ?? 0) && Number(cost) <= Number(rule.costTo ?? Infinity);
}
