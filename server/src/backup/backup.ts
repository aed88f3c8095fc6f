import { stat } from "node:fs/promises";
import { join } from "node:path";
import { fillWorkshop, openOwn, packWorkshop, UNHURRIED } from "../work/archive.ts";
import { forgetBackups, listBackups, type NewBackup, noteCare, putBackup } from "../store/care.ts";
import { type Database, inTransaction, openDatabase } from "../store/database.ts";
import { migrate } from "../store/migrate.ts";
import { dump, proveDump } from "./dump.ts";
import { nameOf, readWhole, type Reason, removeWhole, sha256, writeWhole } from "./folder.ts";
import { outdated } from "./keep.ts";
import { inScratch } from "./scratch.ts";

export interface Keeper {
  owner: Database;
  ownerUrl: string;
  /** Where backups go. */
  folder: string;
  /** Where the migrations stand. */
  migrations: string;
}

/** Long work of the owner's: no request waits for it. */
export const LONG_WORK = { statement_timeout: 0, idle_in_transaction_session_timeout: 0 };

/** An archive in the backup folder that is not proved yet. */
export interface Written {
  file: string;
  madeAt: Date;
  reason: Reason;
}

/** Writes an archive into the backup folder, and returns when it is on the disk. */
export async function writeBackup({ folder }: Keeper, reason: Reason, zip: Uint8Array): Promise<Written> {
  const madeAt = new Date();
  const file = nameOf(madeAt, reason, "jarcount.zip");
  await writeWhole(folder, file, zip);
  return { file, madeAt, reason };
}

/**
 * Proves a written backup, remembers it, and takes away what no rule keeps any more.
 * @throws Error where it could not be proved; it is remembered with its fault
 */
export async function proveBackup(keeper: Keeper, { file, madeAt, reason }: Written): Promise<void> {
  // It is the file that is proved, not what was meant to be in it.
  const bytes = await readWhole(keeper.folder, file);
  const fault = await faultOf(() => proveArchive(keeper, bytes));
  await remember(keeper, { file, madeAt, reason, bytes: bytes.length, sha256: sha256(bytes), fault });
  await tidy(keeper);
  if (fault !== null) throw new Error(`The backup ${file} could not be proved: ${fault}`);
}

/**
 * Makes an archive of the workshop and proves it.
 * @returns the file's name
 * @throws Error where that failed, which stands on the first page from then on, until one is made and proved
 */
export async function backUp(keeper: Keeper, reason: Reason): Promise<string> {
  try {
    const { zip } = await packWorkshop(keeper.owner, UNHURRIED);
    const written = await writeBackup(keeper, reason, zip);
    await proveBackup(keeper, written);
    await noteCare(keeper.owner, "backup", { fault: null });
    return written.file;
  } catch (error) {
    const noted = noteCare(keeper.owner, "backup", { fault: sayFault(error) });
    await noted.catch((e: Error) => console.error(e.message)); // the database may be what failed
    throw error;
  }
}

/** Codes of the machine for a disk or a share of it that is full, and for one that takes nothing (errno(3)). */
const FULL = ["ENOSPC", "EDQUOT"];
const CLOSED = ["EACCES", "EPERM", "EROFS", "ENOENT", "ENOTDIR", "EIO"];

function sayFault(error: unknown): string {
  const { code = "", message, more } = error as Error & { code?: string; more?: { errors?: { detail: string }[] } };
  if (FULL.includes(code)) return "The disk of the backup folder is full. Make room, or name another folder.";
  if (CLOSED.includes(code)) return `The backup folder can't be written (${code}). Name another one.`;
  return [message, more?.errors?.[0]?.detail].filter(Boolean).join(" ").slice(0, 1000);
}

const remember = (keeper: Keeper, b: Omit<NewBackup, "proved">) =>
  putBackup(keeper.owner, { ...b, proved: b.fault === null });

async function faultOf(work: () => Promise<void>): Promise<string | null> {
  try {
    await work();
    return null;
  } catch (error) {
    return (error as Error).message.slice(0, 1000);
  }
}

/** Brings an archive into a scratch database and takes it out again: it must be the same to the byte. */
async function proveArchive({ ownerUrl, migrations }: Keeper, zip: Uint8Array): Promise<void> {
  const whole = await openOwn(zip);
  await inScratch(ownerUrl, async (url) => {
    await migrate(url, migrations);
    const scratch = openDatabase(url, LONG_WORK);
    try {
      await inTransaction(scratch, (session) => fillWorkshop(session, whole));
      const again = await packWorkshop(scratch, UNHURRIED);
      if (!Buffer.from(again.zip).equals(zip)) throw new Error("It is not the same when it is brought in.");
    } finally {
      await scratch.end();
    }
  });
}

/** Takes away backups that no rule keeps, and forgets those whose files are gone. */
async function tidy({ owner, folder }: Keeper): Promise<void> {
  const known = await listBackups(owner);
  const gone: string[] = [];
  for (const b of known) if (!(await stat(join(folder, b.file)).catch(() => null))) gone.push(b.file);
  const there = known.filter((b) => !gone.includes(b.file));
  const old = outdated(
    there.map((b) => ({
      file: b.file,
      madeAt: new Date(b.madeAt),
      proved: b.provedAt !== null,
      before: b.reason.startsWith("before"),
    })),
    new Date(),
  );
  for (const file of old) await removeWhole(folder, file);
  await forgetBackups(owner, [...gone, ...old]);
}

/**
 * Dumps the database before its schema changes, and proves the dump: an archive would need the schema that is not
 * there yet.
 * @returns what to remember once there is a table for it
 * @throws Error where it can't be made or proved; then nothing should be changed
 */
export async function backUpBeforeMigration(ownerUrl: string, folder: string): Promise<NewBackup> {
  const madeAt = new Date();
  const file = nameOf(madeAt, "before a migration", "dump");
  const path = join(folder, file);
  try {
    await writeWhole(folder, file, new Uint8Array());
    await dump(ownerUrl, path);
    await proveDump(ownerUrl, path);
  } catch (error) {
    await removeWhole(folder, file);
    throw error;
  }
  const bytes = await readWhole(folder, file);
  const [size, sum] = [bytes.length, sha256(bytes)];
  return { file, madeAt, reason: "before a migration", bytes: size, sha256: sum, proved: true, fault: null };
}
