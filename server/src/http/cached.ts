import { promisify } from "node:util";
import { constants, gzip } from "node:zlib";

const zip = promisify(gzip);

/** A JSON answer as bytes, plain and packed, with the tag under which it holds. */
export class Cached {
  constructor(
    readonly tag: string,
    readonly plain: Buffer,
    readonly packed: Buffer,
  ) {}
}

interface Making {
  tag: string;
  bytes: Promise<Cached>;
  /** While it is being made. */
  busy: boolean;
}

/**
 * Keeps responses that are long and change seldom, as bytes. A cheap question to the database, the tag, decides every
 * time whether they still stand, so this only saves work. However many ask at once, the tag is read once for all who
 * wait for it, and a response is made once.
 * @param most how many responses are kept; the oldest is dropped
 */
export function caching<Key extends string>(
  tagOf: (key: Key) => Promise<string>,
  make: (key: Key) => Promise<string>,
  most = 50,
): (key: Key) => Promise<Cached> {
  const kept = new Map<Key, Making>();
  const tags = sharing(tagOf);

  const begin = (key: Key, tag: string): Making => {
    const making: Making = { tag, busy: true, bytes: makeBytes(tag, make(key)) };
    making.bytes.then(
      () => (making.busy = false),
      () => kept.get(key) === making && kept.delete(key),
    );
    kept.delete(key);
    if (kept.size >= most) kept.delete(kept.keys().next().value!);
    kept.set(key, making);
    return making;
  };

  return async (key) => {
    for (;;) {
      // The tag is read first: what is made after it is at least as new, and a newer one is only sent once more.
      const tag = await tags(key);
      const known = kept.get(key);
      if (known?.tag === tag) return known.bytes;
      if (!known?.busy) return begin(key, tag).bytes;
      // An older one is still being made: another beside it would only slow both down.
      await known.bytes.catch(() => {});
    }
  };
}

async function makeBytes(tag: string, made: Promise<string>): Promise<Cached> {
  const plain = Buffer.from(await made);
  return new Cached(tag, plain, await zip(plain, { level: constants.Z_BEST_SPEED }));
}

/**
 * Asks once for many: whoever asks while a question is on its way waits for the next one, which begins after they
 * asked, so nobody gets an answer older than their question.
 */
export function sharing<Key, T>(ask: (key: Key) => Promise<T>): (key: Key) => Promise<T> {
  const states = new Map<Key, { running: Promise<T>; next: Promise<T> | null }>();
  const run = (key: Key): Promise<T> => {
    const running = ask(key);
    const state = { running, next: null as Promise<T> | null };
    states.set(key, state);
    const over = () => states.get(key) === state && states.delete(key);
    running.then(over, over);
    return running;
  };
  return (key) => {
    const state = states.get(key);
    if (!state) return run(key);
    const again = () => run(key);
    state.next ??= state.running.then(again, again);
    return state.next;
  };
}
