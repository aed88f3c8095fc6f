import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import fc from "fast-check";
import { afterAll, beforeAll, expect, test } from "vitest";
import { act, begin } from "./fuzz/acts.ts";
import { Dice } from "./fuzz/byContract.ts";
import { Template, World } from "./fuzz/world.ts";

/**
 * Random sequences of writes over every route, by several clients on two servers; after each of them the books, what is
 * reserved, runs and orders agree with the ledger, everything can still be read, and an archive comes in elsewhere the
 * same. `npm run fuzz:api` goes on until so many writes found nothing; here are a few.
 */
const WRITES = Number(process.env.WRITES ?? 600);
const SEED = Number(process.env.SEED ?? (process.env.WRITES ? Date.now() % 2 ** 31 : 20_301));
/** Seeds that found something once. */
const FOUND: readonly number[] = [];

let template: Template;
beforeAll(async () => {
  template = await Template.make();
});
afterAll(() => template.end());

/** How much happens in one of them: more where it goes on for long, since what is checked at its end takes a while. */
const LONG = process.env.WRITES ? { minLength: 100, maxLength: 400 } : { minLength: 30, maxLength: 90 };
const sequence = fc.array(fc.array(fc.nat(9999), { minLength: 14, maxLength: 14 }), { ...LONG, size: "max" });

let writes = 0;
const statuses = new Map<number, number>();
const property = fc.asyncProperty(sequence, (acts) =>
  template.copy(async (urls) => {
    const world = await World.open(urls);
    try {
      await begin(world);
      for (const rolls of acts) await act(world, new Dice(rolls));
      await world.check(template);
    } finally {
      writes += world.writes;
      for (const [status, n] of world.statuses) statuses.set(status, (statuses.get(status) ?? 0) + n);
      await world.close();
    }
  }),
);
/** Runs one; what it found is told by the shortest sequence that still finds it, which its seed gives again. */
async function run(seed: number): Promise<void> {
  const found = await fc.check(property, { seed, numRuns: 1, endOnFailure: process.env.SHRINK === "no" });
  if (!found.failed) return;
  const acts = found.counterexample?.[0] ?? [];
  const short = acts.length <= 12 ? `\n${JSON.stringify(acts)}` : "";
  throw new Error(`Seed ${seed}, ${acts.length} acts: ${String((found.errorInstance as Error).stack)}${short}`);
}

test.each(FOUND.map((seed) => [seed]))("the sequence %i, which found something once", run, 600_000);

/** What is held when all that nobody holds any more is gone, MB. */
function heldMb(): number {
  setFlagsFromString("--expose_gc");
  (runInNewContext("gc") as () => void)();
  return Math.round(process.memoryUsage().heapUsed / 1e6);
}

test("random sequences of writes leave nothing behind that can't be", async () => {
  let seed = SEED;
  for (let told = 0; writes < WRITES; seed++) {
    await run(seed);
    if (process.env.WRITES && writes - told > 2000) {
      told = writes;
      console.log(`${writes} writes, seed ${seed}, ${heldMb()} MB held`);
    }
  }
  if (process.env.WRITES) console.log(`${writes} writes; answers ${JSON.stringify([...statuses].sort())}`);
  expect(writes).toBeGreaterThanOrEqual(WRITES);
  expect(statuses.get(500)).toBeUndefined();
}, 36_000_000);
