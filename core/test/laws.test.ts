import fc from "fast-check";
import { describe, expect, test, vi } from "vitest";
import { FORM_KNOWN } from "../src/component/index.ts";
import { closeGap } from "../src/count/fill.ts";
import { count, countKit, shareOut } from "../src/count/index.ts";
import { parsePattern } from "../src/shorthand/index.ts";
import { gaugeMm, readLength, sayCut, sayLength, sayRun } from "../src/units/index.ts";
import { counted, design } from "./designs.ts";
import { inOneRow, pattern, withJoins } from "./patterns.ts";

const times = (counts: Record<string, number>, n: number) =>
  Object.fromEntries(Object.entries(counts).map(([k, v]) => [k, v * n]));

describe("laws of counting", () => {
  test("what the grammar grows has no problems", () => {
    fc.assert(
      fc.property(withJoins, (text) => {
        expect(parsePattern(text).problems).toEqual([]);
      }),
    );
  });
  test("repeats multiply, and a mirror doubles", () => {
    fc.assert(
      fc.property(pattern, fc.integer({ min: 1, max: 50 }), (text, n) => {
        const row = inOneRow(text);
        const once = counted(row);
        const many = counted(`(${row}) x${n}`);
        fc.pre(many.problems.length === 0); // beyond a billion
        expect(many.counts).toEqual(times(once.counts, n));
        expect(many.parts[0]!.strandMm).toBeCloseTo(once.parts[0]!.strandMm * n, 4);
        expect(counted(`(${row}) mirror`).counts).toEqual(times(once.counts, 2));
        expect(counted(row, { makes: n }).counts).toEqual(times(once.counts, n));
      }),
    );
  });
  test("passing through never changes a count, only the path", () => {
    fc.assert(
      fc.property(pattern, pattern, (text, again) => {
        const row = inOneRow(again);
        const [plain, passed] = [counted(text), counted(`${text}\n>(${row})`)];
        expect(passed.counts).toEqual(plain.counts);
        expect(passed.parts[0]!.strandMm).toBeCloseTo(plain.parts[0]!.strandMm, 6);
        expect(passed.parts[0]!.pathMm).toBeCloseTo(plain.parts[0]!.pathMm + counted(row).parts[0]!.pathMm, 4);
      }),
    );
  });
  test("the order of parts doesn't matter", () => {
    fc.assert(
      fc.property(fc.array(pattern, { minLength: 2, maxLength: 4 }), (texts) => {
        const parts = texts.map((steps, i) => ({
          id: `p${i}`,
          name: `p${i}`,
          steps,
          stringing: "TH",
          tailMm: 10 * i,
          makes: i + 1,
        }));
        const [there, back] = [count(design({ parts })), count(design({ parts: [...parts].reverse() }))];
        expect(back.counts).toEqual(there.counts);
        // Rows that are in error all through take no thread at all.
        expect(back.lengthsMm.TH ?? 0).toBeCloseTo(there.lengthsMm.TH ?? 0, 4);
      }),
    );
  });
  test("a kit for all sizes is the most of each, not the sum", () => {
    fc.assert(
      fc.property(pattern, pattern, (small, large) => {
        const d = design({
          sizes: [{ key: "S" }, { key: "L" }],
          parts: [{ id: "p", name: "p", steps: `A size{S: ${inOneRow(small)} | L: ${inOneRow(large)}}` }],
        });
        const [s, l] = [count(d, { size: "S" }).counts, count(d, { size: "L" }).counts];
        const kit = countKit(d, null, null, null).counts;
        for (const key of new Set([...Object.keys(s), ...Object.keys(l)]))
          expect(kit[key]).toBe(Math.max(s[key] ?? 0, l[key] ?? 0));
      }),
    );
  });
  test("a kit for all sizes has the thread of the size that takes the longest, whichever is named last", () => {
    const keys = ["S", "M", "L"] as const;
    fc.assert(
      fc.property(fc.tuple(fc.integer({ min: 1, max: 60 }), fc.nat(60), fc.nat(60)), (beads) => {
        const steps = `size{${keys.map((k, i) => `${k}: ${beads[i]} A`).join(" | ")}}`;
        const parts = [{ id: "p", name: "Strand", steps, stringing: "TH", tailMm: 50 }];
        const d = design({ sizes: keys.map((key) => ({ key })), parts });
        const each = keys.map((size) => count(d, { size }));
        const longest = Math.max(...each.map((answer) => answer.lengthsMm.TH!));
        const kit = countKit(d, null, null, null);
        expect(kit.lengthsMm.TH).toBe(longest);
        expect(kit.pieces.TH).toEqual([{ mm: longest, count: 1 }]);
        expect(kit.counts.A).toBe(Math.max(...beads));
      }),
    );
  });
  test("every way can be cut from the kit, piece from piece, and nothing in it could be shorter", () => {
    const pieces = fc.array(fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 2 })), {
      minLength: 1,
      maxLength: 3,
    });
    /** Whether each of the wanted lengths finds a piece of its own: every choice tried. */
    const fits = (wanted: number[], kit: number[]): boolean => {
      const [first, ...rest] = wanted;
      if (first === undefined) return true;
      return kit.some((mm, i) => mm >= first && fits(rest, [...kit.slice(0, i), ...kit.slice(i + 1)]));
    };
    const listed = (list: readonly { mm: number; count: number }[] | undefined) =>
      (list ?? []).flatMap(({ mm, count }) => Array.from({ length: count }, () => mm));
    fc.assert(
      fc.property(fc.array(pieces, { minLength: 2, maxLength: 3 }), (ways) => {
        const options = ways.map((_, i) => ({ key: `o${i}` }));
        const parts = ways.map((way, i) => ({
          id: `p${i}`,
          name: `P${i}`,
          options: [`o${i}`],
          steps: "",
          cuts: way.map(([mm, count]) => ({ key: "TH", mm, count })),
        }));
        const d = design({ options, parts });
        const kit = listed(countKit(d, null, null, null).pieces.TH);
        const wanted = options.map((o) => listed(count(d, { option: o.key }).pieces.TH));
        for (const way of wanted) expect(fits(way, kit)).toBe(true);
        kit.forEach((mm, i) => {
          const shorter = kit.map((x, j) => (j === i ? mm - 0.5 : x));
          expect(wanted.every((way) => fits(way, shorter))).toBe(false);
        });
      }),
    );
  });
  test("no text of any kind throws or answers a number that is none", () => {
    const bits = fc
      .array(
        fc.constantFrom(
          "(",
          ")",
          "{",
          "}",
          "|",
          ">",
          "A",
          "3",
          "x4",
          "to",
          "length",
          "fill",
          "mirror",
          "around",
          "each",
          "fringe",
          "loop",
          "hang",
          "skip",
          "space",
          "size",
          "behind",
          "spaced",
          "knot",
          "takes",
          "join",
          "rest",
          "last",
          "@",
          ".2",
          "7-8",
          "!",
          ":",
          "#",
          "\n",
          " ",
          "12in",
          "mm",
          ",",
          "×",
          "½",
          "\u{1d54f}",
          "0",
          "99999999999",
        ),
        { maxLength: 40 },
      )
      .map((b) => b.join(""));
    const check = (text: string) => {
      const answer = counted(text, { stringing: "CH", strands: 3, targetMm: 50 });
      const numbers = [
        ...Object.values(answer.counts),
        ...Object.values(answer.lengthsMm),
        answer.parts[0]!.strandMm,
        answer.parts[0]!.pathMm,
      ];
      for (const n of numbers) expect(Number.isFinite(n) && n >= 0).toBe(true);
      for (const p of answer.problems) if (p.row !== null) expect(p.from! >= 0 && p.to! >= p.from!).toBe(true);
    };
    fc.assert(fc.property(bits, check), { numRuns: 2000 });
    fc.assert(fc.property(fc.string({ unit: "binary", maxLength: 60 }), check), { numRuns: 500 });
  });
});

describe("closing a gap", () => {
  /** Every choice tried: the reference that the grid search must equal. */
  function bruteForce(gap: number, lengths: number[]): number[] {
    let best = lengths.map(() => 0);
    const better = (a: number[], b: number[]) => {
      const length = (c: number[]) => c.reduce((sum, n, i) => sum + n * lengths[i]!, 0);
      const [da, db] = [Math.abs(length(a) - gap), Math.abs(length(b) - gap)];
      if (Math.abs(da - db) > 1e-7) return da < db;
      const beads = (c: number[]) => c.reduce((x, y) => x + y, 0);
      if (beads(a) !== beads(b)) return beads(a) < beads(b);
      const i = a.findIndex((n, k) => n !== b[k]);
      return i >= 0 && a[i]! > b[i]!;
    };
    const most = lengths.map((l) => Math.ceil(gap / l) + 1);
    const go = (i: number, chosen: number[]) => {
      if (i === lengths.length) {
        if (better(chosen, best)) best = [...chosen];
        return;
      }
      for (let n = 0; n <= most[i]!; n++) go(i + 1, [...chosen, n]);
    };
    go(0, []);
    return best;
  }
  test("equals trying every choice", () => {
    const length = fc.integer({ min: 100, max: 900 }).map((n) => n / 100);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 3000 }),
        fc.array(length, { minLength: 1, maxLength: 3 }),
        (gap, lengths) => {
          expect(closeGap(gap / 100, lengths)).toEqual(bruteForce(gap / 100, lengths));
        },
      ),
    );
  });
  test("equals trying every choice, of four keys in a short gap", () => {
    const length = fc.integer({ min: 100, max: 500 }).map((n) => n / 100);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1000 }),
        fc.array(length, { minLength: 4, maxLength: 4 }),
        (gap, lengths) => {
          expect(closeGap(gap / 100, lengths)).toEqual(bruteForce(gap / 100, lengths));
        },
      ),
    );
  });
  test("the longest gap of the finest beads is counted to the last; a bead much longer is left out", () => {
    expect(closeGap(2000, [0.01])).toEqual([200_000]);
    expect(closeGap(2000, [0.01, 0.02, 0.03, 0.04])).toEqual([0, 0, 0, 50_000]);
    // 0.01 over is as good as 0.01 short, and both take 50,000 beads: the one with more of the earlier key.
    expect(closeGap(1999.99, [0.02, 0.04])).toEqual([1, 49_999]);
    expect(closeGap(3, [100_000])).toEqual([0]);
    expect(closeGap(3, [6])).toEqual([0]);
    expect(closeGap(3, [5.99])).toEqual([1]);
  });
  test("of equally close ones the fewest beads, of those the most of the earlier-named", () => {
    expect(closeGap(6, [2, 3])).toEqual([0, 2]);
    expect(closeGap(6, [3, 2, 6])).toEqual([0, 0, 1]);
    expect(closeGap(5, [2, 3, 4, 1])).toEqual([1, 1, 0, 0]);
    expect(closeGap(2.5, [2, 3])).toEqual([1, 0]);
  });
});

test("shares add up exactly, by largest remainder", () => {
  // A worked apportionment by Hamilton's method: 26 seats over 9061, 7179, 5259, 3319, 1182 (a textbook example, from
  // memory)
  const people = [9061, 7179, 5259, 3319, 1182];
  const total = people.reduce((a, b) => a + b);
  expect(
    shareOut(
      26,
      people.map((p) => p / total),
    ),
  ).toEqual([9, 7, 5, 4, 1]);
  fc.assert(
    fc.property(
      fc.nat(100_000),
      fc.array(fc.integer({ min: 1, max: 100 }), { minLength: 1, maxLength: 8 }),
      (n, weights) => {
        const sum = weights.reduce((a, b) => a + b);
        const shares = shareOut(
          n,
          weights.map((w) => w / sum),
        );
        expect(shares.reduce((a, b) => a + b)).toBe(n);
        shares.forEach((s, i) => expect(Math.abs(s - (n * weights[i]!) / sum)).toBeLessThan(1 + 1e-6));
      },
    ),
  );
});

describe("lengths", () => {
  test("an inch is 25.4 mm exactly (international yard and pound agreement, 1959; NIST SP 811)", () => {
    expect(readLength("1in")).toBe(25.4);
    expect(readLength("1 ft")).toBeCloseTo(304.8, 9);
    expect(readLength('7 1/2"')).toBe(190.5);
    expect(readLength("7½", "in")).toBe(190.5);
    expect(readLength("12,5 cm")).toBe(125);
    for (const bad of ["", "in", "1/0in", "-3mm", "3 furlongs", "1e5mm", "7 1/2"])
      expect(readLength(bad)?.valueOf() ?? null).toBeNull();
  });
  test("wire gauges by ASTM B258: d = 0.127 mm × 92^((36 − n)/39)", () => {
    // The standard's table to three places
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
  test("the size table strings seed beads as the trade counts them to an inch (common practice, no source)", () => {
    for (const [size, least, most] of [
      ["15/0", 22, 25],
      ["11/0", 18, 20],
      ["8/0", 12, 14],
      ["6/0", 9, 11],
    ] as const) {
      const { alongMm } = FORM_KNOWN.seed.sizes![size]!;
      const key = [{ key: "s", name: size, kind: "bead" as const, alongMm: alongMm! }];
      const perInch = counted("(s) to 1in", {}, { key }).counts.s!;
      expect(perInch, size).toBeGreaterThanOrEqual(least);
      expect(perInch, size).toBeLessThanOrEqual(most);
    }
  });
  test("what is said can be read again, to a sixteenth; a cut is never said too short", () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 900, noNaN: true }), (mm) => {
        expect(Math.abs(readLength(sayLength(mm, "in"), "in")! - mm)).toBeLessThanOrEqual(25.4 / 32 + 1e-9);
        expect(readLength(sayCut(mm, "in"))!).toBeGreaterThanOrEqual(mm - 0.0011);
        expect(readLength(sayCut(mm, "mm"))!).toBeGreaterThanOrEqual(mm - 0.0011);
      }),
    );
    expect(sayCut(917.04, "in")).toBe("36 1/8 in");
    expect(sayRun(304.8 * 112, "in")).toBe("112 ft");
    expect(sayRun(12_345, "mm")).toBe("12.345 m");
  });
});

test("a text read after others, each one edit away, reads as it does on its own", async () => {
  const edit = fc.record({
    at: fc.nat(400),
    out: fc.nat(6),
    put: fc.oneof(
      fc.constantFrom(" ", "(", ")", "3A", "\n", "#", "row: ", "size{", "to 5in", ""),
      fc.string({ maxLength: 4 }),
    ),
  });
  await fc.assert(
    fc.asyncProperty(pattern, fc.array(edit, { minLength: 1, maxLength: 12 }), async (text, edits) => {
      const read = [text];
      for (const { at, out, put } of edits) {
        const last = read.at(-1)!;
        const from = Math.min(at, last.length);
        read.push(last.slice(0, from) + put + last.slice(from + out));
      }
      const inTurn = read.map(parsePattern).at(-1);
      vi.resetModules(); // a copy that has read nothing before
      const fresh = await import("../src/shorthand/index.ts");
      expect(inTurn).toEqual(fresh.parsePattern(read.at(-1)!));
    }),
    { numRuns: 60, endOnFailure: true },
  );
});
