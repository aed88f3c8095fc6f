/**
 * Whatever others made (archives, tables, answers from outside) is read in a process of its own: it may run out of
 * memory or never come back, and then only it is over.
 */
import { type ChildProcess, fork } from "node:child_process";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { type Bounds, queueOf, TooBusy, TooHeavy, type Worker } from "../queue/index.ts";
import { type Asked, LATE } from "./ask.ts";
import type { Answer, Reading, ReadingName } from "./reader.ts";

/** What reading may take: of the heap, and of the machine's memory in all, MB. */
const HEAP_MB = 2048;
const MEMORY_MB = 3000;
/** So often is it looked at how much memory a reader has, ms. */
const LOOK_MS = 200;
/** Readers at once: one large file leaves a way past it. */
const MOST = 2;

const entry = fileURLToPath(
  new URL(import.meta.url.endsWith(".ts") ? "../../dist/reader.js" : "./reader.js", import.meta.url),
);

/** What can be asked of a reader, each by its name. */
export type Reader = {
  [N in ReadingName]: (...asked: Parameters<Reading[N]>) => Promise<Awaited<ReturnType<Reading[N]>>>;
};

/** How much of the machine's memory a process has, MB; 0 where the machine does not say so. */
function memoryOf(pid: number | undefined): number {
  try {
    // Pages of 4 kB: the second number (proc(5), statm).
    return (Number(readFileSync(`/proc/${pid}/statm`, "utf8").split(" ")[1]) * 4096) / 1e6;
  } catch {
    return 0;
  }
}

function start(): Worker<Reader> {
  const child = fork(entry, [], {
    serialization: "advanced",
    execArgv: [`--max-old-space-size=${HEAP_MB}`],
    // It must not know where the database is.
    env: { PATH: process.env.PATH },
    stdio: ["ignore", "ignore", "ignore", "ipc"],
  });
  // Made when it happens: an error holds whoever was there when it was made.
  let why = () => new TooHeavy(`reading it needs more than ${HEAP_MB} MB`);
  const lost = new Promise<never>((_, reject) => {
    child.once("error", reject);
    // V8 ends a process that is out of memory by SIGABRT or SIGTRAP, and the look below by SIGKILL.
    child.once("exit", () => reject(why()));
  });
  lost.catch(() => {});
  const look = setInterval(() => {
    if (memoryOf(child.pid) > MEMORY_MB) child.kill("SIGKILL");
  }, LOOK_MS);
  look.unref();
  child.once("exit", () => clearInterval(look));
  child.unref();
  child.channel?.unref();
  const work = faceOf(child);
  const begun = work.ready();
  begun.catch(() => {}); // it tells so by `lost` too
  return {
    work,
    begun,
    lost,
    end: () => {
      why = () => new TooHeavy("reading it was ended");
      child.kill("SIGKILL");
    },
  };
}

/** Asks one thing after another: a reader does one at a time. */
function faceOf(child: ChildProcess): Reader {
  const ask = (name: string, args: unknown[]) =>
    new Promise((resolve, reject) => {
      const over = () => {
        child.off("message", answered);
        child.channel?.unref();
      };
      const answered = (answer: Answer) => {
        over();
        if (answer.ok) resolve(answer.value);
        else reject(Object.assign(new Error(answer.message), { name: answer.name }));
      };
      child.on("message", answered);
      child.channel?.ref();
      child.send({ name, args }, (error) => {
        if (!error) return;
        over();
        reject(error);
      });
    });
  return new Proxy({} as Reader, {
    // Nobody waits for the face itself.
    get: (_, name: string) => (name === "then" ? undefined : (...args: unknown[]) => ask(name, args)),
  });
}

const readers = queueOf(start, MOST);

/**
 * Reads in a process of its own.
 * @throws TooHeavy where it takes too long or too much memory, TooBusy where its turn does not come, or what reading
 *   throws
 */
export const inReader = <T>(ask: (reader: Reader) => Promise<T>, bounds: Bounds): Promise<T> =>
  readers.use(ask, bounds);

/**
 * Asks somebody outside, in such a process: one that never comes back is told of like who answers too late.
 * @param who such as `shop`
 * @param ms how long an answer may take
 */
export async function askOutside<T extends object>(
  who: string,
  ask: (reader: Reader) => Promise<Asked<T>>,
  ms: number,
  signal?: AbortSignal,
): Promise<Asked<T>> {
  try {
    return await inReader(ask, { seconds: (2 * ms) / 1000, signal });
  } catch (error) {
    if (error instanceof TooHeavy || error instanceof TooBusy) return { fault: `The ${who} ${LATE}.` };
    throw error;
  }
}

/** Has a reader ready before the first thing comes. */
export const warmReader = (): Promise<boolean> => inReader((reader) => reader.ready(), { seconds: 30 });

/** Ends them all: whoever stops does not wait for what others made. */
export const endReaders = () => readers.endAll();
