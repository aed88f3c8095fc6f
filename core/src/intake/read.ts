/** What stands before the decimals of a table's numbers: one mark for the whole table. */
export const DECIMAL_MARKS = [".", ","] as const;
export type DecimalMark = (typeof DECIMAL_MARKS)[number];

/**
 * Digits, with or without thousands apart, and decimals: `1,240.5` with a point, `1.240,5` with a comma. No thousands
 * begin with 0.
 */
const WRITTEN: Record<DecimalMark, RegExp> = {
  ".": /^[+-]?([1-9]\d{0,2}(,\d{3})+|\d+)(\.\d+)?$/,
  ",": /^[+-]?([1-9]\d{0,2}(\.\d{3})+|\d+)(,\d+)?$/,
};
/** Spaces and apostrophes between thousands mean nothing else. */
const bare = (text: string) => text.trim().replace(/(?<=\d)[\s'’](?=\d{3}(\D|$))/g, "");

/** A number by the mark of its table; null for what is no number. */
export function numberOf(text: string, mark: DecimalMark): number | null {
  const plain = plainOf(bare(text), mark);
  return plain === null ? null : Number(plain);
}

/** Digits by a mark as a program writes them: no thousands apart, a point before the decimals; null for none. */
const plainOf = (digits: string, mark: DecimalMark): string | null =>
  WRITTEN[mark].test(digits) ? digits.replaceAll(mark === "." ? "," : ".", "").replace(",", ".") : null;

/** A sign of money, or its letters, before or behind an amount. */
const MONEY = /^(?:\p{Sc}|[A-Z]{3})?\s*(\d[\d.,\s'’]*?)\s*(?:\p{Sc}|[A-Z]{3})?$/u;

/** An amount without its sign or its thousands, as decimal text; undefined for what is none. */
export function moneyOf(text: string, mark: DecimalMark): string | undefined {
  const plain = plainOf(bare(MONEY.exec(text.trim())?.[1] ?? ""), mark);
  return plain !== null && /^\d{1,9}(\.\d{1,4})?$/.test(plain) ? plain : undefined;
}

/** Which marks a number can have been written with: both where nobody can tell (`1,250`), none for no number. */
function marksOf(text: string): readonly DecimalMark[] {
  const digits = bare(MONEY.exec(text.trim().replace(/^[+-]/, ""))?.[1] ?? "");
  return DECIMAL_MARKS.filter((mark) => WRITTEN[mark].test(digits));
}

/**
 * Which mark a table's numbers are written with, told from all of them together.
 * @param cells those of its columns that hold numbers
 * @returns null where nobody can tell, or where they contradict each other: then a person must say it
 */
export function decimalMarkOf(cells: Iterable<string>): DecimalMark | null {
  let [point, comma, either] = [0, 0, 0];
  for (const cell of cells) {
    if (!/[.,]/.test(cell)) continue;
    const marks = marksOf(cell);
    if (marks.length === 2) either++;
    else if (marks[0] === ".") point++;
    else if (marks[0] === ",") comma++;
  }
  if (point > 0 && comma > 0) return null;
  if (point > 0) return ".";
  if (comma > 0) return ",";
  return either > 0 ? null : ".";
}
