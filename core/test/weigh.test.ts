import jstat from "jstat";
import { describe, expect, test } from "vitest";
import {
  countByWeight,
  readingU,
  readWeighing,
  sampleFor,
  seeded,
  SimulatedScale,
  studentFactor,
  pooledPiece,
  USUAL_SCALE,
  type WeighedCount,
  type Weighing,
} from "../src/weigh/index.ts";

const counted = (w: Partial<Weighing>) =>
  countByWeight({
    balance: { d: 0.01, repeatability: 0 },
    gross: [],
    tare: 0,
    samples: [],
    known: null,
    usualSpread: 0.05,
    ...w,
  }) as WeighedCount;

describe("counting by weighing", () => {
  test("a rectangular and a statistical part combine: JCGM 100:2008, 4.3.7, 5.1.5 (figures from memory)", () => {
    // Readings with u = 12 µV; a rectangular part of half width 15 µV, u = 8.7 µV: together 15 µV.
    expect(readingU({ d: 30, repeatability: 0 })).toBeCloseTo(8.66, 2);
    expect(readingU({ d: 30, repeatability: 12 })).toBeCloseTo(14.8, 1);
    expect(Math.round(readingU({ d: 30, repeatability: 12 }))).toBe(15);
  });

  test("each source by itself", () => {
    // 100 pieces of 1 g; a sample of 100 apart, no spread: only the readings.
    const scale = counted({ gross: [100], usualSpread: 0, samples: [{ pieces: 100, g: 100, fromJar: false }] });
    expect(scale.n).toBe(100);
    expect(scale.u).toBeCloseTo(Math.hypot(0.01 / Math.sqrt(12), Math.SQRT2 * (0.01 / Math.sqrt(12))), 9);
    expect(scale.dominant).toBe("scale");
    // Spread c, sample of k apart, ideal scale: u² = n²c²/k + nc².
    const ideal = { d: 0, repeatability: 0 };
    const apart = counted({
      balance: ideal,
      gross: [400],
      usualSpread: 0.05,
      samples: [{ pieces: 25, g: 25, fromJar: false }],
    });
    expect(apart.u).toBeCloseTo(Math.sqrt((400 * 0.05) ** 2 / 25 + 400 * 0.05 ** 2), 9);
    expect(apart.dominant).toBe("piece");
    // Out of the jar: u² = n²c²(1/k − 1/n); all of it sampled is all of it known.
    const inJar = counted({
      balance: ideal,
      gross: [400],
      usualSpread: 0.05,
      samples: [{ pieces: 25, g: 25, fromJar: true }],
    });
    expect(inJar.u).toBeCloseTo(400 * 0.05 * Math.sqrt(1 / 25 - 1 / 400), 9);
    expect(counted({ balance: ideal, gross: [25], samples: [{ pieces: 25, g: 25, fromJar: true }] }).u).toBeCloseTo(
      0,
      9,
    );
  });

  test("several weighings of the jar tell more than one; a remembered lot needs no sample", () => {
    const balance = { d: 0.1, repeatability: 0.2 };
    const once = counted({ balance, gross: [52.1], tare: 2, known: { g: 0.1, u: 0, sd: 0.002, pieces: 500 } });
    const often = counted({
      balance,
      gross: [52.1, 52.0, 52.2, 52.1],
      tare: 2,
      known: { g: 0.1, u: 0, sd: 0.002, pieces: 500 },
    });
    expect(once.n).toBe(501);
    expect(often.u).toBeLessThan(once.u);
    expect(often.plusMinus).toBeGreaterThan(0);
  });

  test("what is missing is said", () => {
    expect(
      countByWeight({
        balance: { d: 0.01, repeatability: 0 },
        gross: [],
        tare: 0,
        samples: [],
        known: null,
        usualSpread: 0.05,
      }),
    ).toEqual({ fault: expect.stringContaining("Put the jar") });
    expect(
      countByWeight({
        balance: { d: 0.01, repeatability: 0 },
        gross: [5],
        tare: 6,
        samples: [{ pieces: 5, g: 1, fromJar: true }],
        known: null,
        usualSpread: 0.05,
      }),
    ).toEqual({ fault: expect.stringContaining("tare") });
    expect(
      countByWeight({
        balance: { d: 0.01, repeatability: 0 },
        gross: [5],
        tare: 0,
        samples: [],
        known: null,
        usualSpread: 0.05,
      }),
    ).toEqual({ fault: expect.stringContaining("counted") });
  });

  test("over 10,000 seeded jars the 95 % interval holds the true count in 93 to 97 %", () => {
    const random = seeded(20270401);
    const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    const d = 0.01;
    const read = (g: number) => Math.round(g / d) * d;
    let held = 0;
    const jars = 10_000;
    for (let jar = 0; jar < jars; jar++) {
      const n = 150 + Math.floor(random() * 1500);
      const k = 10 + Math.floor(random() * 40);
      const mass = 0.02 + random() * 0.3;
      const c = 0.02 + random() * 0.08;
      // The sample by piece, the rest by the sum of normal pieces.
      let sample = 0;
      for (let i = 0; i < k; i++) sample += mass * (1 + c * normal());
      const rest = (n - k) * mass + c * mass * Math.sqrt(n - k) * normal();
      const tare = 5 + random() * 20;
      const found = counted({
        balance: { d, repeatability: 0 },
        gross: [read(tare + sample + rest)],
        tare: read(tare),
        usualSpread: c,
        samples: [{ pieces: k, g: read(tare + sample) - read(tare), fromJar: true }],
      });
      if (Math.abs(found.n - n) <= found.plusMinus) held++;
    }
    expect(held / jars).toBeGreaterThanOrEqual(0.93);
    expect(held / jars).toBeLessThanOrEqual(0.97);
  });

  test("the coverage factor is Student's t, held against a general library", () => {
    for (const freedom of [1, 2, 3, 5, 8, 12, 20, 22, 27, 33, 48, 60, 150]) {
      const t = jstat.studentt.inv(0.975, freedom);
      expect(studentFactor(freedom)).toBeGreaterThanOrEqual(t - 0.006);
      expect(studentFactor(freedom)).toBeLessThan(t + 0.02);
    }
    expect(studentFactor(Infinity)).toBe(1.96);
  });

  test("with the spread told by the samples themselves the interval holds as well (Student's t)", () => {
    const random = seeded(7);
    const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    let held = 0;
    const jars = 4000;
    for (let jar = 0; jar < jars; jar++) {
      const [n, mass, c] = [400 + Math.floor(random() * 800), 0.25, 0.06];
      const samples = Array.from({ length: 5 }, () => ({
        pieces: 10,
        g: Array.from({ length: 10 }, () => mass * (1 + c * normal())).reduce((a, b) => a + b),
        fromJar: false,
      }));
      const gross = n * mass + c * mass * Math.sqrt(n) * normal();
      const found = counted({ balance: { d: 0, repeatability: 0 }, gross: [gross], usualSpread: 0.5, samples });
      if (Math.abs(found.n - n) <= found.plusMinus) held++;
    }
    expect(held / jars).toBeGreaterThanOrEqual(0.93);
    expect(held / jars).toBeLessThanOrEqual(0.975);
  });

  test("how many to sample for a wanted ±, or what stands in the way", () => {
    const w: Weighing = {
      balance: { d: 0.01, repeatability: 0 },
      gross: [112],
      tare: 0,
      samples: [{ pieces: 20, g: 2, fromJar: true }],
      known: null,
      usualSpread: 0.05,
    };
    const now = countByWeight(w) as WeighedCount;
    const asked = sampleFor(w, Math.floor(now.plusMinus / 2)) as { pieces: number };
    expect(asked.pieces).toBeGreaterThan(60);
    const g = asked.pieces * 0.1;
    expect(
      (countByWeight({ ...w, samples: [{ pieces: asked.pieces, g, fromJar: true }] }) as WeighedCount).plusMinus,
    ).toBeLessThanOrEqual(Math.floor(now.plusMinus / 2));
    expect(
      (countByWeight({ ...w, samples: [{ pieces: asked.pieces - 1, g: g - 0.1, fromJar: true }] }) as WeighedCount)
        .plusMinus,
    ).toBeGreaterThan(Math.floor(now.plusMinus / 2));
    expect(sampleFor({ ...w, balance: { d: 5, repeatability: 0 } }, 1)).toEqual({ never: "scale" });
  });

  test("what is remembered of a lot weighs both by what they rest on", () => {
    const both = pooledPiece({ g: 0.1, u: 0.001, sd: 0.004, pieces: 30 }, { g: 0.104, u: 0.001, sd: null, pieces: 10 });
    expect(both).toMatchObject({ pieces: 40, sd: 0.004 });
    expect(both.g).toBeCloseTo(0.101, 9);
    expect(both.u).toBeLessThan(0.001);
  });
});

describe("weighing lines", () => {
  test.each([
    ["ST,GS,+  123.45 g", { grams: 123.45, stable: true, overload: false }],
    ["US,GS,+  123.40 g", { grams: 123.4, stable: false, overload: false }],
    ["S S     100.00 g", { grams: 100, stable: true, overload: false }],
    ["S D     100.02 g", { grams: 100.02, stable: false, overload: false }],
    ["      12.345 ct", { grams: 2.469, stable: true, overload: false }],
    ["+ 0,35 oz ?", { grams: 9.92233309375, stable: false, overload: false }],
    ["N     +   7.10  g  ", { grams: 7.1, stable: true, overload: false }],
    ["- 0.02 g", { grams: -0.02, stable: true, overload: false }],
    ["OL", { grams: 0, stable: false, overload: true }],
    ["ST,OL,+999999 g", { grams: 0, stable: false, overload: true }],
  ])("%s", (line, reading) => {
    const found = readWeighing(line)!;
    expect(found.grams).toBeCloseTo(reading.grams, 9);
    expect({ ...found, grams: reading.grams }).toEqual(reading);
  });
  test("what is no weighing is none, and another layout has its pattern", () => {
    expect(readWeighing("READY")).toBeNull();
    expect(readWeighing("")).toBeNull();
    const pattern = "^W(?<value>[+-]\\d+)(?<unstable>~)?$";
    expect(readWeighing("W+1250", { pattern, unit: "mg" })).toEqual({ grams: 1.25, stable: true, overload: false });
    expect(readWeighing("W+1250~", { pattern, unit: "mg" })).toMatchObject({ stable: false });
    expect(readWeighing("X+1250", { pattern })).toBeNull();
    expect(readWeighing("W+1", { pattern: "(" })).toBeNull();
  });
});

describe("the simulated scale", () => {
  test("settles, rounds to its readability, and says when it is too much", () => {
    const scale = new SimulatedScale({ ...USUAL_SCALE, repeatability: 0 }, seeded(1));
    scale.put(20, 0);
    expect(scale.read(50)).toMatchObject({ stable: false });
    expect(scale.read(1000)).toEqual({ grams: 20, stable: true, overload: false });
    scale.put(20.1234, 1000);
    expect(scale.read(3000).grams).toBeCloseTo(20.12, 9);
    scale.tare(3000);
    scale.put(25, 3000);
    expect(scale.read(5000).grams).toBeCloseTo(4.88, 9);
    scale.put(501, 5000);
    expect(scale.read(9000).overload).toBe(true);
  });
  test("drifts", () => {
    const scale = new SimulatedScale({ ...USUAL_SCALE, repeatability: 0, drift: 0.6 }, seeded(1));
    scale.put(10, 0);
    expect(scale.read(3_600_000).grams).toBeCloseTo(10.6, 9);
  });
});
