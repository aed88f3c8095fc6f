/** One of several workers that do one thing at a time: a thread or a process. */
export interface Worker<T> {
  /** What can be asked of it. */
  work: T;
  /** Settles when it has begun: work has its whole time from then on. */
  begun: Promise<unknown>;
  /** Rejects when it ends, for whatever reason. */
  lost: Promise<never>;
  /** Ends it with what it is doing. */
  end: () => void;
}

/** Everybody is busy, and was for as long as anybody waits. */
export class TooBusy extends Error {
  constructor() {
    super("So much is being worked out just now that this had to wait too long. Try again in a moment.");
  }
}

/** Work that took more time or memory than anybody may have of this server. */
export class TooHeavy extends Error {
  constructor(why: string) {
    super(`This is too much at once: ${why}. Split it, or leave out what is not needed.`);
  }
}

export interface Bounds {
  /** Aborted when nobody waits for it any more. */
  signal?: AbortSignal | undefined;
  /** How long the work may take, s. */
  seconds: number;
  /** How long it may wait for its turn, s. */
  patience?: number;
}

/** How long work waits for its turn where nothing else is said, s. */
const PATIENCE = 60;
/** How long a worker may take to begin, s. */
const BEGINS = 30;

interface Waiting<T> {
  start: (worker: Worker<T>) => void;
}

/**
 * Workers, and who waits for one: first come, first served. Whatever happens to a piece of work, its place is given
 * back: it leaves the line when nobody waits for it any more, and a worker that was ended or died is replaced as soon
 * as somebody needs one.
 * @param make starts a worker
 * @param most how many there are at once
 */
export function queueOf<T>(make: () => Worker<T>, most: number) {
  const all = new Set<Worker<T>>();
  const idle: Worker<T>[] = [];
  const waiting: Waiting<T>[] = [];
  /** What ends the work that each is at. A worker lives long: whoever waited on `lost` itself would be held as long. */
  const ends = new Map<Worker<T>, (why: Error) => void>();

  function start(): Worker<T> {
    const worker = make();
    all.add(worker);
    worker.lost.catch((why: Error) => {
      ends.get(worker)?.(why);
      drop(worker);
    });
    return worker;
  }

  /** It is over: whoever is next gets a new one in its place. */
  function drop(worker: Worker<T>) {
    if (!all.delete(worker)) return;
    const at = idle.indexOf(worker);
    if (at >= 0) idle.splice(at, 1);
    const next = waiting.shift();
    if (next) next.start(start());
  }

  function giveBack(worker: Worker<T>) {
    if (!all.has(worker)) return;
    const next = waiting.shift();
    if (next) next.start(worker);
    else idle.push(worker);
  }

  function take(over: AbortSignal, patience: number): Promise<Worker<T>> {
    if (over.aborted) return Promise.reject(over.reason as Error);
    const worker = idle.pop() ?? (all.size < most ? start() : undefined);
    if (worker) return Promise.resolve(worker);
    return new Promise((resolve, reject) => {
      const leave = (why: unknown) => {
        done();
        const at = waiting.indexOf(mine);
        if (at >= 0) waiting.splice(at, 1);
        reject(why as Error);
      };
      const aborted = () => leave(over.reason);
      const late = setTimeout(() => leave(new TooBusy()), patience * 1000);
      const done = () => {
        clearTimeout(late);
        over.removeEventListener("abort", aborted);
      };
      const mine: Waiting<T> = {
        start: (found) => {
          done();
          resolve(found);
        },
      };
      over.addEventListener("abort", aborted, { once: true });
      waiting.push(mine);
    });
  }

  /**
   * Has a worker do something, and waits for it.
   * @throws TooBusy, TooHeavy, the signal's reason where it was aborted, what the work throws, or what ended the worker
   */
  async function use<R>(ask: (work: T) => Promise<R>, { signal, seconds, patience = PATIENCE }: Bounds): Promise<R> {
    const over = signal ?? new AbortController().signal;
    const worker = await take(over, patience);
    // Between its turn and this line somebody may have gone.
    let end!: (why: Error) => void;
    const ended = new Promise<never>((_, reject) => (end = reject));
    ended.catch(() => {});
    ends.set(worker, end);
    if (!all.has(worker)) worker.lost.catch(end);
    const stop = (why: Error) => {
      end(why);
      worker.end();
      drop(worker);
    };
    const aborted = () => stop(over.reason as Error);
    let late = setTimeout(() => stop(new TooBusy()), BEGINS * 1000);
    over.addEventListener("abort", aborted, { once: true });
    try {
      if (over.aborted) aborted();
      await Promise.race([ended, worker.begun]);
      clearTimeout(late);
      late = setTimeout(() => stop(new TooHeavy(`it takes longer than ${seconds} s`)), seconds * 1000);
      return await Promise.race([ended, all.has(worker) ? ask(worker.work) : ended]);
    } finally {
      ends.delete(worker);
      clearTimeout(late);
      over.removeEventListener("abort", aborted);
      giveBack(worker);
    }
  }

  return {
    use,
    /** Ends all of them, with what they are doing. */
    endAll: () => {
      for (const worker of [...all]) worker.end();
    },
    /** How it stands: for tests, and for whoever looks after it. */
    state: () => ({ workers: all.size, idle: idle.length, waiting: waiting.length }),
  };
}
