import { type Files, readArchive, writeArchive } from "@jar-count/core/archive";
import type { Archive } from "@jar-count/core/contract";
import { strFromU8, strToU8, unzipSync, type Zippable, zipSync } from "fflate";
import { Refusal } from "../refusal/index.ts";
import { exportWorkshop, isEmpty, lockWorkshop, putLot } from "../store/archive.ts";
import { writeBox } from "../store/boxes.ts";
import { putComponents } from "../store/components.ts";
import { changesOf, EMPTY_BOX } from "@jar-count/core/box";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { addRevision, putTrial, setArchived } from "../store/designs.ts";
import { refreshPromises, rememberWeighing } from "../store/ledger.ts";
import { putOrder, setReceived } from "../store/orders.ts";
import { addReservation } from "../store/reservations.ts";
import { putRooms } from "../store/rooms.ts";
import { putWorkshop } from "../store/workshop.ts";
import { importLedger } from "./book.ts";

const MOST_BYTES = 200_000_000;

/** The whole workshop as one zip of open files: the same workshop gives the same bytes. */
export async function packWorkshop(db: Database): Promise<{ name: string; zip: Buffer }> {
  // One consistent view of everything, however long it takes.
  const archive = await inTransaction(db, exportWorkshop, "repeatable read, read only");
  const files: Zippable = {};
  for (const [path, text] of Object.entries(writeArchive(archive))) files[path] = strToU8(text);
  // A fixed time in it, as a zip holds the time of its files.
  const bytes = zipSync(files, { mtime: new Date(2000, 0, 1), level: 6 });
  return { name: archive.workshop.name, zip: Buffer.from(bytes) };
}

/** Takes an archive into an empty workshop: checked whole before anything is written. */
export async function takeIn(db: Database, zip: Buffer) {
  const found = readArchive(unpack(zip));
  if ("faults" in found) {
    throw new Refusal("invalid", "This archive can't be taken in; each place says why. Nothing was written.", {
      errors: found.faults.slice(0, 100).map(({ file, detail }) => ({ pointer: `/${file}`, detail })),
    });
  }
  await inTransaction(db, (session) => fillWorkshop(session, found.archive));
  const { components, designs, boxes, ledger } = found.archive;
  return {
    components: components.length,
    designs: designs.length,
    boxes: boxes.length,
    movements: ledger.length,
  };
}

function unpack(zip: Buffer): Files {
  const files: Files = {};
  let bytes = 0;
  try {
    const found = unzipSync(zip, {
      filter: ({ name, originalSize }) => {
        bytes += originalSize;
        if (bytes > MOST_BYTES) throw new Error("too large");
        return /\.(json|csv)$/.test(name);
      },
    });
    for (const [name, data] of Object.entries(found)) files[name] = strFromU8(data);
  } catch {
    const why =
      bytes > MOST_BYTES ? "It would unpack to more than 200 MB." : "It is not a zip file, or it was cut short.";
    throw new Refusal("not-an-archive", `This archive can't be opened. ${why} Nothing was written.`);
  }
  return files;
}

/** Writes a checked archive into an empty workshop, in the transaction at hand. */
export async function fillWorkshop(session: Session, archive: Archive): Promise<void> {
  await lockWorkshop(session);
  if (!(await isEmpty(session))) {
    throw new Refusal(
      "not-empty",
      "An archive goes into an empty workshop only, so that nothing is overwritten. " +
        "Start a new one with npm start -- --reset.",
    );
  }
  await putWorkshop(session, archive.workshop);
  await putRooms(session, archive);
  await putComponents(session, archive.components);
  await importLedger(session, archive.ledger);
  for (const { tareG, ...at } of archive.jars) await rememberWeighing(session, { ...at, lot: "" }, tareG, null);
  for (const { massG, massU, massSd, pieces, ...at } of archive.lots) {
    await putLot(session, at.component, at.lot);
    const piece = { g: massG, u: massU, sd: massSd ?? null, pieces };
    await rememberWeighing(session, { ...at, place: "" }, null, piece);
  }
  for (const { id, received, ...order } of archive.orders) {
    await putOrder(session, id, order);
    await setReceived(session, received);
  }
  for (const reservation of archive.setAside) await addReservation(session, reservation);
  await refreshPromises(
    session,
    archive.components.map((c) => c.id),
  );
  for (const { id, revisions, archived, trials } of archive.designs) {
    for (const { no, design, reason, savedAt } of revisions) {
      await addRevision(session, id, no, design, reason, savedAt);
    }
    if (archived) await setArchived(session, id, true);
    for (const trial of trials) await putTrial(session, id, trial);
  }
  for (const { id, ...box } of archive.boxes) await writeBox(session, id, box, changesOf(EMPTY_BOX, box));
}
