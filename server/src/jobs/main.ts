/**
 * The job process: brings the database up to date, then looks after it. It alone has the owner's connection
 * (DATABASE_OWNER_URL); the server's role is the one that DATABASE_URL names. Prints `ready` when the schema is there.
 *
 * `jobs.js restore FILE [--replace]` brings a backup in instead, and is over.
 *
 * BACKUP_FOLDER says where backups go; PG_PROGRAMS where PostgreSQL's own programs are.
 */
import { resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { backUpBeforeMigration, dropOldScratches, dropParts, type Keeper, LONG_WORK } from "../backup/index.ts";
import { leave, noteCare, putBackup } from "../store/care.ts";
import { endReaders } from "../readers/pool.ts";
import { openDatabase } from "../store/database.ts";
import { migrate } from "../store/migrate.ts";
import { grantTo } from "../store/roles.ts";
import { makeQueue, startJobs } from "./jobs.ts";
import { restoreFile } from "./restore.ts";

const root = fileURLToPath(new URL("../../", import.meta.url));
const ownerUrl = process.env.DATABASE_OWNER_URL;
if (!ownerUrl) throw new Error("DATABASE_OWNER_URL is not set: start with npm start or npm run demo.");
const role = process.env.DATABASE_URL ? decodeURIComponent(new URL(process.env.DATABASE_URL).username) : null;
const keeper: Keeper = {
  owner: openDatabase(ownerUrl, LONG_WORK),
  ownerUrl,
  folder: resolve(process.env.BACKUP_FOLDER ?? `${root}.data/backups`),
  migrations: `${root}server/migrations`,
};

async function bringUpToDate() {
  let made: Awaited<ReturnType<typeof backUpBeforeMigration>> | null = null;
  await migrate(ownerUrl!, keeper.migrations, {
    before: async () => {
      made = await backUpBeforeMigration(ownerUrl!, keeper.folder);
    },
    after: async (client) => {
      await makeQueue(keeper.owner);
      if (role !== null) await grantTo(client, role);
    },
  });
  if (made) await putBackup(keeper.owner, made);
}

const fail = (error: unknown) => {
  console.error((error as Error).message);
  process.exit(1);
};

const [command, file, ...flags] = process.argv.slice(2);
if (command === "restore") {
  await restoreFile(keeper, file ?? "", flags.includes("--replace"), bringUpToDate).catch(fail);
  await keeper.owner.end();
  process.exit(0);
}

await bringUpToDate().catch(fail);
await dropParts(keeper.folder).catch((error: Error) => console.error(error.message));
await dropOldScratches(ownerUrl).catch((error: Error) => console.error(error.message));
/** Says that it is there: the page tells by it whether anybody makes backups. */
const beHere = () => noteCare(keeper.owner, "jobs", { folder: keeper.folder, pid: process.pid });
await beHere();
const jobs = await startJobs(keeper);
const beating = setInterval(() => void beHere().catch((error: Error) => console.error(error.message)), 60_000);
console.log("ready");
// A queue that gave up, as after the database was away for long: whoever started this starts it again.
jobs.promise.catch(fail);

/** A job that is cut off is taken up again by its queue; nothing waits longer than this for it, ms. */
const PATIENCE = 4000;
let stopping = false;
async function stop() {
  if (stopping) return;
  stopping = true;
  endReaders();
  setTimeout(() => process.exit(0), PATIENCE).unref();
  clearInterval(beating);
  await leave(keeper.owner, process.pid).catch(() => {});
  await jobs.stop().catch(() => {});
  await keeper.owner.end().catch(() => {});
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
process.on("disconnect", () => void stop());
// Whoever started this may have gone while it came up.
if (process.send && !process.connected) void stop();
