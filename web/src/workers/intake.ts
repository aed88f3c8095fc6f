import type { ComponentList, ErrorBody, Imported, Intake } from "@jar-count/core/contract";
import { type IntakeKnown, type IntakeRow, intakeOf, mapped, readTable } from "@jar-count/core/intake";
import { expose } from "comlink";
import { config } from "zod";
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
/** The same lines keep their request key until they are judged anew: sent again after a lost answer, written once. */
let sent: { lines: string; key: string } | null = null;

/** Reads, judges and writes tables of thousands of lines, beside the page. */
const intake = {
  read(text: string): TableFile {
    table = readTable(text);
    return { headings: table.headings, first: table.rows.slice(0, 3), rows: table.rows.length, faults: table.faults };
  },

  /**
   * Judges every row by what the server has now. Components and sales are read here and not handed over: thousands of
   * them would hold the page up.
   */
  async judge(
    kind: Intake,
    mapping: Record<string, string>,
    known: Omit<IntakeKnown, "components" | "sold">,
    onProgress: (done: number) => void,
    onPart: (part: Judged[]) => void,
  ): Promise<void> {
    const { components }: ComponentList = await call("listComponents");
    const sold = kind === "sales" ? await call("knownSales") : { sales: [], boxes: [] };
    const judge = intakeOf(kind, { ...known, components, sold });
    const judged: Judged[] = [];
    rows = [];
    refused = [];
    sent = null;
    table!.rows.forEach((raw, i) => {
      if (i % AT_A_TIME === 0) onProgress(i);
      const row = mapped(raw, mapping);
      const found = judge(row);
      const faults = found.status === "refused" ? found.faults : [];
      rows.push(row);
      if (found.status === "refused") refused.push({ ...row, why: faults.join(" ") });
      judged.push({ line: i + 2, status: found.status, what: found.what, faults });
    });
    for (let from = 0; from < judged.length; from += PART) {
      onPart(judged.slice(from, from + PART));
      await breath();
    }
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
    const body = { requestKey: sent.key, person, name, rows: chosen.map((row) => ({ ...row })) };
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
