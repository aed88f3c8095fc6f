import { Logger, makeWorkerUtils, parseCronItems, run, type Runner, runOnce, type TaskList } from "graphile-worker";
import type { Database } from "../store/database.ts";
import { balancesThatDiffer } from "../store/ledger.ts";
import { forgetOldRequests } from "../store/requests.ts";

/** How long an answer is kept for a write that is sent again, days. */
const KEPT_DAYS = 30;

/** Work that outlives a request: queued in PostgreSQL, so that it is done once whichever server process takes it. */
function tasksOf(db: Database) {
  return {
    /** Old request keys are forgotten: nobody sends a write again after so long. */
    "forget-requests": () => forgetOldRequests(db, KEPT_DAYS),
    /** The books are held against the ledger; a difference fails the job, which keeps it in sight. */
    "check-books": async () => {
      const differ = await balancesThatDiffer(db);
      if (differ.length > 0) throw new Error(`Balances that differ from the ledger: ${JSON.stringify(differ)}`);
    },
  };
}
export type JobName = keyof ReturnType<typeof tasksOf>;

/** Every night, UTC: minute, hour, day, month, weekday. */
const NIGHTLY: Record<JobName, string> = { "forget-requests": "10 2 * * *", "check-books": "20 2 * * *" };

/** What went wrong goes where other faults go; what went right is not written: stdout is the start script's. */
const logger = new Logger(() => (level, message) => {
  if (level === "error" || level === "warning") console.error(message);
});
const options = (db: Database) => ({ pgPool: db, noHandleSignals: true, logger });
const taskList = (db: Database): TaskList =>
  Object.fromEntries(Object.entries(tasksOf(db)).map(([name, work]) => [name, async () => void (await work())]));

/** Takes jobs from the queue for as long as the server runs, one at a time. */
export function startJobs(db: Database): Promise<Runner> {
  const nightly = Object.entries(NIGHTLY).map(([task, match]) => ({ task, match, identifier: task }));
  return run({ ...options(db), concurrency: 1, taskList: taskList(db), parsedCronItems: parseCronItems(nightly) });
}

/** Puts a job into the queue; the same one waiting twice is done once. */
export async function addJob(db: Database, name: JobName): Promise<void> {
  const queue = await makeWorkerUtils({ pgPool: db, logger });
  await queue.addJob(name, {}, { jobKey: name });
  await queue.release();
}

/** Does what is in the queue now, and is over. */
export const doJobs = (db: Database): Promise<void> => runOnce({ ...options(db), taskList: taskList(db) });
