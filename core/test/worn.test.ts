import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { Design } from "../src/contract/index.ts";
import { countWhole } from "../src/count/index.ts";
import { alongPoints, catenary, circle, neckline, turns } from "../src/picture/curves.ts";
import {
  appearancesOf,
  hasWhole,
  isBraid,
  laidOf,
  layOut,
  layWorn,
  type Picture,
  wornAs,
} from "../src/picture/index.ts";
import { design } from "./designs.ts";

const folder = new URL("./examples/", import.meta.url);
const example = (name: string) =>
  Design.parse((JSON.parse(readFileSync(new URL(name, folder), "utf8")) as { design: unknown }).design);
const worn = (d: Design, size: string | null = d.sizes?.[0]?.key ?? null, option = d.options?.[0]?.key ?? null) => {
  const counting = countWhole(d, { size, option });
  return { counting, picture: layWorn(counting, appearancesOf(d.key)) };
};
/** The length of a curve, measured in small straight steps. */
const measured = (at: (mm: number) => { x: number; y: number }, from: number, to: number) => {
  let mm = 0;
  const n = 20_000;
  for (let i = 0; i < n; i++) {
    const [a, b] = [at(from + ((to - from) * i) / n), at(from + ((to - from) * (i + 1)) / n)];
    mm += Math.hypot(b.x - a.x, b.y - a.y);
  }
  return mm;
};

describe("the curves", () => {
  test("a circle's way round is 2πr, and it closes (plane geometry)", () => {
    for (const mm of [120, 178, 190.5]) {
      const round = circle(mm);
      const [start, end] = [round.at(0), round.at(mm)];
      expect(Math.hypot(start.x - end.x, start.y - end.y)).toBeLessThan(1e-6);
      expect(measured(round.at, 0, mm)).toBeCloseTo(mm, 3);
      expect(round.at(mm / 2).y).toBeCloseTo(mm / (2 * Math.PI), 9);
    }
  });
  test("a hanging chain's length is 2a·sinh(w ÷ 2a) (the catenary)", () => {
    for (const [long, wide] of [
      [200, 120],
      [320, 125],
      [900, 125],
      [130, 125],
    ] as const) {
      const a = catenary(long, wide);
      expect(2 * a * Math.sinh(wide / 2 / a)).toBeCloseTo(long, 6);
    }
  });
  test("a necklace's curve is as long as the necklace within 0.5 mm, closes, and is lowest at its front", () => {
    for (const [mm, front] of [
      [330, 165],
      [457.2, 228.6],
      [457.2, 180],
      [812, 300],
    ] as const) {
      const neck = neckline(mm, front);
      expect(Math.abs(measured(neck.at, 0, mm) - mm)).toBeLessThan(0.5);
      const [start, end] = [neck.at(0), neck.at(mm)];
      expect(Math.hypot(start.x - end.x, start.y - end.y)).toBeLessThan(0.01);
      const lowest = Math.max(...Array.from({ length: 800 }, (_, i) => neck.at((mm * i) / 800).y));
      expect(neck.at(front).y).toBeCloseTo(lowest, 1);
      expect(neck.at(front).x).toBeCloseTo(0, 1);
      // The two points where it turns to the back lie a neck's width apart.
      const wide = Math.max(...Array.from({ length: 800 }, (_, i) => neck.at((mm * i) / 800).x));
      expect(wide).toBeGreaterThanOrEqual(neck.acrossMm / 2 - 0.2);
    }
  });
  test("turns of memory wire lie one below the other, each as wide as its coil", () => {
    const wire = turns(175, 200, 400);
    const points = Array.from({ length: 400 }, (_, i) => wire.at(i));
    expect(Math.max(...points.map((p) => p.x))).toBeCloseTo(175 / (2 * Math.PI), 1);
    expect(wire.at(200 + 175).y - wire.at(200).y).toBeGreaterThan(2);
    expect(
      alongPoints([
        { x: 0, y: 0 },
        { x: 3, y: 4 },
      ]).lengthMm,
    ).toBe(5);
  });
});

/** Beads in a picture by key, as often as one item has them. */
const tallied = (picture: Picture) => {
  const found: Record<string, number> = {};
  for (const m of picture.marks) found[m.drawn.replace(/ hung$/, "")] = (found[m.drawn.replace(/ hung$/, "")] ?? 0) + 1;
  return found;
};

describe("as worn", () => {
  test.each(readdirSync(folder))("%s: the beads drawn are the beads strung, hung and joined", (file) => {
    const d = example(file);
    const { picture } = worn(d);
    expect(picture.leftOut).toBe(0);
    expect(picture.form).toBe("worn");
    // What no row names is drawn as findings, not as beads.
    const bare: Design = {
      ...d,
      key: d.key.map((e) => ({ ...e, hangsBy: null })),
      parts: d.parts.map((p) => ({ ...p, uses: null, hangsBy: null })),
      uses: null,
    };
    const counts = countWhole(bare, { size: d.sizes?.[0]?.key ?? null, option: d.options?.[0]?.key ?? null }).answer
      .counts;
    expect(Object.values(tallied(picture)).reduce((a, b) => a + b, 0)).toBe(
      Object.values(counts).reduce((a, b) => a + b, 0),
    );
    for (const key of Object.keys(tallied(picture))) expect(counts, key).toHaveProperty(key);
    for (const m of [...picture.marks, ...picture.fittings, ...picture.links])
      expect(Number.isFinite(m.x + m.y + m.turn)).toBe(true);
  });

  test("a necklace joined from parts: its strand is its finished length, and it hangs below its two points", () => {
    const d = example("sluice-gate-necklace.json");
    const { picture, counting } = worn(d);
    expect(wornAs(counting)).toBe("necklace");
    expect(picture.strandMm).toBeCloseTo(454.4, 6);
    // Chain of both sides, link by link: 2 × 32.
    expect(picture.links).toHaveLength(64);
    const [leaves, stone] = [picture.marks.filter((m) => m.key === "LF"), picture.marks.filter((m) => m.key === "N")];
    expect(leaves).toHaveLength(2);
    // Side by side from one place, plumb below the lowest bead, and not on top of one another.
    expect(leaves[0]!.y).toBeCloseTo(leaves[1]!.y, 6);
    expect(Math.abs(leaves[0]!.x - leaves[1]!.x)).toBeGreaterThan(3);
    expect(leaves[0]!.y).toBeGreaterThan(Math.max(...stone.slice(0, 3).map((m) => m.y)));
    expect(leaves[0]!.turn).toBe(90);
    // The clasp is behind the neck: its bar and ring lie above everything strung.
    const clasp = picture.marks.filter((m) => m.key === "TB" || m.key === "TR");
    expect(Math.max(...clasp.map((m) => m.y))).toBeLessThan(0);
  });

  test("unequal sides put the clasp off the middle", () => {
    const of = (left: number, right: number) => {
      const d = design({
        about: { kind: "necklace" },
        parts: [{ id: "p", name: "P", steps: `JR, (A) x${left}, hang D, (A) x${right}` }],
        key: [
          { key: "A", name: "bead", kind: "bead", alongMm: 4 },
          { key: "D", name: "leaf", kind: "focal", alongMm: 20 },
          { key: "JR", name: "jump ring", kind: "finding", alongMm: 4 },
        ],
      });
      return worn(d).picture.marks.find((m) => m.key === "JR")!;
    };
    expect(Math.abs(of(50, 50).x)).toBeLessThan(5);
    expect(of(60, 40).x).toBeGreaterThan(20);
    expect(of(40, 60).x).toBeLessThan(-20);
  });

  test("a bracelet closes: its first and last bead touch, on a circle as long as the strand", () => {
    const d = example("smoke-and-honey-stretch.json");
    const { picture } = worn(d);
    const [first, last] = [picture.marks[0]!, picture.marks.at(-1)!];
    const r = picture.strandMm / (2 * Math.PI);
    for (const m of picture.marks) expect(Math.hypot(m.x, m.y)).toBeCloseTo(r, 3);
    const along = (key: string) => d.key.find((e) => e.key === key)!.alongMm!;
    const apart = Math.hypot(first.x - last.x, first.y - last.y);
    expect(Math.abs(apart - (along(first.key) + along(last.key)) / 2)).toBeLessThan(0.5);
  });

  test("earrings are a pair, the second mirrored, each under its ear wire", () => {
    const { picture } = worn(example("weir-drops.json"));
    const hooks = picture.fittings.filter((f) => f.shape === "ear wire");
    expect(hooks).toHaveLength(2);
    expect(hooks[1]!.flipped).toBe(true);
    expect(Math.max(...hooks.map((h) => h.y))).toBeLessThan(Math.min(...picture.marks.map((m) => m.y)));
    const axis = (hooks[0]!.x + hooks[1]!.x) / 2;
    const twigs = picture.marks.filter((m) => m.key === "TW");
    expect(twigs[0]!.x + twigs[1]!.x).toBeCloseTo(2 * axis, 6);
    // Three unlike dangles side by side from one loop.
    const coins = picture.marks.filter((m) => m.key === "D");
    const below = picture.marks.filter((m) => m.x < axis && m.key === "p");
    expect(new Set(below.map((m) => m.x.toFixed(2))).size).toBe(2);
    expect(Math.min(...below.map((m) => m.y))).toBeGreaterThan(coins[0]!.y);
  });

  test("what hangs below what hangs is as deep as the answer says", () => {
    const d = example("weir-drops.json");
    const counting = countWhole(d);
    const link = counting.parts.find((p) => p.part.id === "long")!;
    const picture = layOut(counting, link, appearancesOf(d.key), 5000, { laid: "hanging" });
    const { strandMm, hangMm } = counting.answer.parts.find((p) => p.id === "long")!;
    const lowest = Math.max(...picture.marks.map((m) => m.y + (d.key.find((e) => e.key === m.key)?.alongMm ?? 0) / 2));
    expect(lowest).toBeGreaterThan(strandMm + hangMm);
    expect(lowest).toBeLessThan(strandMm + hangMm + 3); // the loop between them
  });

  test("a pin's beads rise from its head: the first step lies lowest", () => {
    const d = design({
      key: [
        { key: "A", name: "a", kind: "bead", alongMm: 2 },
        { key: "B", name: "b", kind: "bead", alongMm: 6 },
        { key: "HP", name: "head pin", kind: "finding" },
        { key: "EW", name: "ear wire", kind: "finding" },
      ],
      parts: [
        { id: "d", name: "Drop", as: "DR", steps: "A B", uses: [{ key: "HP", count: 1 }] },
        { id: "e", name: "Earring", makes: 2, steps: "hang DR", uses: [{ key: "EW", count: 1 }] },
      ],
    });
    const counting = countWhole(d);
    expect(laidOf(counting, counting.parts[0]!)).toEqual({
      laid: "rising",
      reason: expect.stringContaining("pin's head") as string,
    });
    const { picture } = worn(d);
    const [a, b] = ["A", "B"].map((key) => picture.marks.find((m) => m.key === key)!);
    expect(a!.y).toBeGreaterThan(b!.y);
    const told = { ...d, parts: [{ ...d.parts[0]!, laid: "hanging" as const }, d.parts[1]!] };
    const [c, e] = ["A", "B"].map((key) => worn(told).picture.marks.find((m) => m.key === key)!);
    expect(c!.y).toBeLessThan(e!.y);
  });

  test("a spreader row that goes back through its own beads is no ring, until somebody says so", () => {
    const d = (laid: string | null) =>
      design({ parts: [{ id: "p", name: "P", laid, steps: "there: 5A 3B\nback: (2C) >B >A" }] });
    const of = (x: Design) => {
      const counting = countWhole(x);
      return laidOf(counting, counting.parts[0]!);
    };
    expect(of(d("strand"))).toEqual({ laid: "strand", reason: null });
    expect(of(d("ring"))).toEqual({ laid: "ring", reason: null });
    const back = design({ parts: [{ id: "p", name: "P", steps: "bar: 6A\nback: >6A" }] });
    expect(of(back).laid).toBe("strand");
  });

  test("a link stands in the room it takes, its own wire looped at either end", () => {
    const d = example("ink-roller-chain.json");
    const counting = countWhole(d, { option: "tassel" });
    const long = counting.parts.find((p) => p.part.id === "long")!;
    const picture = layOut(counting, long, appearancesOf(d.key));
    const beads = picture.marks.filter((m) => m.part === "link");
    expect(beads).toHaveLength(4);
    // A link of 14 mm with a bead of 6: 4 mm on either side, with a loop there.
    const loops = picture.fittings.filter((f) => f.shape === "loop" && f.key === null);
    expect(loops).toHaveLength(8);
    expect(beads[0]!.x - loops[0]!.x).toBeCloseTo(3 + 2, 6);
    // The chain goes on where the link's room ends: 14 mm further, then 12 links of 4 mm.
    expect(beads[1]!.x - beads[0]!.x).toBeCloseTo(14 + 48, 6);
  });

  test("hangs that repeat hang side by side, in order", () => {
    const d = design({ parts: [{ id: "p", name: "P", steps: "A, hang D x4, A" }] });
    const counting = countWhole(d);
    const hung = layOut(counting, counting.parts[0]!, appearancesOf(d.key)).marks.filter((m) => m.key === "D");
    const xs = hung.map((m) => m.x);
    expect([...xs].sort((a, b) => a - b)).toEqual(xs);
    for (let i = 1; i < xs.length; i++) expect(xs[i]! - xs[i - 1]!).toBeGreaterThan(1);
    expect(xs.reduce((a, b) => a + b) / 4).toBeCloseTo(2, 3);
    expect(new Set(hung.map((m) => m.y)).size).toBe(1);
  });

  test("a braid is a rope of its strands, as long as its ratio says", () => {
    const d = example("warp-rope-bracelet.json");
    const counting = countWhole({ ...d, parts: d.parts.map((p) => ({ ...p, finishedRatio: 0.55 })) });
    const rope = counting.parts[0]!;
    expect(isBraid(rope)).toBe(true);
    const picture = layOut(counting, rope, appearancesOf(d.key), 5000, { braid: true });
    expect(picture.strandMm).toBeCloseTo(rope.whole.strandMm * 0.55, 6);
    const n = rope.part.strands!;
    const wide = 1.95 * 1.5;
    const r = wide / (2 * Math.sin(Math.PI / n));
    // Every bead lies on the rope: n beads side by side round it.
    expect(Math.max(...picture.marks.map((m) => Math.abs(m.y)))).toBeCloseTo(r, 1);
    const behind = picture.marks.filter((m) => m.behind).length;
    expect(behind / picture.marks.length).toBeGreaterThan(0.4);
    expect(behind / picture.marks.length).toBeLessThan(0.6);
  });

  test("a row that lies behind is drawn behind, and a stone sits in the middle of its ring", () => {
    const d = design({
      key: [
        { key: "A", name: "a", kind: "bead", alongMm: 2, acrossMm: 3 },
        { key: "B", name: "b", kind: "bead", alongMm: 2, acrossMm: 3 },
        { key: "K", name: "stone", kind: "focal", alongMm: 18, acrossMm: 18 },
      ],
      parts: [
        {
          id: "p",
          name: "P",
          laid: "ring",
          steps: "(A B) x15\nback: behind (A, >B) x15",
          uses: [{ key: "K", count: 1 }],
        },
      ],
    });
    const counting = countWhole(d);
    const picture = layOut(counting, counting.parts[0]!, appearancesOf(d.key), 5000, { laid: "ring" });
    expect(picture.marks.slice(0, 30).some((m) => m.behind)).toBe(false);
    expect(picture.marks.slice(30).every((m) => m.behind)).toBe(true);
    expect(picture.fittings).toMatchObject([{ key: "K", x: 0, y: 0 }]);
  });

  test("two ends that cross in a bead change sides there; a cut bent double has its two sides", () => {
    const d = design({
      parts: [
        {
          id: "p",
          name: "P",
          strands: 2,
          folded: true,
          stringing: "TH",
          laid: "hanging",
          steps: "each(2A) B each(2A) B each(2A)",
        },
      ],
    });
    const counting = countWhole(d);
    const picture = layOut(counting, counting.parts[0]!, appearancesOf(d.key), 5000, { laid: "hanging" });
    const [left, right, bend] = picture.lines;
    // Before the first crossing bead on one side, behind it on the other.
    expect(Math.sign(left!.points[0]!.x)).toBe(-Math.sign(left!.points[5]!.x));
    expect(left!.points[0]!.x).toBeCloseTo(-right!.points[0]!.x, 9);
    expect(bend!.points).toHaveLength(3);
    expect(bend!.points[1]!.y).toBeLessThan(0);
  });

  test("a design of several parts has a whole to look at; one of a single row has not", () => {
    expect(hasWhole(example("sluice-gate-necklace.json"))).toBe(true);
    expect(hasWhole(example("smoke-and-honey-stretch.json"))).toBe(false);
  });
});

describe("findings of the whole item", () => {
  const of = (more: object) =>
    design({
      key: [
        { key: "A", name: "6 mm round", kind: "bead", alongMm: 6 },
        { key: "E", name: "ear wire", kind: "finding" },
        { key: "C", name: "lobster clasp", kind: "finding" },
        { key: "G", name: "glue", kind: "consumable" },
      ],
      parts: [{ id: "p", name: "Drop", steps: "4A" }],
      ...more,
    });
  const shapes = (d: Design) => worn(d).picture.fittings.map((f) => f.shape);
  test("on each of a pair stands its half of them", () => {
    const d = of({ about: { kind: "earrings" }, uses: [{ key: "E", count: 2 }] });
    expect(hasWhole(d)).toBe(true);
    expect(shapes(d)).toEqual(["ear wire", "ear wire"]);
  });
  test("on a flat piece they stand at its end; what a kit has once is in no picture", () => {
    const uses = [
      { key: "C", count: 1 },
      { key: "G", count: 1, per: "kit" },
    ];
    expect(shapes(of({ about: { kind: "other" }, uses }))).toEqual(["lobster"]);
    expect(hasWhole(of({ uses: [{ key: "G", count: 1, per: "box" }] }))).toBe(false);
  });
});

test("five bare strands are five lines, each apart from the next by more than its thickness, braided or not", () => {
  for (const steps of ["each(space 60mm)", "space 60mm"]) {
    for (const braid of [false, true]) {
      const d = design({
        key: [{ key: "C", name: "2 mm cord", kind: "stringing", diameterMm: 2 }],
        parts: [{ id: "p", name: "p", steps, strands: 5, stringing: "C" }],
      });
      const counting = countWhole(d, {});
      const how = { laid: "strand" as const, braid };
      const { lines } = layOut(counting, counting.parts[0]!, appearancesOf(d.key), undefined, how);
      const heights = lines.map((l) => l.points[0]!.y).sort((a, b) => a - b);
      expect(heights).toHaveLength(5);
      heights.slice(1).forEach((y, i) => expect(y - heights[i]!).toBeGreaterThan(lines[0]!.wideMm));
    }
  }
});

describe("on the piece, and not beside it", () => {
  const key = (more: object[]) => [
    { key: "A", name: "a", kind: "bead", alongMm: 6 },
    { key: "B", name: "b", kind: "bead", alongMm: 3 },
    ...more,
  ];

  test("what hangs from a ring of beads is drawn, below where it hangs from", () => {
    const d = design({
      key: key([{ key: "D", name: "dagger", kind: "bead", shape: "dagger", alongMm: 3, acrossMm: 10 }]),
      parts: [{ id: "p", name: "Ring", laid: "ring", steps: "round: (2A hang D) x4\nclose: >A" }],
    });
    const { picture } = worn(d);
    expect(tallied(picture)).toEqual({ A: 8, D: 4 });
    const beads = picture.marks.filter((m) => m.key === "A");
    const radius = Math.max(...beads.map((m) => Math.hypot(m.x, m.y)));
    // Each hangs plumb, its hole on the ring: half its length above its middle.
    for (const hung of picture.marks.filter((m) => m.key === "D"))
      expect(Math.abs(Math.hypot(hung.x, hung.y - 5) - radius)).toBeLessThan(2);
  });

  test("the first bead on a head pin lies lowest, under an ear wire of its own as well as hung", () => {
    const d = design({
      key: key([
        { key: "HP", name: "head pin", kind: "finding" },
        { key: "EW", name: "ear wire", kind: "finding" },
      ]),
      parts: [
        {
          id: "e",
          name: "Earring",
          makes: 2,
          steps: "A B",
          uses: [
            { key: "HP", count: 1 },
            { key: "EW", count: 1 },
          ],
        },
      ],
    });
    const counting = countWhole(d);
    expect(laidOf(counting, counting.parts[0]!).laid).toBe("rising");
    const { picture } = worn(d);
    const [a, b] = ["A", "B"].map((k) => picture.marks.find((m) => m.key === k)!);
    expect(a!.y).toBeGreaterThan(b!.y);
    expect(picture.fittings.find((f) => f.shape === "ear wire")!.y).toBeLessThan(b!.y);
  });

  test("a drop that is drilled lengthwise hangs lengthwise, one drilled through its top by its length", () => {
    const hung = (alongMm: number, acrossMm: number) => {
      const d = design({
        key: key([{ key: "D", name: "drop", kind: "bead", shape: "drop", alongMm, acrossMm }]),
        parts: [{ id: "p", name: "P", steps: "3A hang D 3A" }],
      });
      const look = appearancesOf(d.key).get("D")!;
      const { turn } = layOut(countWhole(d), countWhole(d).parts[0]!, appearancesOf(d.key)).marks.find(
        (m) => m.key === "D",
      )!;
      // How tall it stands in the picture.
      return turn === 90 ? look.alongMm : look.acrossMm;
    };
    expect(hung(16, 8)).toBe(16);
    expect(hung(4, 12)).toBe(12);
  });

  test("a pendant of one size measures that at its longest", () => {
    const look = appearancesOf(
      design({ key: key([{ key: "P", name: "pendant", kind: "focal", alongMm: 40 }]) }).key,
    ).get("P")!;
    expect(Math.max(look.alongMm, look.acrossMm)).toBe(40);
  });

  test("dangles hang before a bar that hangs from the same place, not beside it", () => {
    const d = design({
      key: key([{ key: "EW", name: "ear wire", kind: "finding" }]),
      parts: [
        { id: "b", name: "Bar", as: "BAR", laid: "strand", steps: "7A" },
        { id: "d", name: "Dangle", as: "DG", laid: "hanging", steps: "2B" },
        { id: "e", name: "Earring", makes: 2, steps: "hang BAR, hang DG x3", uses: [{ key: "EW", count: 1 }] },
      ],
    });
    const { picture } = worn(d);
    const one = picture.marks.slice(0, picture.marks.length / 2);
    const xs = (k: string) => one.filter((m) => m.key === k).map((m) => m.x);
    expect(Math.min(...xs("B"))).toBeGreaterThan(Math.min(...xs("A")));
    expect(Math.max(...xs("B"))).toBeLessThan(Math.max(...xs("A")));
  });

  test("layered chains lie each in its own curve, the longest lowest", () => {
    const d = design({
      about: { kind: "necklace" },
      key: key([{ key: "C", name: "chain, brass", kind: "stringing", linkMm: 4 }]),
      parts: [
        { id: "l", name: "Long", stringing: "C", steps: "skip 60 hang A skip 60" },
        { id: "s", name: "Short", stringing: "C", steps: "skip 50 hang B skip 50" },
      ],
    });
    const { picture } = worn(d);
    const [long, short] = ["A", "B"].map((k) => picture.marks.find((m) => m.key === k)!);
    expect(long!.y).toBeGreaterThan(short!.y + 10);
    expect(long!.x).toBeCloseTo(short!.x, 0);
    // A bead hangs from a link of its own.
    expect(picture.links).toHaveLength(222);
    // Brass has its colour.
    expect(appearancesOf(d.key).get("C")).toMatchObject({ colour: "#b9954e", finish: "metal" });
  });

  test("crimps stand where the wire ends, their covers over them", () => {
    const d = design({
      key: key([
        { key: "W", name: "beading wire", kind: "stringing" },
        { key: "CL", name: "clasp", kind: "finding", alongMm: 10 },
        { key: "CR", name: "crimp bead", kind: "finding", alongMm: 2 },
        { key: "CV", name: "crimp cover", kind: "finding", alongMm: 3 },
      ]),
      parts: [
        {
          id: "p",
          name: "P",
          stringing: "W",
          steps: "join CL 5A",
          uses: [
            { key: "CR", count: 2 },
            { key: "CV", count: 2 },
          ],
        },
      ],
    });
    const { marks, fittings } = layOut(countWhole(d), countWhole(d).parts[0]!, appearancesOf(d.key));
    const at = (shape: string) => fittings.filter((f) => f.shape === shape).map((f) => f.x);
    const beads = marks.filter((m) => m.key === "A").map((m) => m.x);
    // The clasp is 10 mm long; the wire begins behind it, and ends behind the last bead.
    expect(at("crimp").sort((a, b) => a - b)).toEqual([10, 40]);
    expect(at("crimp cover")).toEqual(at("crimp"));
    expect(Math.min(...beads)).toBe(13);
  });

  test("an ear post is no hook, and its nut stands behind the ear", () => {
    const of = (name: string, form: string | null) => {
      const d = design({
        key: key([{ key: "F", name, kind: "finding", form }]),
        parts: [{ id: "p", name: "P", steps: "A", uses: [{ key: "F", count: 1 }] }],
      });
      return worn(d).picture.fittings.map((f) => f.shape);
    };
    expect(of("flat ear post", "ear wire")).toEqual(["post"]);
    expect(of("ball post", "ear post")).toEqual(["post"]);
    expect(of("rubber stop", "ear nut")).toEqual([]);
    expect(of("steel hook", "ear wire")).toEqual(["hook"]);
    expect(of("ear wire, steel", "ear wire")).toEqual(["ear wire", "ear wire"]);
  });
});
