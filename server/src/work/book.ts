import { replacementCost } from "@jar-count/core/component";
import type { Books, LedgerLine } from "@jar-count/core/contract";
import { type Move, type Moved, post, type SpotBalance, spotKey, type Total } from "@jar-count/core/stock";
import { exact } from "@jar-count/core/units";
import Big from "big.js";
import { Refusal } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import { lockOrdersOf, touchOrders } from "../store/orders.ts";
import {
  appendEntries,
  balancesThatDiffer,
  findEntry,
  linesOfEntry,
  lockTotals,
  type NewEntry,
  readBook,
  sizesOfBooks,
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
 * Appends one entry to the ledger, in the transaction at hand; the database brings balances and totals along.
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
}

/**
 * Undoes an entry by another one that moves everything back, with its value and its doubt.
 * @param ofPacking whether what was used for a box may be taken back: then its need must be seen to as well
 * @returns the components it touched; orders whose delivery it takes back are open again
 * @throws Refusal when it was reversed before, is a reversal itself, or what it brought is not there any more
 */
export async function reverseEntry(
  db: Session,
  id: string,
  by: Omit<NewEntry, "kind" | "reverses">,
  ofPacking = false,
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
  if (!ofPacking && lines.some((l) => l.need !== null)) {
    throw new Refusal("is-packed", "This was used for a box that is packed. Take it back where the box is packed.");
  }
  const deliveries = lines.flatMap((l) => l.orderLine ?? []);
  await lockOrdersOf(db, deliveries);
  const moves = lines.map((l): Move => ({
    component: l.component,
    place: l.place,
    lot: l.lot,
    stretchMm: l.stretchMm,
    quantity: -l.quantity || 0,
    value: opposite(l.value),
    orderLine: l.orderLine,
    need: l.need,
    // How sure the book was before it, unless something moved since: then the doubt of both stays.
    ...(l.last ? { varianceAfter: l.before ?? 0 } : {}),
  }));
  await postEntry(db, { ...by, kind: "reversed", reverses: id, run: entry.run }, moves, () => "");
  await touchOrders(db, deliveries);
  return [...new Set(lines.map((l) => l.component))];
}

/** Decimal text with its sign turned. */
function opposite(value: string): string {
  if (/^-?0(\.0*)?$/.test(value)) return "0";
  return value.startsWith("-") ? value.slice(1) : `-${value}`;
}

/** Writes a ledger again, line by line as it was: nothing is valued anew, and the balances follow from it. */
export async function importLedger(db: Session, lines: readonly LedgerLine[]): Promise<void> {
  const entries: NewEntry[] = [];
  const moved: Moved[][] = [];
  const places = new Map<string, number>();
  const sums = new Map<string, { onHand: number; value: Big }>();
  for (const l of lines) {
    const stretchMm = l.stretchMm ?? 0;
    const sum = sums.get(l.component) ?? { onHand: 0, value: new Big(0) };
    sum.onHand = exact(sum.onHand + exact(l.quantity * (stretchMm > 0 ? stretchMm : 1)));
    // Archives before version 3 left a rest of worth with what was emptied.
    const value = l.balance == null && sum.onHand === 0 ? new Big(0).minus(sum.value).toFixed() : l.value;
    sum.value = sum.value.plus(value);
    sums.set(l.component, sum);
    const line: Moved = {
      component: l.component,
      place: l.place,
      lot: l.lot,
      stretchMm,
      quantity: l.quantity,
      counted: l.counted ?? null,
      u: l.u,
      varianceAfter: l.varianceAfter,
      value,
      cost: l.cost ?? null,
      entered: l.entered,
      balance: l.balance ?? sum.onHand,
      orderLine: l.orderLine ?? null,
      need: l.need ?? null,
    };
    const known = places.get(l.requestKey);
    if (known !== undefined) moved[known]!.push(line);
    else {
      places.set(l.requestKey, entries.length);
      const { kind, requestKey, person, note, at, run } = l;
      const [minutes, reversesKey] = [l.minutes ?? null, l.reverses ?? null];
      entries.push({ kind, requestKey, person, note, minutes, reversesKey, at, run });
      moved.push([line]);
    }
  }
  await appendEntries(db, entries, moved);
}
