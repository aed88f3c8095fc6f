import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { choosePacks, type PackOffer } from "../src/buy/index.ts";
import { coinPlaces, priceOfPacks } from "../src/cost/index.ts";

const money = (most: number, places: number) =>
  fc.integer({ min: 0, max: most }).map((n) => (n / 10 ** places).toFixed(places));
const offer = (most: number): fc.Arbitrary<PackOffer> =>
  fc.record({
    amount: fc.integer({ min: 1, max: most }),
    price: money(3000, 2),
    steps: fc.uniqueArray(fc.record({ from: fc.integer({ min: 2, max: 8 }), price: money(30_000, 3) }), {
      maxLength: 2,
      selector: (s) => s.from,
    }),
    minimum: fc.integer({ min: 1, max: 4 }),
  });

/** Every number of packs of every offer that can matter: the least by money, over, packs, and the earlier offer. */
function byTryingAll(need: number, currency: string, offers: readonly PackOffer[]) {
  let best: { key: Big[]; counts: number[] } | null = null;
  const tryAll = (counts: number[]) => {
    const k = counts.length;
    if (k === offers.length) {
      const amount = counts.reduce((sum, n, i) => sum + n * offers[i]!.amount, 0);
      if (amount < need) return;
      const total = counts.reduce(
        (sum, n, i) => (n > 0 ? sum.plus(priceOfPacks(offers[i]!, n, currency)) : sum),
        new Big(0),
      );
      const packs = counts.reduce((a, b) => a + b, 0);
      const key = [total, new Big(amount - need), new Big(packs), ...counts.map((n) => new Big(-n))];
      const before = best?.key;
      const at = before ? key.findIndex((x, i) => !x.eq(before[i]!)) : 0;
      if (!before || (at >= 0 && key[at]!.lt(before[at]!))) best = { key, counts };
      return;
    }
    const { amount, minimum, steps } = offers[k]!;
    const most = Math.max(Math.ceil(need / amount), minimum, ...steps.map((s) => s.from));
    for (let n = 0; n <= most; n++) if (n === 0 || n >= minimum) tryAll([...counts, n]);
  };
  tryAll([]);
  return best as { key: Big[]; counts: number[] } | null;
}

describe("which packs cover a need for the least money", () => {
  test("as trying all of them finds, in currencies of 0, 2 and 3 places", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40 }),
        fc.constantFrom("JPY", "GBP", "KWD"),
        fc.array(offer(12), { minLength: 1, maxLength: 3 }),
        (need, currency, offers) => {
          const found = choosePacks(need, currency, offers)!;
          const best = byTryingAll(need, currency, offers)!;
          expect(found.total).toBe(best.key[0]!.toFixed(coinPlaces(currency)));
          expect(found.chosen.map((c) => [c.offer, c.packs])).toEqual(
            best.counts.flatMap((n, i) => (n > 0 ? [[i, n]] : [])),
          );
          expect(found.proved).toBe(true);
        },
      ),
      { numRuns: 1500 },
    );
  });
  test("laws: enough is bought, lines add up to the total, minimums hold, and more need never costs less", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5000 }),
        fc.array(offer(700), { minLength: 1, maxLength: 5 }),
        (need, offers) => {
          const found = choosePacks(need, "GBP", offers)!;
          expect(found.amount).toBe(found.chosen.reduce((sum, c) => sum + c.packs * offers[c.offer]!.amount, 0));
          expect(found.over).toBe(found.amount - need);
          expect(found.over).toBeGreaterThanOrEqual(0);
          for (const c of found.chosen) {
            expect(c.packs).toBeGreaterThanOrEqual(offers[c.offer]!.minimum);
            expect(c.price).toBe(priceOfPacks(offers[c.offer]!, c.packs, "GBP"));
          }
          const sum = found.chosen.reduce((s, c) => s.plus(c.price), new Big(0));
          expect(sum.toFixed(2)).toBe(found.total);
          const more = choosePacks(need + 1, "GBP", offers)!;
          expect(Number(more.total)).toBeGreaterThanOrEqual(Number(found.total));
          // Another offer to choose from never makes it dearer.
          const wider = choosePacks(need, "GBP", [...offers, { amount: 3, price: "1.00", steps: [], minimum: 1 }])!;
          expect(Number(wider.total)).toBeLessThanOrEqual(Number(found.total));
        },
      ),
      { numRuns: 400 },
    );
  });
  test("a step up that is cheaper in total is taken, and one that only costs the same is not", () => {
    const ten = (price: string) => [{ amount: 10, price: "2.00", steps: [{ from: 10, price }], minimum: 1 }];
    expect(choosePacks(85, "GBP", ten("1.79"))).toMatchObject({ chosen: [{ packs: 10 }], total: "17.90", over: 15 });
    expect(choosePacks(85, "GBP", ten("1.80"))).toMatchObject({ chosen: [{ packs: 9 }], total: "18.00", over: 5 });
  });
  test("nothing is bought for no need; no offer covers nothing; parts of a unit count", () => {
    expect(choosePacks(0, "JPY", [])).toEqual({ chosen: [], total: "0", amount: 0, over: 0, proved: true });
    expect(choosePacks(1, "GBP", [])).toBeNull();
    const tube = { amount: 8.5, price: "1.70", steps: [], minimum: 1 };
    expect(choosePacks(17.001, "GBP", [tube])).toMatchObject({ chosen: [{ packs: 3 }], amount: 25.5, over: 8.499 });
    expect(choosePacks(17, "GBP", [tube])).toMatchObject({ chosen: [{ packs: 2 }], over: 0 });
  });
  test("a large need is found in few steps; what can't be reckoned exactly is not guessed", () => {
    const offers = [7, 11, 13].map((amount) => ({
      amount,
      price: (amount * 0.0331).toFixed(2),
      steps: [],
      minimum: 1,
    }));
    const found = choosePacks(1e6, "GBP", offers)!;
    // 0.36 for 11 is the cheapest a piece; 23 pieces for 0.66 in other packs would not be.
    expect(found).toMatchObject({ over: 0, proved: true, total: "32727.28" });
    const dear = { amount: 0.001, price: "999999999", steps: [], minimum: 1 };
    expect(choosePacks(1e9, "GBP", [dear])).toBeNull();
  });
  test("places by ISO 4217: as the machine's own tables have them for currencies of 0 and 3", () => {
    for (const code of ["JPY", "KRW", "VND", "XOF", "BHD", "KWD", "JOD", "TND", "GBP", "EUR", "USD", "CLF"]) {
      const { maximumFractionDigits } = new Intl.NumberFormat("en", {
        style: "currency",
        currency: code,
      }).resolvedOptions();
      expect([code, coinPlaces(code)]).toEqual([code, maximumFractionDigits]);
    }
  });
});
