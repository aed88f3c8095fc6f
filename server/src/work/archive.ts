import { randomUUID } from "node:crypto";
import { emptyArchive } from "@jar-count/core/archive";
import { changesOf, EMPTY_BOX } from "@jar-count/core/box";
import { type Archive, type RestorePlan, workshopInputOf } from "@jar-count/core/contract";
import type { Opened, Unfit, Whole } from "../archive/index.ts";
import { Refusal } from "../refusal/index.ts";
import {
  exportWorkshop,
  isEmpty,
  lockWorkshop,
  putLot,
  putRequests,
  putVersions,
  summarize,
} from "../store/archive.ts";
import { writeBox } from "../store/boxes.ts";
import { putComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { addRevision, putTrial, setArchived } from "../store/designs.ts";
import { balancesThatDiffer, exportBooks, rememberWeighing } from "../store/ledger.ts";
import { putBands, putMoney } from "../store/money.ts";
import { listOrders, putOrder } from "../store/orders.ts";
import { addReservation } from "../store/reservations.ts";
import { putRooms } from "../store/rooms.ts";
import { putRun } from "../store/runs.ts";
import { putSales } from "../store/sales.ts";
import { putStocktake } from "../store/stocktakes.ts";
import { findWorkshop, putWorkshop } from "../store/workshop.ts";
import { inReader } from "../readers/pool.ts";
import { inThread } from "../threads/pool.ts";
import { digestOf } from "@jar-count/core/units";
import { importLedger } from "./book.ts";

/** How long an archive may take to be packed or opened for a request, and where nobody waits for it, s. */
const SECONDS = 120;
export const UNHURRIED = 1800;

/** The whole workshop as one zip of open files: the same workshop gives the same bytes. */
export async function packWorkshop(db: Database, seconds = SECONDS): Promise<{ name: string; zip: Uint8Array }> {
  // One consistent view of everything, however long it takes.
  const archive = await inTransaction(db, exportWorkshop, "repeatable read, read only");
  return {
    name: archive.workshop.name,
    zip: await inThread((work) => work.packArchive(archive), { seconds }),
  };
}

/** An archive of a workshop with nothing in it but its name, its money and the one place that every workshop has. */
export async function packEmpty(db: Database): Promise<Uint8Array> {
  const workshop = workshopInputOf(await findWorkshop(db));
  const shelf = { id: randomUUID(), code: "SHELF", name: "The shelf", held: false };
  const archive = emptyArchive({ ...workshop, saved: 1, roomsSaved: 1 }, [shelf]);
  return inThread((work) => work.packArchive(archive), { seconds: SECONDS });
}

/**
 * Opens an archive in a process of its own: whatever it holds, nobody else waits for it, and only that process may die
 * of it.
 */
export async function openWhole(zip: Uint8Array, seconds = SECONDS, signal?: AbortSignal): Promise<Whole> {
  const found: Opened = await inReader((reader) => reader.openArchive(zip), { seconds, signal });
  if (!("unfit" in found)) return found;
  throw refusalOf(found.unfit);
}

/** Opens an archive of our own, for whoever looks after the workshop: it may be larger than what is sent. */
export async function openOwn(zip: Uint8Array): Promise<Whole> {
  const found: Opened = await inReader((reader) => reader.openArchive(zip, "own"), { seconds: UNHURRIED });
  if (!("unfit" in found)) return found;
  throw refusalOf(found.unfit);
}

/** How much is in an archive that can be taken in. */
export async function summaryOfWhole(zip: Uint8Array, signal?: AbortSignal): Promise<Whole["summary"]> {
  const found = await inReader((reader) => reader.lookInto(zip), { seconds: SECONDS, signal });
  if (!("unfit" in found)) return found.summary;
  throw refusalOf(found.unfit);
}

function refusalOf({ code, detail, faults }: Unfit): Refusal {
  const errors = faults.slice(0, 100).map((f) => ({ pointer: `/${f.file}`, detail: f.detail }));
  return new Refusal(code, `${detail}${detail.endsWith("written.") ? "" : " Nothing was written."}`, {
    ...(errors.length > 0 ? { errors } : {}),
  });
}

/** What an archive holds, beside what is here: nothing is written. */
export async function planRestore(db: Database, zip: Uint8Array, signal: AbortSignal): Promise<RestorePlan> {
  const summary = await summaryOfWhole(zip, signal);
  return planOf(await inTransaction(db, hereNow, "repeatable read, read only"), summary);
}

/** How much there is here; null where nothing is. */
const hereNow = async (session: Session) => ((await isEmpty(session)) ? null : await summarize(session));

const planOf = (here: RestorePlan["here"], archive: RestorePlan["archive"]): RestorePlan => ({
  here,
  archive,
  seen: digestOf(JSON.stringify([here, archive])),
});

/**
 * Looks once more at what an archive would take the place of, before it is laid down.
 * @param seen what a person was shown of it
 * @throws Refusal `stale` with what it would be now, where that is something else
 */
export async function mustBeAsSeen(
  db: Database,
  zip: Uint8Array,
  seen: string | undefined,
  signal: AbortSignal,
): Promise<void> {
  const plan = await planRestore(db, zip, signal);
  if (seen === undefined || seen === plan.seen) return;
  throw new Refusal(
    "stale",
    "Something was written here since both were shown. Nothing was put in its place; look at both again.",
    { current: plan },
  );
}

/** Takes an archive into an empty workshop: checked whole before anything is written, and held against it after. */
export async function takeIn(db: Database, zip: Uint8Array, signal: AbortSignal) {
  const whole = await openWhole(zip, SECONDS, signal);
  await inTransaction(db, async (session) => {
    await lockWorkshop(session);
    if (!(await isEmpty(session))) {
      throw new Refusal(
        "not-empty",
        "There is something in this workshop already. An archive takes its place only after both were shown.",
      );
    }
    await fillWorkshop(session, whole);
  });
  const { components, designs, boxes, movements } = whole.summary;
  return { components, designs, boxes, movements };
}

/**
 * Writes a checked archive into an empty workshop, in the transaction at hand, and holds the books that come of it
 * against those of the archive.
 * @throws Refusal where they differ; then nothing of it may stay
 */
export async function fillWorkshop(
  session: Session,
  { archive, older }: Pick<Whole, "archive" | "older">,
): Promise<void> {
  await putWorkshop(session, archive.workshop);
  await putRooms(session, archive);
  await putComponents(session, archive.components);
  const { saved: _saved, postage, ...money } = archive.money;
  await putMoney(session, money);
  if (postage) await putBands(session, postage);
  const before = receivedBefore(archive);
  for (const { id, version: _version, received: _received, ...order } of archive.orders) {
    await putOrder(session, id, order, before);
  }
  await importLedger(session, archive.ledger);
  for (const { tareG, ...at } of archive.jars) await rememberWeighing(session, { ...at, lot: "" }, tareG, null);
  for (const { massG, massU, massSd, pieces, ...at } of archive.lots) {
    await putLot(session, at.component, at.lot);
    const piece = { g: massG, u: massU, sd: massSd ?? null, pieces };
    await rememberWeighing(session, { ...at, place: "" }, null, piece);
  }
  for (const { id, revisions, archived, trials } of archive.designs) {
    for (const { no, design, reason, savedAt } of revisions) {
      await addRevision(session, id, no, design, reason, savedAt);
    }
    if (archived) await setArchived(session, id, true);
    for (const { version: _version, writtenAt, ...trial } of trials) {
      await putTrial(session, id, trial, writtenAt ?? `${trial.madeOn}T00:00:00Z`);
    }
  }
  for (const { id, version: _version, ...box } of archive.boxes) {
    await writeBox(session, id, box, changesOf(EMPTY_BOX, box));
  }
  await putSales(session, archive.sales);
  for (const run of archive.runs) await putRun(session, run);
  for (const reservation of archive.setAside) await addReservation(session, reservation);
  for (const walk of archive.stocktakes) await putStocktake(session, walk);
  await putRequests(session, archive.requests);
  await putVersions(session, archive);
  const wrong = await whereItDiffers(session, archive, older);
  const codes = new Map(archive.components.map((c) => [c.id, c.code]));
  for (const { component, ledger, balance } of await balancesThatDiffer(session)) {
    wrong.push(`${codes.get(component) ?? component}: ${ledger} by the ledger, and ${balance} is said of it.`);
  }
  if (wrong.length > 0) {
    throw new Refusal("invalid", "The books of this archive do not agree with its ledger. Nothing was written.", {
      errors: wrong.slice(0, 100).map((detail) => ({ pointer: "/ledger.csv", detail })),
    });
  }
}

/** What was received of order lines beyond the deliveries that the ledger names. */
function receivedBefore(archive: Archive): Record<string, number> {
  const before: Record<string, number> = {};
  for (const order of archive.orders) Object.assign(before, order.received);
  for (const { orderLine, quantity, stretchMm } of archive.ledger) {
    if (orderLine != null) before[orderLine] = (before[orderLine] ?? 0) - quantity * (stretchMm ?? 1);
  }
  // Sums of thousandths, made of binary floats.
  for (const line of Object.keys(before)) before[line] = Math.max(0, Math.round(before[line]! * 1000) / 1000);
  return before;
}

/** Holds what the database made of a ledger against what the archive says of it: sentences, none where all is well. */
async function whereItDiffers(session: Session, archive: Archive, older: boolean): Promise<string[]> {
  const codes = new Map(archive.components.map((c) => [c.id, c.code]));
  const wrong: string[] = [];
  const compare = <T>(what: string, here: T[], there: T[], key: (row: T) => string, name: (row: T) => string) => {
    const text = (row: T) =>
      JSON.stringify(
        Object.entries(row as object)
          .filter(([, value]) => value != null)
          .sort(),
      );
    const open = new Map(there.map((row) => [key(row), text(row)]));
    for (const row of here) {
      if (open.get(key(row)) !== text(row)) wrong.push(`${what} of ${name(row)} does not follow from the ledger.`);
      open.delete(key(row));
    }
    for (const row of there) if (open.has(key(row))) wrong.push(`${what} of ${name(row)} is not in the ledger.`);
  };
  const nameOf = ({ component }: { component: string }) => codes.get(component) ?? component;
  if (!older) {
    const books = await exportBooks(session);
    const spot = (b: Archive["balances"][number]) => `${b.component} ${b.place} ${b.stretchMm ?? 0} ${b.lot}`;
    compare("A balance", books.balances, archive.balances, spot, nameOf);
    compare("The total", books.totals, archive.totals, (t) => t.component, nameOf);
  }
  const received = (orders: readonly Pick<Archive["orders"][number], "number" | "lines" | "received">[]) =>
    orders.flatMap((o) => o.lines.map((l) => ({ line: l.id, order: o.number, received: o.received[l.id] ?? 0 })));
  compare(
    "What was received",
    received(await listOrders(session)),
    received(archive.orders),
    (l) => l.line,
    (l) => `order ${l.order}`,
  );
  return wrong;
}
