/**
 * What may be in bytes that others made, told by walking through them once and keeping nothing: cheap, so it stands
 * before everything that is not.
 */
const [QUOTE, BACKSLASH, COMMA, BRACE, BRACKET, BRACE_END, BRACKET_END, LINE_END, RETURN] = [
  0x22, 0x5c, 0x2c, 0x7b, 0x5b, 0x7d, 0x5d, 0x0a, 0x0d,
];

/** How deep a JSON body may go, and a file of an archive, which holds such bodies inside. */
export const MOST_DEPTH = { body: 40, file: 60 };

/**
 * How many values a JSON text holds at the most, and how deep it goes, told without reading it: what opens or separates
 * values, outside of strings.
 */
export function sizeOfJson(json: Uint8Array): { values: number; depth: number } {
  let [values, depth, deepest, inText] = [1, 0, 0, false];
  for (let i = 0; i < json.length; i++) {
    const byte = json[i];
    if (inText) {
      if (byte === BACKSLASH) i++;
      else if (byte === QUOTE) inText = false;
    } else if (byte === QUOTE) inText = true;
    else if (byte === COMMA) values++;
    else if (byte === BRACE || byte === BRACKET) {
      values++;
      if (++depth > deepest) deepest = depth;
    } else if (byte === BRACE_END || byte === BRACKET_END) depth--;
  }
  return { values, depth: deepest };
}

/** How large a table is: lines with text in them, cells in all, the most cells in a line, bytes of the largest cell. */
export interface TableSize {
  lines: number;
  cells: number;
  widest: number;
  longest: number;
}

/** What a table of an archive may be, and one that is sent. */
export const MOST_OF_TABLE: TableSize = { lines: 1_000_001, cells: 24_000_000, widest: 200, longest: 200_000 };

/**
 * How large a table is (RFC 4180), told without reading it. Ends early at what is beyond `most`: such a table need not
 * be walked through.
 */
export function sizeOfTable(csv: Uint8Array, most: TableSize = MOST_OF_TABLE): TableSize {
  const size: TableSize = { lines: 0, cells: 0, widest: 0, longest: 0 };
  let [inText, cells, began, lineBegan] = [false, 1, 0, 0];
  const endCell = (i: number) => {
    if (i - began > size.longest) size.longest = i - began;
    began = i + 1;
  };
  const endLine = (i: number) => {
    endCell(i);
    // An empty line is none.
    if (i > lineBegan && !(i === lineBegan + 1 && csv[lineBegan] === RETURN)) {
      size.lines++;
      size.cells += cells;
      if (cells > size.widest) size.widest = cells;
    }
    [cells, lineBegan] = [1, i + 1];
  };
  for (let i = 0; i < csv.length; i++) {
    const byte = csv[i];
    if (byte === QUOTE) inText = !inText;
    else if (inText) {
      if (i - began > most.longest) break;
    } else if (byte === COMMA) {
      endCell(i);
      if (++cells > most.widest) break;
    } else if (byte === LINE_END) {
      endLine(i);
      if (size.lines > most.lines || size.cells > most.cells) return size;
    }
  }
  endLine(csv.length);
  return size;
}

/** Why a table is not read, in words; null where it may be. */
export function beyondTable(csv: Uint8Array, most: TableSize = MOST_OF_TABLE): string | null {
  const size = sizeOfTable(csv, most);
  const say = (n: number) => n.toLocaleString("en");
  if (size.widest > most.widest) return `has more than ${say(most.widest)} columns in a line`;
  if (size.longest > most.longest) return `has a cell of more than ${say(most.longest)} bytes`;
  if (size.lines > most.lines) return `has more than ${say(most.lines - 1)} lines`;
  if (size.cells > most.cells) return `has more than ${say(most.cells)} cells`;
  return null;
}
