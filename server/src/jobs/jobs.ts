import { Logger, parseCronItems, run, type Runner, runMigrations, runOnce, type TaskList } from "graphile-worker";
import { backUp, type Keeper, replaceWorkshop } from "../backup/index.ts";
import { isEmpty } from "../store/archive.ts";
import { closeRestore, findCare, noteCare, takeRestore, waitingRestores } from "../store/care.ts";
import type { Database } from "../store/database.ts";
import { balancesThatDiffer } from "../store/ledger.ts";
import { forgetOldRequests } from "../store/requests.ts";

/** How long an answer is kept for a write that is sent again, days. */
const KEPT_DAYS = 30;

/** Work that outlives a request: queued in PostgreSQL, so that it is done once whichever process takes it. */
function tasksOf(keeper: Keeper) {
  const { owner } = keeper;
  return {
    /** Old request keys are forgotten: nobody sends a write again after so long. */
    "forget-requests": () => forgetOldRequests(owner, KEPT_DAYS),
    /** The books are held against the ledger; a difference fails the job, which keeps it in sight. */
    "check-books": async () => {
      const differ = await balancesThatDiffer(owner);
      await noteCare(owner, "books", { differ: differ.length });
      if (differ.length > 0) throw new Error(`Balances that differ from the ledger: ${JSON.stringify(differ)}`);
    },
    "back-up": async (payload: unknown) => {
      // Whoever asks says what they like: it becomes a file's name, so it is one of these or nothing.
      const { reason } = payload as { reason?: unknown };
      await backUp(keeper, reason === "night" ? "night" : "asked for");
    },
    /** At the start: only where the last proved one is old, as where the machine sleeps at night. */
    "back-up-if-old": async () => {
      if ((await findCare(owner)).old && !(await isEmpty(owner))) await backUp(keeper, "start");
    },
    /** An archive takes the place of everything. What is wrong with it is said to whoever laid it down. */
    restore: async (payload: unknown) => {
      const { id } = payload as { id: string };
      const zip = await takeRestore(owner, id);
      if (!zip) return;
      try {
        await replaceWorkshop(keeper, zip, (session, kept) => closeRestore(session, id, "done", { kept, fault: null }));
      } catch (error) {
        // Done, and only what was here before could not be proved: that stands in the list of backups.
        if (!(await waitingRestores(owner)).includes(id)) throw error;
        await closeRestore(owner, id, "failed", { kept: null, fault: (error as Error).message });
      }
    },
  };
}
export type JobName = keyof ReturnType<typeof tasksOf>;

/** Every night, UTC: minute, hour, day, month, weekday. */
const NIGHTLY: [task: JobName, match: string, payload: Record<string, string>][] = [
  ["forget-requests", "10 2 * * *", {}],
  ["check-books", "20 2 * * *", {}],
  ["back-up", "30 2 * * *", { reason: "night" }],
];
const AT_START: readonly JobName[] = ["forget-requests", "check-books", "back-up-if-old"];

/** What went wrong goes where other faults go; what went right is not written: stdout is the start script's. */
const logger = new Logger(() => (level, message) => {
  if (level === "error" || level === "warning") console.error(message);
});
const options = (owner: Database) => ({ pgPool: owner, noHandleSignals: true, logger });
const taskList = (keeper: Keeper): TaskList =>
  Object.fromEntries(
    Object.entries(tasksOf(keeper)).map(([name, work]) => [name, async (payload) => void (await work(payload))]),
  );

/** Makes the queue's own tables, or brings them up to date. */
export const makeQueue = (owner: Database): Promise<void> => runMigrations(options(owner));

/** Takes jobs from the queue for as long as the process runs, one at a time; those of the start first. */
export async function startJobs(keeper: Keeper): Promise<Runner> {
  for (const name of AT_START) await addJob(keeper.owner, name);
  // A job that was cut off is taken up by the queue after hours; nobody at the page would wait so long.
  for (const id of await waitingRestores(keeper.owner)) await addJob(keeper.owner, "restore", { id });
  const nightly = NIGHTLY.map(([task, match, payload]) => ({ task, match, payload, identifier: task }));
  return run({
    ...options(keeper.owner),
    concurrency: 1,
    taskList: taskList(keeper),
    parsedCronItems: parseCronItems(nightly),
  });
}

/** Puts a job into the queue; the same one waiting twice is done once. */
export async function addJob(owner: Database, name: JobName, payload: { id?: string } = {}): Promise<void> {
  await owner.query(`select graphile_worker.add_job($1, $2::json, job_key := $1 || $3)`, [
    name,
    JSON.stringify(payload),
    payload.id ?? "",
  ]);
}

/** Does what is in the queue now, and is over. */
export const doJobs = (keeper: Keeper): Promise<void> =>
  runOnce({ ...options(keeper.owner), taskList: taskList(keeper) });
