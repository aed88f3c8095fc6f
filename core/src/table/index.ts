/** Tables that people open in a spreadsheet: CSV by RFC 4180, in which no cell is run as a formula. */
import Papa from "papaparse";

/** What a spreadsheet runs: a cell that begins so, behind the signs that were put before such a cell already. */
const FORMULA = /^'*[=+\-@\t\r]/;

/** Rows under their headings. A text that would be run as a formula gets an apostrophe before it. */
export const writeSheet = (fields: readonly string[], rows: readonly Record<string, unknown>[]): string =>
  `${Papa.unparse([...rows], { columns: [...fields], newline: "\r\n", escapeFormulae: FORMULA })}\r\n`;

/** A cell as it was before {@link writeSheet} wrote it. */
export const plainCell = (cell: string): string => (/^'+[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell);
