import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  bestNumber,
  boxesByShare,
  demandOf,
  empirical,
  fitNormal,
  howMany,
  makeBinomial,
  meanOf,
  negativeBinomial,
  normalCdf,
  normalDemand,
  outcomeOf,
  profitCurve,
  resample,
  reserveFor,
  sharesOf,
  sizeOf,
  threePoint,
  weightOfPast,
} from "../src/demand/index.ts";
import { seeded } from "../src/weigh/index.ts";

const months = (...sold: number[]) => sold.map((n) => ({ sold: n, soldOut: false }));
const upTo = (p: readonly number[], n: number) => p.slice(0, n + 1).reduce((a, b) => a + b, 0);
const quantile = (p: readonly number[], q: number) => {
  let all = 0;
  return p.findIndex((x) => (all += x) >= q);
};

describe("distributions against scipy 1.17.1 (scipy.stats)", () => {
  test.each([
    [120, 12.5, 0.8, 149, 0.011110750060637217, 0.7703495910383173],
    [240, 40, 0.7, 260, 0.009712457273316098, 0.8787092250409841],
    [30, 3, 0.95, 65, 0.02135615509945858, 0.7008125778913311],
    [5, 0.8, 0.5, 3, 0.059814125828576516, 0.7262313748475634],
    [300, 1000, 0.9, 325, 0.02019522858360393, 0.998460263148359],
  ])("nbinom of mean %s and size %s: ppf(%s) = %s", (mean, r, q, n, pmf, cdf) => {
    const { p } = negativeBinomial(mean, r);
    expect(quantile(p, q)).toBe(n);
    expect(p[mean]).toBeCloseTo(pmf, 9);
    expect(upTo(p, Math.floor(1.2 * mean))).toBeCloseTo(cdf, 8);
    expect(meanOf({ p })).toBeCloseTo(mean, 3);
  });

  test.each([
    [-3.2, 0.0006871379379158471],
    [-1, 0.15865525393145707],
    [0, 0.5],
    [0.5, 0.6914624612740131],
    [1.96, 0.9750021048517795],
    [4, 0.9999683287581669],
  ])("norm.cdf(%s)", (z, cdf) => expect(normalCdf(z)).toBeCloseTo(cdf, 12));

  test("triang: the least, the likeliest and the most, half a box wider at its ends", () => {
    const { p } = threePoint(100, 150, 260);
    expect(upTo(p, 99)).toBeLessThan(1e-12);
    expect(upTo(p, 260)).toBeCloseTo(1, 12);
    // triang.ppf at 0.1, 0.5 and 0.9 is 128.01, 166.19 and 218.32.
    expect([0.1, 0.5, 0.9].map((q) => quantile(p, q))).toEqual([128, 166, 218]);
  });

  test("binom.ppf(0.95): what is held back for claims", () => {
    expect([reserveFor(280, 0.01), reserveFor(140, 0.03), reserveFor(50, 0.2)]).toEqual([6, 8, 15]);
    expect(reserveFor(100, 0)).toBe(0);
  });
});

describe("months that sold out", () => {
  const seen = [...months(180, 205, 240, 260, 310), { sold: 220, soldOut: true }, { sold: 280, soldOut: true }];

  test("give their chance to those that sold more: ecdf of CensoredData, scipy 1.17.1", () => {
    const { p } = empirical(seen);
    const at = [180, 205, 220, 240, 260, 280, 310].map((n) => upTo(p, n));
    const expected = [0.14285714, 0.28571429, 0.28571429, 0.46428571, 0.64285714, 0.64285714, 1];
    at.forEach((x, i) => expect(x).toBeCloseTo(expected[i]!, 7));
  });

  test("are lower bounds of a normal: the likeliest mean and spread by scipy 1.17.1 (minimize of norm.logsf)", () => {
    const { mean, sd } = fitNormal(seen);
    expect(mean).toBeCloseTo(254.40675817832374, 3);
    expect(sd * Math.sqrt(6 / 7)).toBeCloseTo(49.12208216721102, 3);
    expect(mean).toBeGreaterThan(fitNormal(seen.map((m) => ({ ...m, soldOut: false }))).mean);
  });

  test("all of them: the most that was sold, and a fit that ends", () => {
    const all = [200, 240].map((sold) => ({ sold, soldOut: true }));
    expect(upTo(empirical(all).p, 239)).toBe(0);
    expect(Number.isFinite(fitNormal(all).mean)).toBe(true);
  });
});

test("with no month sold out, the fit is the sample's mean and standard deviation", () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 2, maxLength: 24 }), (sold) => {
      const { mean, sd } = fitNormal(months(...sold));
      const plain = sold.reduce((a, b) => a + b, 0) / sold.length;
      const variance = sold.reduce((s, x) => s + (x - plain) ** 2, 0) / (sold.length - 1);
      expect(mean).toBeCloseTo(plain, 6);
      expect(sd).toBeCloseTo(Math.sqrt(Math.max(variance, 1e-6)), 2);
    }),
  );
});

test("every distribution adds up to 1; left less short of a number is what it is above the mean", () => {
  const shapes = fc.oneof(
    fc.array(fc.record({ sold: fc.nat(80), soldOut: fc.boolean() }), { minLength: 1, maxLength: 9 }).map(empirical),
    fc.tuple(fc.integer({ min: 20, max: 200 }), fc.integer({ min: 1, max: 12 })).map(([m, s]) => normalDemand(m, s)),
    fc.tuple(fc.integer({ min: 1, max: 200 }), fc.integer({ min: 1, max: 60 })).map(([m, r]) => negativeBinomial(m, r)),
    fc
      .tuple(fc.nat(50), fc.nat(50), fc.integer({ min: 1, max: 50 }))
      .map(([a, b, c]) => threePoint(a, a + b, a + b + c)),
  );
  fc.assert(
    fc.property(shapes, fc.nat(200), (demand, make) => {
      expect(demand.p.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
      expect(demand.p.every((x) => x >= 0)).toBe(true);
      // E(make − D)⁺ − E(D − make)⁺ = make − E(D).
      const { expectedLeft, expectedShort } = outcomeOf(demand, make);
      expect(expectedLeft - expectedShort).toBeCloseTo(make - meanOf(demand), 5);
    }),
  );
});

describe("the newsvendor", () => {
  test("with normal demand: textbook case, mean 100, sd 30, too few 4, too many 2", () => {
    // Q* = μ + z σ with Φ(z) = 4 ÷ 6: 112.92, and σ (φ(z) − z (1 − Φ(z))) = 6.60 short (scipy 1.17.1,
    // norm.ppf).
    const demand = normalDemand(100, 30);
    const make = bestNumber(demand, { under: 4, over: 2 });
    expect(make).toBe(113);
    expect(outcomeOf(demand, make).expectedShort).toBeCloseTo(6.57, 1);
  });

  test("over HTTP's words: a small case by hand", () => {
    // Of 10, 20, 30, 40 with 3 too few and 1 too many, the ratio is 3/4: 30 covers three of four months.
    const found = howMany({ sales: [40, 10, 30, 20], over: "1", under: "3", presold: null })!;
    expect(found).toMatchObject({ make: 30, chanceToSellOut: 0.5, expectedLeft: 7.5, expectedShort: 2.5 });
    expect(found.byQuantity).toHaveLength(41);
    // 3 × (10 + 20 + 30 + 30) ÷ 4 − 1 × (20 + 10) ÷ 4 = 67.5 − 7.5.
    expect(found.byQuantity[30]).toEqual({ n: 30, profit: 60 });
    expect(howMany({ sales: [10], over: "1", under: "1", presold: 25 })).toMatchObject({ make: 25, expectedLeft: 15 });
    expect(howMany({ sales: [10], over: "0", under: "1", presold: null })).toBeNull();
  });

  test("is decided in decimals where the ratio is just reached", () => {
    // 0.1 ÷ (0.1 + 0.2) is a third, which one of three months reaches exactly.
    expect(howMany({ sales: [1, 2, 3], over: "0.2", under: "0.1", presold: null })!.make).toBe(1);
    expect(howMany({ sales: [1, 2, 3], over: "0.1999", under: "0.1", presold: null })!.make).toBe(2);
  });

  test("no other number has a better expected profit, and the curve is what plain sums say", () => {
    const sold = fc.array(fc.integer({ min: 0, max: 60 }), { minLength: 1, maxLength: 12 });
    const cost = fc.integer({ min: 1, max: 900 });
    fc.assert(
      fc.property(sold, cost, cost, (sales, o, u) => {
        const text = (cents: number) => (cents / 100).toFixed(2);
        const found = howMany({ sales, over: text(o), under: text(u), presold: null })!;
        const best = Math.max(...found.byQuantity.map((q) => q.profit));
        expect(found.byQuantity[found.make]!.profit).toBeCloseTo(best, 6);
        for (const { n, profit } of found.byQuantity) {
          const plain = sales.reduce((s, d) => s + (u * Math.min(d, n) - o * Math.max(0, n - d)) / 100, 0);
          expect(profit).toBeCloseTo(plain / sales.length, 6);
        }
        // The same by the distribution, which the application uses.
        const demand = empirical(months(...sales));
        const stakes = { over: o / 100, under: u / 100 };
        expect(bestNumber(demand, stakes)).toBe(found.make);
        profitCurve(demand, stakes, Math.max(...sales)).forEach((q, n) =>
          expect(q.profit).toBeCloseTo(found.byQuantity[n]!.profit, 6),
        );
        const { expectedLeft, expectedShort, chanceToSellOut } = outcomeOf(demand, found.make);
        expect(expectedLeft).toBeCloseTo(found.expectedLeft, 6);
        expect(expectedShort).toBeCloseTo(found.expectedShort, 6);
        expect(chanceToSellOut).toBeCloseTo(found.chanceToSellOut, 6);
      }),
    );
  });

  test("a fitted negative binomial has the months' mean and spread", () => {
    const past = months(180, 205, 240, 260, 310);
    const { mean, sd } = fitNormal(past);
    const { p } = demandOf(past, "negative binomial");
    const variance = p.reduce((s, x, n) => s + x * (n - mean) ** 2, 0);
    expect(meanOf({ p })).toBeCloseTo(mean, 2);
    expect(Math.sqrt(variance)).toBeCloseTo(sd, 1);
    expect(sizeOf({ mean: 100, sd: 5 })).toBe(1e7);
  });
});

describe("colourways", () => {
  const past = [
    [
      { name: "Honey", sold: 80 },
      { name: "Smoke", sold: 40 },
    ],
    [
      { name: "Honey", sold: 60 },
      { name: "Slate", sold: 60 },
    ],
  ];

  test("begin with the past's part, and follow what is sold more and more", () => {
    const fresh = sharesOf(
      [
        { name: "Honey", sold: 0 },
        { name: "Ash", sold: 0 },
      ],
      past,
      25,
    );
    // 140 of what would evenly have been 120: 7/6 against 1.
    expect(fresh[0]!.share).toBeCloseTo(7 / 13, 9);
    const some = sharesOf(
      [
        { name: "Honey", sold: 5 },
        { name: "Ash", sold: 20 },
      ],
      past,
      25,
    );
    expect(some[1]!.share).toBeCloseTo((20 + 25 * (6 / 13)) / 50, 9);
    const many = sharesOf(
      [
        { name: "Honey", sold: 500 },
        { name: "Ash", sold: 2000 },
      ],
      past,
      25,
    );
    expect(many[1]!.share).toBeCloseTo(0.8, 2);
  });

  test("that sold alike count for more than wild ones", () => {
    const alike = [1, 2, 3].map(() => [
      { name: "a", sold: 50 },
      { name: "b", sold: 51 },
    ]);
    const wild = [1, 2, 3].map((n) => [
      { name: "a", sold: n * 30 },
      { name: "b", sold: 5 },
    ]);
    expect(weightOfPast(alike)).toBeGreaterThan(weightOfPast(wild));
    expect(weightOfPast([])).toBe(25);
  });

  test("share out all boxes, and none gets fewer than are sold", () => {
    const some = fc.array(fc.record({ share: fc.integer({ min: 1, max: 99 }), sold: fc.nat(40) }), {
      minLength: 1,
      maxLength: 8,
    });
    fc.assert(
      fc.property(some, fc.nat(400), (shares, more) => {
        const make = shares.reduce((n, s) => n + s.sold, 0) + more;
        const out = boxesByShare(make, shares);
        expect(out.reduce((a, b) => a + b, 0)).toBe(make);
        out.forEach((n, i) => expect(n).toBeGreaterThanOrEqual(shares[i]!.sold));
      }),
    );
  });
});

test("binomial variates have the binomial's mean and spread, at few tries and many", () => {
  const random = seeded(11);
  const draw = makeBinomial(2300, random);
  for (const [n, p] of [
    [5, 0.3],
    [40, 0.02],
    [2300, 0.017],
    [2300, 0.5],
    [100, 0.97],
  ] as const) {
    const times = 20_000;
    const drawn = Array.from({ length: times }, () => draw(n, p));
    const mean = drawn.reduce((a, b) => a + b, 0) / times;
    const variance = drawn.reduce((s, x) => s + (x - mean) ** 2, 0) / (times - 1);
    const sd = Math.sqrt(n * p * (1 - p));
    // Five standard errors of the mean, and a twentieth of the variance: np and np(1 − p).
    expect(Math.abs(mean - n * p)).toBeLessThan((5 * sd) / Math.sqrt(times));
    expect(Math.abs(variance / sd ** 2 - 1)).toBeLessThan(0.06);
  }
  expect([draw(0, 0.5), draw(7, 0), draw(7, 1)]).toEqual([0, 0, 7]);
});

test("played over and over, colourways come to what can be reckoned", () => {
  const asked = {
    months: months(100, 100, 100),
    shape: "empirical" as const,
    demand: empirical(months(100, 100, 100)),
    stakes: { over: 1, under: 1 },
    made: [60, 60],
    alphas: [1e6, 1e6],
    presold: 0,
    times: 4000,
    seed: 7,
  };
  const found = resample(asked);
  // Half of 100 buyers each, sd 5: hardly ever 60 or more, and 10 left of each on average.
  for (const c of found.colourways) {
    expect(c.chanceToSellOut).toBeLessThan(0.06);
    expect(Math.abs(c.expectedLeft - 10)).toBeLessThan(0.4);
  }
  expect([found.from, found.to]).toEqual([100, 100]);
  expect(resample(asked)).toEqual(found);
});
