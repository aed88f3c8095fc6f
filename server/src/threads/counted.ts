import { createHash } from "node:crypto";
import type { Remote } from "comlink";
import { DoFirst } from "../store/database.ts";
import { inThread } from "./pool.ts";
import type { ThreadWork } from "./thread.ts";

/** So many results are kept; the one asked for longest ago is dropped. */
const MOST = 32;
const kept = new Map<string, unknown>();

/** Work whose result follows from what it is given, and nothing else. */
type Counting = "boxBill" | "billToFreeze" | "totals";

/**
 * The result of heavy work, for a transaction that needs it. A transaction must not wait for its turn at a thread with
 * its locks: where the result is not known yet, the transaction is undone, the work is done, and it runs again.
 * @throws DoFirst for `inTransaction`
 */
export function counted<N extends Counting>(name: N, ...given: Parameters<ThreadWork[N]>): ReturnType<ThreadWork[N]> {
  const key = createHash("sha256").update(name).update(JSON.stringify(given)).digest("base64");
  if (kept.has(key)) {
    const found = kept.get(key) as ReturnType<ThreadWork[N]>;
    kept.delete(key);
    kept.set(key, found);
    return found;
  }
  throw new DoFirst(async () => {
    const ask = (work: Remote<ThreadWork>) => (work[name] as (...all: unknown[]) => Promise<unknown>)(...given);
    const found = await inThread(ask);
    if (kept.size >= MOST) kept.delete(kept.keys().next().value!);
    kept.set(key, found);
  });
}
