/** Tables that people open in a spreadsheet: CSV by RFC 4180, in which no cell is run as a formula. */
import Papa from "papaparse";

/** Signs that nobody sees: what is behind them may still be run. */
const HIDDEN = "[\\p{C}\\p{Z}\\u115F\\u1160\\u2800\\u3164\\uFFA0]*";
/** What begins a formula, in its wide forms too, which some programs take for the others. */
const BEGINS = "[=+\\-@\\t\\r＝＋－＠]";
/** What a spreadsheet runs: a cell that begins so, behind the signs that were put before such a cell already. */
const FORMULA = new RegExp(`^'*${HIDDEN}${BEGINS}`, "u");
const GUARDED = new RegExp(`^'+${HIDDEN}${BEGINS}`, "u");

/** Rows under their headings. A text that would be run as a formula gets an apostrophe before it. */
export const writeSheet = (fields: readonly string[], rows: readonly Record<string, unknown>[]): string =>
  `${Papa.unparse([...rows], { columns: [...fields], newline: "\r\n", escapeFormulae: FORMULA })}\r\n`;

/** A cell as it was before {@link writeSheet} wrote it. */
export const plainCell = (cell: string): string => (GUARDED.test(cell) ? cell.slice(1) : cell);
