import { type Intake, type IntakeKnown, type IntakeRow, intakeOf, mapped, readTable } from "@jar-count/core/intake";
import { config } from "zod";

// The page may not make code out of text (content security policy), and nor may its workers.
config({ jitless: true });

/** What the page asks of the worker: read a file, or judge its rows. */
export type Ask = { read: string } | { judge: { kind: Intake; mapping: Record<string, string>; known: IntakeKnown } };

/** A judged row as the page shows it. */
export interface Judged {
  line: number;
  status: "new" | "changed" | "same" | "refused";
  what: string;
  faults: readonly string[];
}
export type Tell =
  | { headings: string[]; first: Record<string, string>[]; rows: number; faults: { line: number; message: string }[] }
  | { done: number; of: number }
  | { judged: Judged[]; rows: IntakeRow[] };

const AT_ONCE = 500;
let table: ReturnType<typeof readTable> | null = null;

addEventListener("message", (e: MessageEvent<Ask>) => {
  if ("read" in e.data) {
    table = readTable(e.data.read);
    postMessage({ headings: table.headings, first: table.rows.slice(0, 3), rows: table.rows.length, faults: table.faults } satisfies Tell);
  } else if (table) {
    const { kind, mapping, known } = e.data.judge;
    const judge = intakeOf(kind, known);
    const judged: Judged[] = [];
    const rows: IntakeRow[] = [];
    table.rows.forEach((raw, i) => {
      if (i % AT_ONCE === 0) postMessage({ done: i, of: table!.rows.length } satisfies Tell);
      const row = mapped(raw, mapping);
      const found = judge(row);
      rows.push(row);
      judged.push({ line: i + 2, status: found.status, what: found.what, faults: found.status === "refused" ? found.faults : [] });
    });
    postMessage({ judged, rows } satisfies Tell);
  }
});
