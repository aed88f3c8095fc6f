import { replacementCost } from "@jar-count/core/cost";
import type { Books, LedgerLine } from "@jar-count/core/contract";
import { type SpotBalance, type Move, post, spotKey, type Total } from "@jar-count/core/stock";
import { Refusal } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import {
  appendEntries,
  balancesThatDiffer,
  findEntry,
  linesOfEntry,
  lockTotals,
  type NewEntry,
  readBook,
  sizesOfBooks,
  writeBalances,
  writeTotals,
} from "../store/ledger.ts";

/** What the book holds of some components: spots by their key, totals by component. Posting changes both. */
export interface Book {
  spots: Map<string, SpotBalance>;
  totals: Map<string, Total>;
}

/** Holds every balance and total against the ledger: what differs, named. */
export async function checkBooks(db: Session): Promise<Books> {
  const differ = await balancesThatDiffer(db);
  const found = await findComponents(db, [...new Set(differ.map((d) => d.component))]);
  const known = new Map(found.map((c) => [c.id, { code: c.code, name: c.name }]));
  return {
    checkedAt: new Date().toISOString(),
    ...(await sizesOfBooks(db)),
    differ: differ.map((d) => ({ ...d, ...known.get(d.component)! })),
  };
}

/** Locks components for the rest of the transaction and reads what the book holds of them. */
export async function openBook(db: Session, components: readonly string[]): Promise<Book> {
  const ids = [...new Set(components)];
  await lockTotals(db, ids);
  const { spots, totals } = await readBook(db, ids);
  // What something would cost new is asked only where nothing else gives it a value.
  const unvalued = totals.filter((t) => t.lastCost === null && !(t.onHand > 0 && Number(t.value) > 0));
  const priced =
    unvalued.length > 0
      ? await findComponents(
          db,
          unvalued.map((t) => t.component),
        )
      : [];
  const replacement = new Map(priced.map((c) => [c.id, replacementCost(c)]));
  return {
    spots: new Map(spots.map((h) => [spotKey(h), h])),
    totals: new Map(totals.map((t) => [t.component, { ...t, replacement: replacement.get(t.component) ?? null }])),
  };
}

type EntryWithMoves = NewEntry & { moves: readonly Move[] };

/**
 * Appends one entry to the ledger and brings balances and totals along, in the transaction at hand.
 * @param pointer where in the body a move was asked for
 * @throws Refusal `not-in-jar` with a pointer for each move that would take what is not there
 */
export const postEntry = (
  db: Session,
  entry: NewEntry,
  moves: readonly Move[],
  pointer: (move: number) => string,
): Promise<void> => postEntries(db, [{ ...entry, moves }], pointer);

/** Appends entries in their order, as {@link postEntry} does one. */
async function postEntries(
  db: Session,
  entries: readonly EntryWithMoves[],
  pointer: (move: number) => string,
): Promise<void> {
  const components = entries.flatMap((e) => e.moves.map((m) => m.component));
  const { spots, totals } = await openBook(db, components);
  const posted = entries.map((e) => post(spots, totals, e.moves));
  const faults = posted.flatMap((p) => p.faults);
  if (faults.length > 0) {
    throw new Refusal("not-in-jar", faults[0]!.message, {
      errors: faults.slice(0, 100).map((f) => ({ pointer: pointer(f.move), detail: f.message })),
      holds: faults[0]!.holds,
    });
  }
  await appendEntries(
    db,
    entries,
    posted.map((p) => p.moved),
  );
  const keys = new Set(posted.flatMap((p) => p.moved.map(spotKey)));
  const changed = [...keys].map((key) => spots.get(key)!);
  await writeBalances(db, changed, [...totals.keys()]);
  await writeTotals(db, [...totals.values()]);
}

/**
 * Undoes an entry by another one that moves everything back, with its value and its doubt.
 * @returns the components it touched
 * @throws Refusal when it was reversed before, is a reversal itself, or what it brought is not there any more
 */
export async function reverseEntry(
  db: Session,
  id: string,
  by: Omit<NewEntry, "kind" | "reverses">,
): Promise<string[]> {
  const entry = await findEntry(db, id);
  if (!entry) throw new Refusal("not-found", "This entry is not in the ledger.");
  if (entry.kind === "reversed") {
    throw new Refusal("is-reversal", "This undoes another entry. Write down anew what happened instead of undoing it.");
  }
  if (entry.reversedBy) {
    throw new Refusal("reversed-before", "This entry was reversed already. Look at the ledger again.");
  }
  const lines = await linesOfEntry(db, id);
  const moves = lines.map((l): Move => ({
    component: l.component,
    place: l.place,
    lot: l.lot,
    stretchMm: l.stretchMm,
    quantity: -l.quantity || 0,
    value: opposite(l.value),
    // How sure the book was before it, unless something moved since: then the doubt of both stays.
    ...(l.last ? { varianceAfter: l.before ?? 0 } : {}),
  }));
  await postEntry(db, { ...by, kind: "reversed", reverses: id }, moves, () => "");
  return [...new Set(lines.map((l) => l.component))];
}

/** Decimal text with its sign turned. */
function opposite(value: string): string {
  if (/^-?0(\.0*)?$/.test(value)) return "0";
  return value.startsWith("-") ? value.slice(1) : `-${value}`;
}

/** Writes a ledger again, entry by entry as it was posted: the balances follow from it. */
export async function importLedger(db: Session, lines: readonly LedgerLine[]): Promise<void> {
  const entries: (EntryWithMoves & { moves: Move[] })[] = [];
  for (const l of lines) {
    const spot = {
      component: l.component,
      place: l.place,
      lot: l.lot,
      stretchMm: l.stretchMm ?? 0,
      entered: l.entered,
    };
    const move: Move =
      l.counted == null
        ? {
            ...spot,
            quantity: l.quantity,
            u: l.u,
            varianceAfter: l.varianceAfter,
            value: l.value,
            cost: l.cost ?? null,
          }
        : { ...spot, counted: l.counted, u: l.u };
    const last = entries.at(-1);
    if (last?.requestKey === l.requestKey) last.moves.push(move);
    else
      entries.push({
        kind: l.kind,
        requestKey: l.requestKey,
        person: l.person,
        note: l.note,
        minutes: l.minutes,
        reversesKey: l.reverses,
        at: l.at,
        moves: [move],
      });
  }
  if (entries.length > 0) await postEntries(db, entries, () => "/ledger.csv");
}
