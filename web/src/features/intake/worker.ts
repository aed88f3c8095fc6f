import type { ComponentList } from "@jar-count/core/contract";
import { type Intake, type IntakeKnown, type IntakeRow, intakeOf, mapped, readTable } from "@jar-count/core/intake";
import { config } from "zod";

// The page may not make code out of text (content security policy), and nor may its workers.
config({ jitless: true });

/**
 * What the page asks of the worker: read a file, judge its rows, write them (all, or those of some lines), give back
 * the refused.
 */
export type Ask =
  | { read: string }
  | { write: { kind: Intake; name: string; person: string | null; lines: readonly number[] | null } }
  | { refused: true }
  | { judge: { kind: Intake; mapping: Record<string, string>; known: Omit<IntakeKnown, "components"> } };

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
  | { judged: Judged[]; last: boolean }
  | { away: true }
  | { refusedRows: IntakeRow[] }
  | { written: { status: number; body: unknown } };

const AT_ONCE = 500;
/** Lines go to the page in parts: taking over all of a large table at once would hold it up. */
const PART = 1000;
let table: ReturnType<typeof readTable> | null = null;
let rows: IntakeRow[] = [];
let refused: IntakeRow[] = [];
/**
 * The same lines keep their request key until they are judged anew: sent again after a lost answer, they are written
 * once.
 */
let sent: { lines: string; key: string } | null = null;

addEventListener("message", async (e: MessageEvent<Ask>) => {
  if ("refused" in e.data) postMessage({ refusedRows: refused } satisfies Tell);
  else if ("write" in e.data) {
    const { kind, name, person, lines } = e.data.write;
    const which = String(lines);
    if (sent?.lines !== which) sent = { lines: which, key: crypto.randomUUID() };
    const body = JSON.stringify({
      requestKey: sent.key,
      person,
      name,
      rows: lines ? lines.map((l) => rows[l - 2]) : rows,
    });
    try {
      const answer = await fetch(`/api/imports/${kind}`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body,
      });
      postMessage({ written: { status: answer.status, body: await answer.json() } } satisfies Tell);
    } catch {
      postMessage({ written: { status: 0, body: null } } satisfies Tell);
    }
  } else if ("read" in e.data) {
    table = readTable(e.data.read);
    postMessage({
      headings: table.headings,
      first: table.rows.slice(0, 3),
      rows: table.rows.length,
      faults: table.faults,
    } satisfies Tell);
  } else if (table) {
    const { kind, mapping, known } = e.data.judge;
    // Read here and not handed over: thousands of them would hold the page up.
    const answer = await fetch("/api/components").catch(() => null);
    if (!answer?.ok) return postMessage({ away: true } satisfies Tell);
    const { components } = (await answer.json()) as ComponentList;
    const judge = intakeOf(kind, { ...known, components });
    const judged: Judged[] = [];
    rows = [];
    refused = [];
    sent = null;
    table.rows.forEach((raw, i) => {
      if (i % AT_ONCE === 0) postMessage({ done: i, of: table!.rows.length } satisfies Tell);
      const row = mapped(raw, mapping);
      const found = judge(row);
      rows.push(row);
      if (found.status === "refused") refused.push({ ...row, why: found.faults.join(" ") });
      judged.push({
        line: i + 2,
        status: found.status,
        what: found.what,
        faults: found.status === "refused" ? found.faults : [],
      });
    });
    for (let from = 0; ; from += PART) {
      const last = from + PART >= judged.length;
      postMessage({ judged: judged.slice(from, from + PART), last } satisfies Tell);
      if (last) break;
      // A breath between the parts, for the page.
      await new Promise((next) => setTimeout(next));
    }
  }
});
