import fc from "fast-check";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { queueOf, TooBusy, TooHeavy, type Worker } from "../src/queue/index.ts";

/** Whatever happens to a piece of work, its place is given back. */
beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

/** Workers of which tests say what becomes of them. */
function workers() {
  const alive = new Set<object>();
  const make = (begun: Promise<unknown> = Promise.resolve()): Worker<{ die: () => void }> => {
    let die!: (why: Error) => void;
    const lost = new Promise<never>((_, reject) => (die = reject));
    lost.catch(() => {});
    const face = { die: () => (alive.delete(face), die(new Error("died"))) };
    alive.add(face);
    return { work: face, begun, lost, end: () => (alive.delete(face), die(new Error("ended"))) };
  };
  return { make, alive };
}

const job = fc.record({
  /** What becomes of it by itself, and when, ms. */
  does: fc.constantFrom("ends", "throws", "dies", "never"),
  after: fc.nat(50),
  /** When nobody waits for it any more; and when it is asked for. */
  gone: fc.option(fc.nat(80)),
  asked: fc.nat(60),
});

test("in any order of taking, ending, failing, dying, giving up and being late, every place is given back", () =>
  fc.assert(
    fc.asyncProperty(
      fc.array(job, { minLength: 1, maxLength: 25 }),
      fc.integer({ min: 1, max: 3 }),
      fc.nat(40),
      async (jobs, most, begins) => {
        const { make, alive } = workers();
        const later = (ms: number) => new Promise<void>((next) => setTimeout(next, ms));
        const queue = queueOf(() => make(later(begins)), most);
        const busy = new Set<object>();
        const all = jobs.map(async ({ does, after, gone, asked }) => {
          await later(asked);
          const left = new AbortController();
          if (gone !== null) setTimeout(() => left.abort(new Error("gone")), gone);
          const told = queue.use(
            async (work) => {
              // One thing at a time; who is gone is not asked again.
              expect([busy.has(work), alive.has(work)]).toEqual([false, true]);
              expect(alive.size).toBeLessThanOrEqual(most);
              busy.add(work);
              try {
                await later(after);
                if (does === "throws") throw new Error("failed");
                if (does === "dies") work.die();
                if (does !== "ends") await later(1e9);
                return "done";
              } finally {
                busy.delete(work);
              }
            },
            { signal: left.signal, seconds: 0.1, patience: 0.3 },
          );
          // Whatever was begun by a worker that is gone does not count any more.
          return told.catch((error: Error) => error);
        });
        await vi.advanceTimersByTimeAsync(10_000);
        for (const found of await Promise.all(all)) {
          if (found !== "done") expect(String(found)).toMatch(/gone|failed|died|longer than|had to wait|ended/);
        }
        const { workers: there, idle, waiting } = queue.state();
        expect([waiting, idle]).toEqual([0, there]);
        expect(there).toBeLessThanOrEqual(most);
        // And whoever comes next is served at once.
        const next = queue.use(async () => "next", { seconds: 1 });
        await vi.advanceTimersByTimeAsync(begins);
        expect(await next).toBe("next");
      },
    ),
  ));

test("an abort that came before anybody waited, or while one waits, leaves nothing behind", async () => {
  const { make } = workers();
  const queue = queueOf(() => make(), 1);
  const gone = AbortSignal.abort(new Error("gone"));
  await expect(queue.use(async () => 1, { signal: gone, seconds: 1 })).rejects.toThrow("gone");
  let end!: (n: number) => void;
  const first = queue.use(() => new Promise<number>((done) => (end = done)), { seconds: 9 });
  const left = new AbortController();
  const second = queue.use(async () => 2, { signal: left.signal, seconds: 1 });
  const third = queue.use(async () => 3, { seconds: 1 });
  await Promise.resolve();
  left.abort(new Error("gone"));
  await expect(second).rejects.toThrow("gone");
  end(1);
  expect([await first, await third]).toEqual([1, 3]);
  expect(queue.state()).toEqual({ workers: 1, idle: 1, waiting: 0 });
});

test("work beyond its time is ended, and waiting beyond one's patience; the next gets a new worker", async () => {
  const { make, alive } = workers();
  const queue = queueOf(() => make(), 1);
  const slow = queue.use(() => new Promise<never>(() => {}), { seconds: 5 }).catch((e: Error) => e);
  const short = queue.use(async () => 2, { seconds: 1, patience: 2 }).catch((e: Error) => e);
  const next = queue.use(async () => 3, { seconds: 1 });
  await vi.advanceTimersByTimeAsync(2000);
  expect(await short).toBeInstanceOf(TooBusy);
  await vi.advanceTimersByTimeAsync(3000);
  expect(await slow).toBeInstanceOf(TooHeavy);
  expect(await next).toBe(3);
  expect(alive.size).toBe(1);
});

test("how long a worker takes to begin is not its work's; one that never begins is ended", async () => {
  const { make, alive } = workers();
  const begins = [new Promise((next) => setTimeout(next, 9000)), new Promise(() => {})];
  const queue = queueOf(() => make(begins.shift()), 1);
  const asked = vi.fn(async () => 1);
  const slow = queue.use(asked, { seconds: 1 });
  await vi.advanceTimersByTimeAsync(8999);
  expect(asked).not.toHaveBeenCalled();
  await vi.advanceTimersByTimeAsync(1);
  expect(await slow).toBe(1);
  const dies = queue.use((work) => (work.die(), new Promise<never>(() => {})), { seconds: 1 });
  await expect(dies).rejects.toThrow("died");
  const never = queue.use(asked, { seconds: 1 }).catch((e: Error) => e);
  await vi.advanceTimersByTimeAsync(60_000);
  expect(await never).toBeInstanceOf(TooBusy);
  expect([asked.mock.calls.length, alive.size, queue.state().workers]).toEqual([1, 0, 0]);
});

test("a worker that lives long holds nothing of what it did", async () => {
  let held = 0;
  const lost = new Promise<never>(() => {});
  // Whoever waits on a promise that does not settle is held by it, with all that it knows.
  const then = lost.then.bind(lost);
  lost.then = ((...on: Parameters<typeof then>) => (held++, then(...on))) as typeof lost.then;
  const queue = queueOf(() => ({ work: {}, begun: Promise.resolve(), lost, end: () => {} }), 1);
  await queue.use(async () => 0, { seconds: 1 });
  const first = held;
  for (let i = 0; i < 100; i++) await queue.use(async () => i, { seconds: 1 });
  expect([first, held]).toEqual([1, 1]);
});
