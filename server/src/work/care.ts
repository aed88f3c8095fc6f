import type { Care, Restoring } from "@jar-count/core/contract";
import { notFound, Refusal } from "../refusal/index.ts";
import { askJob, findCare, findRestore, layRestore } from "../store/care.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { mustBeAsSeen } from "./archive.ts";

/** @throws Refusal where no job process is there to do it */
async function mustHaveJobs(db: Session): Promise<Care> {
  const care = await findCare(db);
  if (care.jobs) return care;
  throw new Refusal(
    "no-jobs",
    "No job process looks after this database, so backups and restores are its operator's. " +
      "Give the start script DATABASE_OWNER_URL, and it is there.",
  );
}

/** Asks for a backup now; it is in the list when it is made and proved. */
export async function askBackUp(db: Database): Promise<Care> {
  const care = await mustHaveJobs(db);
  await askJob(db, "back-up");
  return care;
}

/** Lays an archive down to be put in the place of everything: opened and checked first, so that it is known to fit. */
export async function layDown(
  db: Database,
  id: string,
  zip: Uint8Array,
  seen: string | undefined,
  signal: AbortSignal,
): Promise<Restoring> {
  await mustHaveJobs(db);
  // Sent again after a lost answer: it is under way, or done.
  const known = await findRestore(db, id);
  if (known) return known;
  await mustBeAsSeen(db, zip, seen, signal);
  return inTransaction(db, async (session) => {
    await layRestore(session, id, zip);
    await askJob(session, "restore", { id });
    return readRestoring(session, id);
  });
}

export async function readRestoring(db: Session, id: string): Promise<Restoring> {
  const found = await findRestore(db, id);
  if (!found) throw notFound("This restore");
  return found;
}
