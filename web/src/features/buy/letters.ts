import { buyLine, type Buying, isLate, lastDayOf } from "@jar-count/core/buy";
import type { BuyLine, BuyList, Component, Packs } from "@jar-count/core/contract";
import { sumOfMoney } from "@jar-count/core/cost";

/** A line of a letter: so many packs of one offer, and the line of the list that they are for. */
export interface LetterLine {
  line: BuyLine;
  component: Component;
  packs: Packs;
}

/** All that goes to one supplier; null for what nobody named sells. */
export interface SupplierLetter {
  supplier: string | null;
  name: string;
  lines: LetterLine[];
  total: string;
  /** The last day on which all of it comes in time. */
  orderBy: string | null;
  late: number;
}

/** The list with what was set by hand in it. */
export function withHand(
  list: BuyList,
  byHand: Record<string, Record<string, number>>,
  components: ReadonlyMap<string, Component>,
  buying: Buying,
): BuyLine[] {
  return list.lines.map((line) => {
    const hand = byHand[line.component];
    const component = components.get(line.component);
    if (!hand || !component) return line;
    return buyLine(component, line, new Map(Object.entries(hand)), buying);
  });
}

/** What lines come to, and how many of them come too late. */
export const sumsOf = (lines: readonly LetterLine[], currency: string): Pick<SupplierLetter, "total" | "late"> => ({
  total: sumOfMoney(
    lines.map((l) => l.packs.price),
    currency,
  ),
  late: lines.filter((l) => l.packs.late).length,
});

/** Sorts lines into a letter to each supplier: late ones first, then by the day to order. */
export function lettersOf(
  lines: readonly BuyLine[],
  components: ReadonlyMap<string, Component>,
  suppliers: readonly { id: string; name: string }[],
  currency: string,
): SupplierLetter[] {
  const names = new Map(suppliers.map((s) => [s.id, s.name]));
  const letters = new Map<string | null, SupplierLetter>();
  for (const line of lines) {
    const component = components.get(line.component);
    if (!component) continue;
    for (const packs of line.chosen) {
      const supplier = packs.supplier !== null && names.has(packs.supplier) ? packs.supplier : null;
      const letter = letters.get(supplier) ?? {
        supplier,
        name: supplier === null ? "Nobody named sells it" : names.get(supplier)!,
        lines: [],
        total: "0",
        orderBy: null,
        late: 0,
      };
      letter.lines.push({ line, component, packs });
      letters.set(supplier, letter);
    }
  }
  const done = [...letters.values()].map((letter) => ({
    ...letter,
    ...sumsOf(letter.lines, currency),
    orderBy: letter.lines.flatMap((l) => l.packs.orderBy ?? []).sort()[0] ?? null,
  }));
  return done.sort(
    (a, b) =>
      // What can't be ordered before somebody is named comes first.
      Number(b.supplier === null) - Number(a.supplier === null) ||
      Number(b.late > 0) - Number(a.late > 0) ||
      (a.orderBy ?? "9999").localeCompare(b.orderBy ?? "9999") ||
      a.name.localeCompare(b.name),
  );
}

export const lateLines = (lines: readonly BuyLine[]) => lines.filter(isLate);
export const firstDay = (lines: readonly BuyLine[]) => lines.map(lastDayOf).sort()[0] ?? null;
