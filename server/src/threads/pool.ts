import { type Remote, wrap } from "comlink";
import nodeEndpoint from "comlink/dist/esm/node-adapter.mjs";
import { availableParallelism } from "node:os";
import { Worker as Thread } from "node:worker_threads";
import { type Bounds, queueOf, TooHeavy, type Worker } from "../queue/index.ts";
import type { ThreadWork } from "./thread.ts";

/** What one piece of work may take at the most: memory, MB, and time where nothing else is said, s. */
const MEMORY_MB = 2048;
const SECONDS = 30;

/** Threads beside the one that answers requests: two at least, so that one long piece of work leaves a way past it. */
const MOST = Math.max(2, Math.min(4, availableParallelism() - 1));
// Node runs JavaScript: where the server itself runs from its sources, as in tests, its threads run from the build.
const entry = new URL(import.meta.url.endsWith(".ts") ? "../../dist/thread.js" : "./thread.js", import.meta.url);

function start(): Worker<Remote<ThreadWork>> {
  const thread = new Thread(entry, { resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
  thread.unref();
  const lost = new Promise<never>((_, reject) => {
    thread.once("error", (error: Error & { code?: string }) =>
      reject(error.code === "ERR_WORKER_OUT_OF_MEMORY" ? new TooHeavy(`it needs more than ${MEMORY_MB} MB`) : error),
    );
    thread.once("exit", () => reject(new Error("A thread ended before its work was done.")));
  });
  lost.catch(() => {}); // an idle thread may end without anybody waiting
  const work = wrap<ThreadWork>(nodeEndpoint(thread));
  return { work, begun: work.ready(), lost, end: () => void thread.terminate() };
}

const threads = queueOf(start, MOST);

/** Has the threads ready before the first work comes: loading what they need takes longer than most of what they do. */
export async function warmThreads(): Promise<void> {
  await Promise.all(Array.from({ length: MOST }, () => inThread((work) => work.ready())));
}

/**
 * Does heavy work of our own in a thread, so that other requests are answered meanwhile. Nothing may be held while one
 * waits for it: neither a connection nor a lock (a transaction asks `counted` instead).
 * @throws TooHeavy where it takes too long or too much memory, TooBusy where its turn does not come, what the work
 *   throws, or an Error when the thread was ended
 */
export const inThread = <T>(
  ask: (work: Remote<ThreadWork>) => Promise<T>,
  { seconds = SECONDS, ...bounds }: Partial<Bounds> = {},
): Promise<T> => threads.use(ask, { ...bounds, seconds });
