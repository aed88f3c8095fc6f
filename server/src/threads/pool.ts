import { type Remote, wrap } from "comlink";
import nodeEndpoint from "comlink/dist/esm/node-adapter.mjs";
import { availableParallelism } from "node:os";
import { Worker } from "node:worker_threads";
import type { ThreadWork } from "./thread.ts";

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
  const worker = new Worker(entry);
  worker.unref();
  running++;
  const lost = new Promise<never>((_, reject) => {
    worker.once("error", reject);
    worker.once("exit", () => {
      running--;
      const at = idle.findIndex((thread) => thread.worker === worker);
      if (at >= 0) idle.splice(at, 1);
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

/**
 * Does heavy work in a thread, so that other requests are answered meanwhile.
 * @param signal ends the thread with its work when nobody waits any more
 * @throws what the work throws, or an Error when the thread was ended
 */
export async function inThread<T>(ask: (work: Remote<ThreadWork>) => Promise<T>, signal?: AbortSignal): Promise<T> {
  const thread = await take();
  const end = () => void thread.worker.terminate();
  signal?.addEventListener("abort", end, { once: true });
  let ended = false;
  thread.worker.once("exit", () => (ended = true));
  try {
    return await Promise.race([ask(thread.work), thread.lost]);
  } finally {
    signal?.removeEventListener("abort", end);
    if (!ended && !signal?.aborted) giveBack(thread);
    else {
      const next = waiting.shift();
      if (next) next(start());
    }
  }
}
