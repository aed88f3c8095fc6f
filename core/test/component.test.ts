import { describe, expect, test } from "vitest";
import {
  colourWord,
  convert,
  DENSITY,
  filledIn,
  FORM_KNOWN,
  formsOf,
  freeOf,
  isLow,
  pieceMass,
  searchOf,
  volumeMm3,
  wordsOf,
} from "../src/component/index.ts";
import { type Component, COMPONENT_KINDS, FORMS, MATERIALS } from "../src/contract/index.ts";
import { gaugeMm } from "../src/units/index.ts";
import { component as thing } from "./things.ts";

const component = (c: Partial<Component> = {}): Component =>
  thing(1, {
    code: "R06-HONE",
    name: "6 mm glass round, honey",
    form: "round",
    colour: "#d9982f",
    finish: "clear",
    onHand: 120,
    spokenFor: 40,
    alongMm: 6,
    holeMm: 1.1,
    ...c,
  });

describe("mass", () => {
  test("wire of a known gauge weighs what wire tables say for 1,000 ft, within 2 % (ASTM B258, from memory)", () => {
    const poundsPer1000ft = (gauge: number, material: "copper" | "aluminium") => {
      const acrossMm = gaugeMm(gauge);
      const { g } = pieceMass({ form: "cylinder", alongMm: 1000, acrossMm, material })!;
      return (g * 304.8) / 453.592_37;
    };
    for (const [gauge, pounds] of [
      [14, 12.43],
      [18, 4.917],
      [20, 3.092],
      [24, 1.223],
    ] as const)
      expect(poundsPer1000ft(gauge, "copper") / pounds, `${gauge} copper`).toBeCloseTo(1, 1.7);
    expect(poundsPer1000ft(14, "aluminium") / 3.78).toBeCloseTo(1, 1.7);
  });
  test("things of a known mass, within a tenth: coins and balls as their makers state them, from memory", () => {
    const disc = (across: number, thick: number, material: "copper" | "steel" | "bronze") =>
      pieceMass({ form: "disc", alongMm: thick, acrossMm: across, material })!.g;
    // A two-pence piece of bronze, 25.9 by 1.85 mm, 7.12 g; a five-cent piece of steel, 21.25 by 1.67 mm, 3.92 g.
    expect(disc(25.9, 1.85, "bronze") / 7.12).toBeGreaterThan(0.9);
    expect(disc(25.9, 1.85, "bronze") / 7.12).toBeLessThan(1.25); // its faces are struck hollow
    expect(disc(21.25, 1.67, "steel") / 3.92).toBeGreaterThan(0.9);
    expect(disc(21.25, 1.67, "steel") / 3.92).toBeLessThan(1.25);
    // A glass marble of 16 mm: 5.2 to 5.6 g. A brass ball of 10 mm: 4.45 g.
    const marble = pieceMass({ form: "round", alongMm: 16, acrossMm: 16, material: "glass" })!.g;
    expect(marble).toBeGreaterThan(5.1);
    expect(marble).toBeLessThan(5.7);
    expect(pieceMass({ form: "round", alongMm: 10, acrossMm: 10, material: "brass" })!.g).toBeCloseTo(4.45, 1);
  });
  test("every material has a density between cork and gold", () => {
    for (const material of MATERIALS) {
      expect(DENSITY[material], material).toBeGreaterThan(0.2);
      expect(DENSITY[material], material).toBeLessThan(19.3);
    }
  });
  test("known masses of simple shapes: a 10 mm steel ball 4.1 g (makers' tables, from memory)", () => {
    expect(pieceMass({ form: "round", alongMm: 10, acrossMm: 10, material: "steel" })!.g).toBeCloseTo(4.11, 2);
    expect(pieceMass({ form: "cube", alongMm: 10, acrossMm: 10, material: "copper" })!.g).toBeCloseTo(8.96, 9);
    // A bicone is two cones: a third of the cylinder round it. The hole is taken out.
    expect(volumeMm3({ form: "bicone", alongMm: 6, acrossMm: 6, material: null })).toBeCloseTo(
      ((Math.PI / 4) * 36 * 6) / 3,
      9,
    );
    expect(volumeMm3({ form: "cylinder", alongMm: 4, acrossMm: 4, holeMm: 2, material: null })).toBeCloseTo(
      (Math.PI / 4) * (16 - 4) * 4,
      9,
    );
    expect(volumeMm3({ form: "clasp", alongMm: 4, acrossMm: 4, material: null })).toBeNull();
  });
  test("an 11/0 seed by shape and density comes near what is weighed: 110 to 120 a gram (common practice)", () => {
    const perGram = 1 / pieceMass({ form: "seed", alongMm: 1.41, acrossMm: 2.1, holeMm: 0.85, material: "glass" })!.g;
    expect(perGram).toBeGreaterThan(95);
    expect(perGram).toBeLessThan(135);
  });
  test("a measured mass wins over pieces a gram, and that over the estimate", () => {
    const sizes = { form: "round", alongMm: 6, acrossMm: 6 } as const;
    expect(pieceMass({ ...sizes, massG: 0.3, perGram: 5 })).toMatchObject({ g: 0.3, from: "measured" });
    expect(pieceMass({ ...sizes, perGram: 4 })).toMatchObject({ g: 0.25, from: "pieces a gram" });
    expect(pieceMass(sizes)).toMatchObject({ from: "estimated" });
    expect(pieceMass({ form: "chip" })).toBeNull();
  });
});

describe("packs in other units", () => {
  test("a tube of 8.5 g of 11/0 is 978 ± 25; a strand is exact; beads by length", () => {
    const seed = { form: "seed", alongMm: 1.41, perGram: 115, perGramU: 3 } as const;
    const tube = convert(8.5, "g", "piece", seed)!;
    expect(tube.n).toBeCloseTo(977.5, 6);
    expect(tube.u).toBeCloseTo(25.5, 6);
    expect(convert(50, "piece", "piece", seed)).toEqual({ n: 50, u: 0 });
    expect(convert(141, "mm", "piece", seed)).toEqual({ n: expect.closeTo(100, 9), u: 0 });
    expect(convert(100, "piece", "mm", seed)).toEqual({ n: expect.closeTo(141, 9), u: 0 });
    expect(convert(977.5, "piece", "g", seed)!.n).toBeCloseTo(8.5, 9);
    expect(convert(1, "g", "piece", { form: "clasp" })).toBeNull();
    expect(convert(1, "mm", "piece", { form: "clasp" })).toBeNull();
  });
});

describe("forms", () => {
  test("every form belongs to a kind, and every kind has forms", () => {
    expect(Object.keys(FORM_KNOWN).sort()).toEqual([...FORMS].sort());
    for (const kind of COMPONENT_KINDS) expect(formsOf(kind).length).toBeGreaterThan(0);
  });
  test("a size fills in what is empty and nothing else; wire gauges are those of ASTM B258", () => {
    expect(filledIn({ holeMm: 0.9, cautions: [] }, "seed", "11/0")).toEqual({
      kind: "bead",
      baseUnit: "g",
      material: "glass",
      cautions: ["small parts"],
      acrossMm: 2.1,
      alongMm: 1.41,
      perGram: 115,
      perGramU: 3,
    });
    for (const [ga, mm] of [
      [20, 0.812],
      [22, 0.644],
      [24, 0.511],
      [26, 0.405],
    ] as const) {
      expect(FORM_KNOWN["craft wire"].sizes![`${ga} ga`]!.diameterMm).toBe(mm);
      expect(gaugeMm(ga)).toBeCloseTo(mm, 3);
    }
    expect(filledIn({}, "beading wire", "0.019 in").diameterMm).toBe(0.483);
  });
});

describe("finding", () => {
  const finds = (text: string, c = component()) => searchOf(text)(c, wordsOf(c));
  test.each([
    ["honey", true],
    ["HONEY round", true],
    ["r06", true],
    ["yellow", false],
    ["orange", true],
    ["-matt", true],
    ["-honey", false],
    ["hole>0.9", true],
    ["hole>1.1", false],
    ["hole>=1.1", true],
    ["free<100", true],
    ["free<80", false],
    ["free=80", true],
    ["low", false],
    ["short", false],
    ["empty", false],
    ["link>1", false],
    ["bead hole>1 free>10", true],
    ["", true],
  ])("%s", (text, found) => expect(finds(text)).toBe(found));
  test("states", () => {
    expect(finds("short", component({ spokenFor: 121 }))).toBe(true);
    expect(finds("low", component({ reorderAt: 80 }))).toBe(true);
    expect(finds("unsure", component({ u: 6 }))).toBe(true);
    expect(freeOf(component())).toBe(80);
    expect(isLow(component({ reorderAt: 80, onTheWay: 1 }))).toBe(false);
  });
  test("colour words, as people would say them", () => {
    for (const [hex, word] of [
      ["#ffffff", "white"],
      ["#808080", "grey"],
      ["#0a0a0a", "black"],
      ["#c0392b", "red"],
      ["#e67e22", "orange"],
      ["#f1c40f", "yellow"],
      ["#27ae60", "green"],
      ["#1a8f8a", "teal"],
      ["#2d5fb0", "blue"],
      ["#7d3c98", "purple"],
      ["#6e4a2f", "brown"],
      ["#f4a6c0", "pink"],
    ])
      expect(colourWord(hex!), hex).toBe(word);
  });
});
