import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { type Answer, Design } from "../src/contract/index.ts";
import { count, countWhole } from "../src/count/index.ts";
import {
  appearancesOf,
  closesToRing,
  colourOf,
  layOut,
  linkLook,
  lookOfFitting,
  ringRadius,
} from "../src/picture/index.ts";

const folder = new URL("./examples/", import.meta.url);

/** A design with all that is not strung taken out: what is left must be drawn, bead for bead. */
const strungOnly = (design: Design): Design => ({
  ...design,
  key: design.key.map((entry) => ({ ...entry, hangsBy: null })),
  parts: design.parts.map((part) => ({ ...part, uses: null, hangsBy: null })),
  uses: null,
});

describe("the marks drawn equal the beads strung", () => {
  for (const file of readdirSync(folder)) {
    const example = JSON.parse(readFileSync(new URL(file, folder), "utf8")) as { design: unknown; answers: Answer[] };
    const design = Design.parse(example.design);
    for (const { size, option } of example.answers) {
      test(`${design.name}, ${size ?? "one size"}, ${option ?? "one way"}`, () => {
        const counting = countWhole(design, { size, option });
        const looks = appearancesOf(design.key);
        const drawn: Record<string, number> = {};
        for (const part of counting.parts) {
          if (part.part.as != null) continue;
          const picture = layOut(counting, part, looks);
          expect(picture.leftOut).toBe(0);
          expect(picture.strandMm).toBeCloseTo(part.whole.strandMm, 6);
          for (const mark of picture.marks) drawn[mark.key] = (drawn[mark.key] ?? 0) + (part.part.makes ?? 1);
        }
        if (design.key.some((e) => e.mix?.some((m) => m.count != null))) {
          // A mix with exact members, one of them a sub-assembly, is drawn as what it comes to.
          const shown: Record<string, number> = {};
          for (const part of counting.parts.filter((p) => p.part.as == null))
            for (const mark of layOut(counting, part, looks).marks)
              shown[mark.drawn] = (shown[mark.drawn] ?? 0) + (part.part.makes ?? 1);
          expect(shown).toEqual(count(strungOnly(design), { size, option }).counts);
          return;
        }
        const mixless = {
          ...strungOnly(design),
          key: strungOnly(design).key.map((entry) =>
            entry.kind === "mix" ? { ...entry, kind: "bead" as const } : entry,
          ),
        };
        expect(drawn).toEqual(count(mixless, { size, option }).counts);
      });
    }
  }
});

describe("rings", () => {
  test("n beads of length a lie on a circle as chords: r = a ÷ 2·sin(π ÷ n) (plane geometry)", () => {
    for (const [n, a] of [
      [3, 4],
      [6, 2.1],
      [24, 1.41],
      [200, 1.9],
    ] as const) {
      const r = ringRadius(Array.from({ length: n }, () => a));
      expect(r).toBeCloseTo(a / (2 * Math.sin(Math.PI / n)), 6);
      // The correction: the polygon's circle is longer than its sides by (π/n)²/6 of them, to first order.
      expect((2 * Math.PI * r) / (n * a) - 1).toBeCloseTo((Math.PI / n) ** 2 / 6, n < 6 ? 0 : 2);
    }
    expect(ringRadius([10, 1, 1])).toBe(5);
  });
  const kiln = JSON.parse(readFileSync(new URL("kiln-door-earrings.json", folder), "utf8")) as { design: unknown };
  const counting = countWhole(Design.parse(kiln.design));
  const door = counting.parts.find((p) => p.part.id === "door")!;
  const picture = layOut(counting, door, appearancesOf(Design.parse(kiln.design).key), 5000, { laid: "ring" });

  test("the drawing's own beads are as far apart as they are long, and close", () => {
    expect(closesToRing(door)).toBe(true);
    expect(picture.form).toBe("ring");
    const first = picture.marks.slice(0, 24);
    const r = ringRadius(first.map((m) => Design.parse(kiln.design).key.find((e) => e.key === m.key)!.alongMm!));
    for (const mark of first) expect(Math.hypot(mark.x, mark.y)).toBeLessThan(r);
    const around = first.reduce((s, m, i) => {
      const n = first[(i + 1) % first.length]!;
      return s + Math.hypot(m.x - n.x, m.y - n.y);
    }, 0);
    const long = first.reduce((s, m) => s + Design.parse(kiln.design).key.find((e) => e.key === m.key)!.alongMm!, 0);
    expect(around).toBeGreaterThan(long * 0.98);
    expect(around).toBeLessThanOrEqual(long * 1.001);
  });
  test("later rounds lie outside the first, in its order, and every bead counted is drawn", () => {
    const [inner, outer] = [picture.marks.slice(0, 24), picture.marks.slice(24, 42)];
    expect(Math.min(...outer.map((m) => Math.hypot(m.x, m.y)))).toBeGreaterThan(
      Math.max(...inner.map((m) => Math.hypot(m.x, m.y))),
    );
    const angle = (m: { x: number; y: number }) => (Math.atan2(m.x, -m.y) + 2 * Math.PI) % (2 * Math.PI);
    const turns = outer.filter((_, i) => i > 0 && angle(outer[i]!) < angle(outer[i - 1]!)).length;
    expect(turns).toBeLessThanOrEqual(1);
    const drawn: Record<string, number> = {};
    for (const m of picture.marks) drawn[m.key] = (drawn[m.key] ?? 0) + 1;
    const counted: Record<string, number> = {};
    for (const p of door.placings) if (p.picked > 0) counted[p.key] = (counted[p.key] ?? 0) + p.picked;
    expect(drawn).toEqual(counted);
  });
  test("what doesn't close stays a strip: a fringe, a chain, a single row", () => {
    for (const name of [
      "rail-fringe-pendant",
      "ink-roller-chain",
      "smoke-and-honey-stretch",
      "press-bed-bracelet",
      "warp-rope-bracelet",
    ]) {
      const { design } = JSON.parse(readFileSync(new URL(`${name}.json`, folder), "utf8")) as { design: unknown };
      for (const part of countWhole(Design.parse(design), { size: Design.parse(design).sizes?.[0]?.key ?? null }).parts)
        expect(closesToRing(part), `${name} ${part.part.id}`).toBe(false);
    }
  });
  test("a pair is the same again, mirrored; a braid keeps every bead", () => {
    const two = layOut(counting, door, appearancesOf(Design.parse(kiln.design).key), 5000, {
      laid: "ring",
      pair: true,
    });
    expect(two.marks).toHaveLength(2 * picture.marks.length);
    const [left, right] = [two.marks.slice(0, picture.marks.length), two.marks.slice(picture.marks.length)];
    const axis = (left[0]!.x + right[0]!.x) / 2;
    left.forEach((m, i) => expect(m.x + right[i]!.x).toBeCloseTo(2 * axis, 9));
    const rope = Design.parse(JSON.parse(readFileSync(new URL("warp-rope-bracelet.json", folder), "utf8")).design);
    const counted = countWhole(rope);
    const [flat, braided] = [{}, { braid: true }].map((how) =>
      layOut(counted, counted.parts[0]!, appearancesOf(rope.key), 5000, how),
    );
    expect(braided!.marks).toHaveLength(flat!.marks.length);
    expect(new Set(braided!.marks.map((m) => m.y.toFixed(1))).size).toBeGreaterThan(10);
  });
});

test("a billion beads are not drawn one by one, and neither is a billion times nothing", () => {
  const design = Design.parse({
    format: "jar-count/design",
    version: 1,
    name: "Many",
    key: [{ key: "A", name: "11/0 seed", kind: "bead", alongMm: 1.4 }],
    parts: [{ id: "p", name: "P", steps: "((A) x10000) x100000, ((>A, space 1mm) x30000) x30000" }],
  });
  const counting = countWhole(design);
  const picture = layOut(counting, counting.parts[0]!, appearancesOf(design.key));
  expect(counting.answer.counts).toEqual({ A: 1e9 });
  expect(picture.marks).toHaveLength(5000);
  expect(picture.leftOut).toBeGreaterThan(0);
});

test("links repeated a billion times are counted, and not gone through one by one", () => {
  const design = Design.parse({
    format: "jar-count/design",
    version: 1,
    name: "Links",
    key: [{ key: "CH", name: "chain", kind: "stringing", linkMm: 4 }],
    parts: [{ id: "p", name: "P", stringing: "CH", steps: "((skip 1) x30000) x30000" }],
  });
  const counting = countWhole(design);
  expect(counting.answer.parts[0]!.links).toBe(9e8);
  expect(layOut(counting, counting.parts[0]!, appearancesOf(design.key)).links.length).toBeLessThanOrEqual(5000);
});

test("a sub-assembly that holds itself many times is not followed down for ever", () => {
  const design = Design.parse({
    format: "jar-count/design",
    version: 1,
    name: "Circle",
    key: [{ key: "A", name: "A", kind: "bead", alongMm: 2 }],
    parts: [
      { id: "s", name: "S", as: "SUB", steps: "99999SUB A" },
      { id: "p", name: "P", steps: "SUB" },
    ],
  });
  const counting = countWhole(design);
  expect(counting.answer.problems.some((p) => p.message.includes("in a circle"))).toBe(true);
  expect(layOut(counting, counting.parts[1]!, appearancesOf(design.key)).marks.length).toBeLessThanOrEqual(5000);
});

test("memory wire is drawn in its turns, each as wide as a coil is round", () => {
  const collar = Design.parse(JSON.parse(readFileSync(new URL("comb-and-cell-collar.json", folder), "utf8")).design);
  const counting = countWhole(collar);
  const { coils, right, left } = layOut(
    counting,
    counting.parts.find((p) => p.part.id === "back")!,
    appearancesOf(collar.key),
  );
  // 1.5 coils of 300 mm: a whole turn and half a one, 300 ÷ π across.
  expect(coils.map((c) => c.share)).toEqual([1, 0.5]);
  expect(right - left).toBeCloseTo(300 / Math.PI, 6);
});

test("chain and findings are drawn in their role's colour and finish; of no role, as plain metal", () => {
  const enamelled = { shape: "round" as const, colour: "#2f6f4f", finish: "matt" as const, alongMm: 4, acrossMm: 4 };
  const looks = new Map([["A", enamelled]]);
  const metal = colourOf(null, looks);
  expect([colourOf("A", looks), colourOf("B", looks), colourOf("B", looks, "#777")]).toEqual([
    "#2f6f4f",
    metal,
    "#777",
  ]);
  const link = { x: 0, y: 0, turn: 0, lengthMm: 5, key: "A", stone: false };
  expect(linkLook(link, looks)).toMatchObject({ colour: "#2f6f4f", filled: false });
  // A stone in its cup is round, and not drawn as a loop of wire.
  const stone = linkLook({ ...link, key: null, stone: true }, looks);
  expect(stone).toMatchObject({ colour: metal, filled: true, ry: stone.rx });
  const ring = { x: 0, y: 0, turn: 0, shape: "jump ring" as const, alongMm: 6, acrossMm: 6 };
  const own = lookOfFitting({ ...ring, key: "A" }, looks);
  expect(own).toMatchObject({ shape: "jump ring", alongMm: 6, colour: "#2f6f4f", finish: "matt" });
  expect(lookOfFitting({ ...ring, key: null }, looks)).toMatchObject({ colour: metal, finish: "metal" });
});
