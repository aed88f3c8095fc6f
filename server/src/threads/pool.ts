import { type Remote, wrap } from "comlink";
import nodeEndpoint from "comlink/dist/esm/node-adapter.mjs";
import { availableParallelism } from "node:os";
import { Worker } from "node:worker_threads";
import type { ThreadWork } from "./thread.ts";

/** What one piece of work may take at the most: memory, MB, and time where nothing else is said, s. */
const MEMORY_MB = 2048;
const SECONDS = 30;

/** Work that took more time or memory than anybody may have of this server. */
export class TooHeavy extends Error {
  constructor(why: string) {
    super(`This is too much at once: ${why}. Split it, or leave out what is not needed.`);
  }
}

/** Threads beside the one that answers requests; each does one thing at a time. */
const MOST = Math.max(1, Math.min(4, availableParallelism() - 1));
// Node runs JavaScript: where the server itself runs from its sources, as in tests, its threads run from the build.
const entry = new URL(import.meta.url.endsWith(".ts") ? "../../dist/thread.js" : "./thread.js", import.meta.url);

interface Thread {
  worker: Worker;
  work: Remote<ThreadWork>;
  /** Settles when the thread ends before its work is done. */
  lost: Promise<never>;
}

const idle: Thread[] = [];
const waiting: ((thread: Thread) => void)[] = [];
let running = 0;

function start(): Thread {
  const worker = new Worker(entry, { resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
  worker.unref();
  running++;
  const lost = new Promise<never>((_, reject) => {
    worker.once("error", (error: Error & { code?: string }) =>
      reject(error.code === "ERR_WORKER_OUT_OF_MEMORY" ? new TooHeavy(`it needs more than ${MEMORY_MB} MB`) : error),
    );
    worker.once("exit", () => {
      running--;
      const at = idle.findIndex((thread) => thread.worker === worker);
      if (at >= 0) idle.splice(at, 1);
      // Whoever waits for this one gets a new one in its place.
      waiting.shift()?.(start());
      reject(new Error("A thread ended before its work was done."));
    });
  });
  lost.catch(() => {}); // an idle thread may end without anybody waiting
  return { worker, work: wrap<ThreadWork>(nodeEndpoint(worker)), lost };
}

const take = (): Promise<Thread> => {
  const thread = idle.pop() ?? (running < MOST ? start() : undefined);
  return thread ? Promise.resolve(thread) : new Promise((resolve) => waiting.push(resolve));
};

function giveBack(thread: Thread) {
  const next = waiting.shift();
  if (next) next(thread);
  else idle.push(thread);
}

/** Has a thread ready before the first work comes: loading what it needs takes longer than most of what it does. */
export async function warmThreads(): Promise<void> {
  await inThread((work) => work.ready());
}

interface Bounds {
  /** Ends the thread with its work when nobody waits any more. */
  signal?: AbortSignal | undefined;
  seconds?: number;
}

/**
 * Does heavy work in a thread, so that other requests are answered meanwhile.
 * @throws TooHeavy where it takes too long or too much memory, what the work throws, or an Error when the thread was
 *   ended
 */
export async function inThread<T>(
  ask: (work: Remote<ThreadWork>) => Promise<T>,
  { signal, seconds = SECONDS }: Bounds = {},
): Promise<T> {
  const thread = await take();
  const late = AbortSignal.timeout(seconds * 1000);
  const over = signal ? AbortSignal.any([signal, late]) : late;
  const end = () => void thread.worker.terminate();
  over.addEventListener("abort", end, { once: true });
  let ended = false;
  const note = () => void (ended = true);
  thread.worker.once("exit", note);
  try {
    return await Promise.race([ask(thread.work), thread.lost]);
  } catch (error) {
    throw late.aborted ? new TooHeavy(`it takes longer than ${seconds} s`) : error;
  } finally {
    over.removeEventListener("abort", end);
    thread.worker.off("exit", note);
    if (!ended && !over.aborted) giveBack(thread);
  }
}
