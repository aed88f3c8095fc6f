import { type Component, findUnfit, type Intake, type Place, ImportRequest } from "@jar-count/core/contract";
import {
  type DecimalMark,
  intakeOf,
  type KnownSales,
  markOfTable,
  type PlannedRow,
  seenOf,
} from "@jar-count/core/intake";
import { createHash } from "node:crypto";

export type Accepted = Exclude<PlannedRow, { status: "refused" }>;
interface Fault {
  pointer: string;
  detail: string;
}
export interface TableHead {
  requestKey: string;
  person: string | null;
  name: string;
  /** Of all that was sent: the same table has the same one. */
  hash: string;
  /** What its sender was shown of it. */
  seen: string | null;
}

/** The table at hand: a reader does one at a time, and keeps it between these calls. */
let rows: ImportRequest["rows"] = [];
let mark: DecimalMark = ".";
let accepted: Accepted[] = [];

/** Reads a table as it came over the wire. */
export function readTable(kind: Intake, body: Uint8Array): { head: TableHead } | { faults: Fault[] } {
  let sent: unknown;
  try {
    sent = JSON.parse(new TextDecoder().decode(body));
  } catch (error) {
    return { faults: [{ pointer: "", detail: `This can't be read as JSON: ${(error as Error).message}.` }] };
  }
  const unfit = findUnfit(sent);
  if (unfit) return { faults: [unfit] };
  const found = ImportRequest.safeParse(sent);
  if (!found.success) {
    return {
      faults: found.error.issues
        .slice(0, 100)
        .map((i) => ({ pointer: i.path.map((s) => `/${String(s)}`).join(""), detail: i.message })),
    };
  }
  rows = found.data.rows;
  const { requestKey, person, name, decimal, seen } = found.data;
  const known = decimal ?? markOfTable(kind, rows);
  if (known === null) {
    const detail =
      "Its numbers can be read in two ways (1,250 is a thousand or a little more than one). Say its decimal " +
      "mark: a point or a comma.";
    return { faults: [{ pointer: "/decimal", detail }] };
  }
  mark = known;
  const hash = createHash("sha256").update(body).digest("hex");
  return { head: { requestKey, person: person ?? null, name, hash, seen: seen ?? null } };
}

/**
 * Judges the table at hand by what there is.
 * @param components every component as JSON text of an array
 */
export function judgeTable(
  kind: Intake,
  known: { components: string; places: Place[]; suppliers: { id: string; name: string }[]; sold: KnownSales },
): { many: number; seen: string } | { refused: number; faults: Fault[] } {
  const plan = intakeOf(kind, { ...known, components: JSON.parse(known.components) as Component[] }, mark);
  accepted = [];
  let refused = 0;
  const faults: Fault[] = [];
  for (const [i, row] of rows.entries()) {
    const found = plan(row);
    if (found.status !== "refused") accepted.push(found);
    else {
      refused += found.faults.length;
      for (const detail of found.faults) if (faults.length < 1000) faults.push({ pointer: `/rows/${i}`, detail });
    }
  }
  return refused > 0 ? { refused, faults } : { many: accepted.length, seen: seenOf(accepted) };
}

/** A part of what was judged good, in its order. */
export const tablePart = (from: number, many: number): Accepted[] => accepted.slice(from, from + many);
