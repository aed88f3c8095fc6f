import {
  type ComponentList,
  type ErrorBody,
  type Imported,
  type Intake,
  MOST_OF_IMPORT,
} from "@jar-count/core/contract";
import {
  type DecimalMark,
  type IntakeKnown,
  type IntakeRow,
  intakeOf,
  mapped,
  markOfTable,
  type PlannedRow,
  readTable,
  seenOf,
} from "@jar-count/core/intake";
import { expose } from "comlink";
import { config } from "zod";
import "../api/randomId.ts";
import { call } from "../api/client.ts";
import { refusalOf } from "../api/refusal.ts";

// The page may not make code out of text (content security policy), and nor may its workers.
config({ jitless: true });

/** A judged row as the page shows it. */
export interface Judged {
  line: number;
  status: "new" | "changed" | "same" | "refused";
  what: string;
  faults: readonly string[];
  /** A supplier that it names and nobody knows. */
  supplier?: string;
}

/** What a file holds, before its columns are known for certain. */
export interface TableFile {
  headings: string[];
  first: Record<string, string>[];
  rows: number;
  faults: { line: number; message: string }[];
}

const AT_A_TIME = 500;
/** Lines go to the page in parts: taking over all of a large table at once would hold it up. */
const PART = 1000;
const breath = () => new Promise((next) => setTimeout(next));

let table: ReturnType<typeof readTable> | null = null;
let rows: IntakeRow[] = [];
let refused: IntakeRow[] = [];
/** What was decided about each row, and by which mark its numbers were read. */
let planned: PlannedRow[] = [];
let read: DecimalMark = ".";
/** The same lines keep their request key until they are judged anew: sent again after a lost answer, written once. */
let sent: { lines: string; key: string } | null = null;

/** A row that the server would not read, whatever it says. */
function tooLong(row: IntakeRow): PlannedRow | null {
  const long = Object.entries(row).find(([, cell]) => cell.length > MOST_OF_IMPORT.cell);
  if (!long) return null;
  const most = MOST_OF_IMPORT.cell.toLocaleString("en");
  return {
    status: "refused",
    what: (row.code ?? row.order ?? "").slice(0, 40),
    faults: [`${long[0]}: at most ${most} signs.`],
  };
}

/** Reads, judges and writes tables of thousands of lines, beside the page. */
const intake = {
  read(text: string): TableFile {
    table = readTable(text);
    return { headings: table.headings, first: table.rows.slice(0, 3), rows: table.rows.length, faults: table.faults };
  },

  /**
   * Judges every row by what the server has now. Components and sales are read here and not handed over: thousands of
   * them would hold the page up.
   * @param said what stands before the decimals; null to tell it from the numbers
   * @returns what does; null where nobody can tell, and then nothing is judged
   */
  async judge(
    kind: Intake,
    mapping: Record<string, string>,
    known: Omit<IntakeKnown, "components" | "sold">,
    said: DecimalMark | null,
    onProgress: (done: number) => void,
    onPart: (part: Judged[]) => void,
  ): Promise<DecimalMark | null> {
    rows = table!.rows.map((raw) => mapped(raw, mapping));
    refused = [];
    planned = [];
    sent = null;
    const mark = said ?? markOfTable(kind, rows);
    if (mark === null) return null;
    read = mark;
    const { components }: ComponentList = await call("listComponents");
    const sold = kind === "sales" ? await call("knownSales") : { sales: [], boxes: [] };
    const judge = intakeOf(kind, { ...known, components, sold }, mark);
    const judged: Judged[] = [];
    rows.forEach((row, i) => {
      if (i % AT_A_TIME === 0) onProgress(i);
      const found = tooLong(row) ?? judge(row);
      planned.push(found);
      const faults = found.status === "refused" ? found.faults : [];
      if (found.status === "refused") refused.push({ ...row, why: faults.join(" ") });
      const supplier = found.status === "refused" && found.supplier !== undefined ? { supplier: found.supplier } : {};
      judged.push({ line: i + 2, status: found.status, what: found.what, faults, ...supplier });
    });
    for (let from = 0; from < judged.length; from += PART) {
      onPart(judged.slice(from, from + PART));
      await breath();
    }
    return mark;
  },

  /** Writes all rows, or those of some lines of the file. A refusal comes back as a value: an error would lose it. */
  async write(
    kind: Intake,
    name: string,
    person: string | null,
    lines: readonly number[] | null,
  ): Promise<{ imported: Imported } | { refusal: ErrorBody }> {
    const which = String(lines);
    if (sent?.lines !== which) sent = { lines: which, key: crypto.randomUUID() };
    const chosen = lines ? lines.map((line) => rows[line - 2]!) : rows;
    const seen = seenOf(lines ? lines.map((line) => planned[line - 2]!) : planned);
    const body = { requestKey: sent.key, person, name, decimal: read, seen, rows: chosen.map((row) => ({ ...row })) };
    try {
      return { imported: await call("importTable", { params: { kind }, body }) };
    } catch (error) {
      return { refusal: refusalOf(error)! };
    }
  },

  refused: (): IntakeRow[] => refused,
};
export type IntakeWorker = typeof intake;

expose(intake);
