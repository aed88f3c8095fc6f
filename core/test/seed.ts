/**
 * The laws' random cases. `npm test` tries the same ones every time, so that a run which passed passes again;
 * `npm run laws` tries new ones, and as many times more as `LAWS` says. A case that it finds gets a test by hand.
 */
import fc from "fast-check";

const times = Number(process.env.LAWS ?? 0);
fc.configureGlobal(times > 0 ? { numRuns: 100 * times } : { seed: 1 });
