import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  gaugeMm,
  inUnit,
  MM_PER_INCH,
  plainNumber,
  readLength,
  sayCut,
  sayLength,
  sayRun,
  sayTyped,
  exact,
  inEqualParts,
  MOST_IN_ALL,
  timesInto,
  timesToCover,
  upInSteps,
} from "../src/units/index.ts";

describe("lengths as people write them", () => {
  // 1 in = 25.4 mm exactly (international yard and pound agreement, 1959; NIST SP 811).
  test.each([
    ["1in", 25.4],
    ['7 1/2"', 190.5],
    ["7-1/2 in", 190.5],
    ["7½in", 190.5],
    ["7 ½ in", 190.5],
    ["½in", 12.7],
    ["1/8in", 3.175],
    ["3ft", 914.4],
    ["30ft", 9144],
    ["12.5cm", 125],
    ["12,5 cm", 125],
    ["190mm", 190],
    [" 190 mm ", 190],
    ["2m", 2000],
    [".5in", 12.7],
    ["5.in", 127],
    ["0mm", 0],
  ])("%s is %d mm", (text, mm) => expect(readLength(text)).toBeCloseTo(mm, 9));
  test("a foot is read exactly, so that a spool read twice is one length", () => {
    for (const feet of [1, 10, 30, 100, 1000]) expect(readLength(`${feet}ft`)).toBe(feet * 304.8);
  });
  test.each(["", "in", "7 1/2", "long", "7 in 2", "--5mm", "1/0in", "5 parsecs", "1e3mm", "∞mm", "0x10mm"])(
    "%j is none without more",
    (text) => expect(readLength(text)).toBeNull(),
  );
  test("a bare number takes the unit of the field", () => {
    expect([readLength("7 1/2", "in"), readLength("190", "mm"), readLength("7.5", "in")]).toEqual([190.5, 190, 190.5]);
    expect(readLength("190mm", "in")).toBe(190);
  });
});

describe("lengths in a field", () => {
  test.each([
    // Bought by the metre and by the foot: as it was typed, whichever unit one likes.
    [10_000, "in", "10 m"],
    [10_000, "mm", "10 m"],
    [1_500, "mm", "1.5 m"],
    [9_144, "in", "30 ft"],
    [9_144, "mm", "9144"],
    [914.4, "in", "36"],
    [190.5, "in", "7 1/2"],
    [1_234.5, "in", "~48 5/8"],
  ] as const)("%d mm in %s is %s", (mm, unit, text) => {
    expect(sayTyped(mm, unit)).toBe(text);
    const read = readLength(text.replace("~", ""), unit)!;
    if (!text.startsWith("~")) expect(read).toBeCloseTo(mm, 6);
  });
});

describe("lengths as they are said", () => {
  test.each([
    [25.4, "1"],
    [190.5, "7 1/2"],
    [3.175, "1/8"],
    [1.5875, "1/16"],
    [0, "0"],
    [0.2, "0"],
    [26.9875, "1 1/16"],
    [-12.7, "-1/2"],
  ])("%d mm in inches: %s", (mm, said) => expect(sayLength(mm, "in")).toBe(said));
  test.each([
    [9144, "in", "30 ft"],
    [9150, "in", "30 ft 1/4 in"],
    [9220, "in", "30 ft 3 in"],
    [500, "in", "19 11/16 in"],
    [9144, "mm", "9144 mm"],
    [12_500, "mm", "12.5 m"],
    [12_345, "mm", "12.345 m"],
    // 32 ft 10 in less ten cuts of 11 5/8 in.
    [10_007.6 - 10 * 295.275, "in", "23 ft 1 3/4 in"],
  ] as const)("a run of %d mm (%s): %s", (mm, unit, said) => expect(sayRun(mm, unit)).toBe(said));
  test("a cut is said to the next sixteenth, or the next tenth of a millimetre, and never shorter than it is", () => {
    expect([sayCut(508, "in"), sayCut(508.1, "in"), sayCut(100.2, "mm"), sayCut(100, "mm")]).toEqual([
      "20 in",
      "20 1/16 in",
      "100.2 mm",
      "100 mm",
    ]);
    // Chain is counted in links; about how long they are stands beside.
    expect([sayCut(86.4, "in", 3.2), sayCut(86.4, "mm", 3.2), sayCut(3, "mm", 3.2)]).toEqual([
      "27 links (~3 3/8 in)",
      "27 links (86.4 mm)",
      "1 link (3.2 mm)",
    ]);
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 20_000, noNaN: true }), (mm) => {
        expect(readLength(sayCut(mm, "in"))!).toBeGreaterThanOrEqual(mm - 0.0011);
        expect(readLength(sayCut(mm, "in"))! - mm).toBeLessThanOrEqual(MM_PER_INCH / 16 + 1e-9);
        expect(readLength(sayCut(mm, "mm"))!).toBeGreaterThanOrEqual(mm - 0.0011);
      }),
    );
  });
  test("what is said is what was meant, to a thirty-second", () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 5000, noNaN: true }), (mm) => {
        expect(Math.abs(readLength(`${sayLength(mm, "in")}in`)! - mm)).toBeLessThanOrEqual(MM_PER_INCH / 32 + 1e-9);
      }),
    );
  });
  test("numbers are trimmed and never −0", () => {
    expect([
      plainNumber(1.5, 3),
      plainNumber(2, 2),
      plainNumber(-0.0001, 2),
      plainNumber(1200, 0),
      plainNumber(0.125, 2),
    ]).toEqual(["1.5", "2", "0", "1200", "0.13"]);
  });
});

test("wire by gauge: the diameters of ASTM B258, 0.005 in at 36 and 0.46 in at 0000", () => {
  expect(gaugeMm(36)).toBeCloseTo(0.127, 9);
  expect(gaugeMm(-3)).toBeCloseTo(11.684, 3);
  // Every six gauges halve the diameter, near enough: 92^(6/39) = 2.005.
  for (const n of [16, 20, 24, 28]) expect(gaugeMm(n) / gaugeMm(n + 6)).toBeCloseTo(2.005, 3);
  for (const [n, mm] of [
    [18, 1.024],
    [20, 0.812],
    [22, 0.644],
    [24, 0.511],
    [26, 0.405],
    [28, 0.321],
  ] as const)
    expect(gaugeMm(n)).toBeCloseTo(mm, 3);
});

describe("lengths in the unit that was chosen", () => {
  test("a cut of so many sixteenths is said as it is, any other to the next one", () => {
    expect(sayCut(100.0125, "in")).toBe("3 15/16 in"); // 3.9375 in exactly
    expect(sayCut(100.1, "in")).toBe("4 in");
  });
  test("a field says a fraction as it is, and a rounded one with a sign", () => {
    expect([190.5, 101.6, 150, 191, 6, 1.41, 0.85].map((mm) => sayTyped(mm, "in"))).toEqual([
      "7 1/2",
      "4",
      "~5 7/8",
      "~7 1/2",
      "~15/64",
      "~1/16",
      "~1/32",
    ]);
    expect(sayTyped(1.41, "mm")).toBe("1.41");
  });
  test("what a field says is within half a step of the length, and exact where no sign says otherwise", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.3, max: 5000, noNaN: true }), (mm) => {
        const said = sayTyped(mm, "in");
        const back = readLength(said.replace("~", ""), "in")!;
        expect(Math.abs(back - mm)).toBeLessThanOrEqual(said.startsWith("~") ? (mm < 25.4 ? 0.1985 : 0.794) : 0.001);
      }),
    );
  });
  test("only the lengths of a sentence follow the unit", () => {
    const said = "A cut of 1,016.5\u00a0mm of A is shorter than 8 mm rounds.";
    expect(inUnit(said, "mm")).toBe(said);
    expect(inUnit(said, "in")).toBe("A cut of ~40 in of A is shorter than 8 mm rounds.");
  });
});

describe("amounts on their steps, held against decimal arithmetic (big.js)", () => {
  /** A length of whole ten-thousandths of a millimetre, from 0.1 mm on, as its digits. */
  const length = (most: number) =>
    fc.integer({ min: 1000, max: most * 10_000 }).map((steps) => new Big(steps).div(10_000).toFixed(4));

  test("a sum, a difference and a product are what decimal arithmetic has", () => {
    fc.assert(
      fc.property(length(1e6), length(1e6), fc.integer({ min: 1, max: 50_000 }), (a, b, n) => {
        expect(exact(Number(a) + Number(b))).toBe(new Big(a).plus(b).toNumber());
        expect(exact(Number(a) - Number(b))).toBe(new Big(a).minus(b).toNumber());
        expect(exact(Number(a) * n)).toBe(new Big(a).times(n).toNumber());
      }),
    );
    expect(exact(MOST_IN_ALL - 0.0001)).toBe(new Big(MOST_IN_ALL).minus("0.0001").toNumber());
  });
  test("a length goes into another as often as it does by decimal arithmetic, and covers it upwards", () => {
    fc.assert(
      fc.property(length(1e6), length(1e4), (long, short) => {
        const times = new Big(long).div(short);
        expect(timesInto(Number(long), Number(short))).toBe(times.round(0, Big.roundDown).toNumber());
        const cover = timesToCover(Number(long), Number(short));
        expect(new Big(short).times(cover).gte(long)).toBe(true);
        expect(new Big(short).times(cover - 1).lt(long)).toBe(true);
      }),
    );
  });
  test("upwards is never less, and never a whole step more", () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1e6, noNaN: true }), (n) => {
        const up = new Big(upInSteps(n, "mm")).minus(n).toNumber();
        expect(up).toBeGreaterThan(-1e-9);
        expect(up).toBeLessThan(0.0001 + 1e-9);
      }),
    );
    expect(upInSteps(0.1 + 0.2, "g")).toBe(0.3);
  });
  test("equal parts are together what was parted, however many, and differ by one step", () => {
    fc.assert(
      fc.property(length(1e6), fc.integer({ min: 1, max: 5000 }), (n, parts) => {
        const found = inEqualParts(Number(n), parts);
        const sum = found.reduce((s, p) => s.plus(new Big(p.each).times(p.count)), new Big(0));
        expect(sum.toFixed(4)).toBe(n);
        expect(found.reduce((s, p) => s + p.count, 0)).toBe(parts);
        const sizes = found.map((p) => p.each);
        expect(exact(Math.max(...sizes) - Math.min(...sizes))).toBeLessThanOrEqual(0.0001);
      }),
    );
    expect(inEqualParts(1000, 3)).toEqual([
      { each: 333.3333, count: 2 },
      { each: 333.3334, count: 1 },
    ]);
  });
});
