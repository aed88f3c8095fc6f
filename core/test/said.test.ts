import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  agrees,
  choicesFor,
  codeOf,
  colourDifference,
  colourSaid,
  fitOf,
  nearestColour,
  newComponent,
  oddOf,
  understand,
  wantedOf,
} from "../src/component/index.ts";
import { ComponentInput, KeyEntry } from "../src/contract/index.ts";
import { component } from "./things.ts";

/** What is understood of a few words, without what they don't say. */
const said = (words: string) =>
  Object.fromEntries(Object.entries(understand(words)).filter(([field, value]) => value !== null && field !== "name"));

describe("which jar is meant", () => {
  const pin = (name: string, more: object) =>
    component(1, { name, kind: "finding", form: "head pin", lengthMm: 50, finish: "metal", ...more });
  test("kind, form, size and finish that were said agree, or it is another thing", () => {
    const meant = (words: string, c: Parameters<typeof agrees>[1]) => agrees(understand(words), c);
    expect(meant("head pin 50 mm", pin("Head pin 50 mm, steel", {}))).toBe(true);
    expect(meant("head pin 50 mm", pin("Ball head pin 50 mm", {}))).toBe(false);
    expect(meant("ball pin 50 mm", pin("Ball pin 50 mm", {}))).toBe(true);
    expect(meant("head pin 50 mm", pin("Head pin 40 mm", { lengthMm: 40 }))).toBe(false);
    const wire = (form: "craft wire" | "beading wire", diameterMm: number) =>
      component(2, { name: "beading wire 0.014 in", kind: "stringing", form, diameterMm });
    expect(meant("beading wire 0.014 in", wire("craft wire", 0.356))).toBe(false);
    expect(meant("beading wire 0.014 in", wire("beading wire", 0.356))).toBe(true);
    const round = (finish: "matt" | "clear") =>
      component(3, { name: "6 mm round, black", form: "round", alongMm: 6, finish });
    expect(meant("6 mm round, matt black", round("matt"))).toBe(true);
    expect(meant("6 mm round, matt black", round("clear"))).toBe(false);
    expect(meant("8 mm round", round("matt"))).toBe(false);
  });
});

describe("beads as people say them", () => {
  // Common practice of the trade, no source; gauges by ASTM B258: 20 ga is 0.812 mm.
  test.each([
    ["6 mm red round", { kind: "bead", form: "round", shape: "round", size: "6 mm", alongMm: 6, colour: "#b3262f" }],
    [
      "11/0 seed, matt black",
      { kind: "bead", form: "seed", shape: "seed", size: "11/0", alongMm: 1.41, acrossMm: 2.1, holeMm: 0.85 },
    ],
    ["20 mm rectangle", { kind: "focal", form: "rectangle", alongMm: 20 }],
    ["diamond charm 15 mm", { kind: "focal", form: "diamond" }],
    ["cross, brass", { kind: "focal", form: "cross", material: "brass" }],
    ["St. Anne medal", { kind: "focal", form: "medal" }],
    ["gear 12 mm", { kind: "focal", form: "gear" }],
    ["fox charm", { kind: "focal", form: "animal" }],
    ["ear post 4 mm", { kind: "finding", form: "ear post" }],
    ["ear nut", { kind: "finding", form: "ear nut" }],
    ["cup chain 3 mm", { kind: "stringing", form: "stone chain", linkMm: 3 }],
    ["enamelled chain, green", { kind: "stringing", form: "chain", colour: "#3f8152" }],
    ["40 mm pendant", { kind: "focal", form: "charm", alongMm: 40 }],
    ["head pin 40", { kind: "finding", form: "head pin", size: "40 mm", lengthMm: 40 }],
    ["2 in headpin, silver", { kind: "finding", form: "head pin", lengthMm: 50.8, metal: "silver" }],
    ["20 ga wire", { kind: "stringing", form: "craft wire", size: "20 ga", diameterMm: 0.812 }],
    ["0.8mm stretch cord", { kind: "stringing", form: "stretch cord", diameterMm: 0.8 }],
    ["beading wire .019 in", { kind: "stringing", form: "beading wire", diameterMm: 0.483 }],
    ["8 x 6 mm rondelle", { form: "rondelle", alongMm: 6, acrossMm: 8 }],
    ["6 mm rondelle", { form: "rondelle", alongMm: 4, acrossMm: 6 }],
    ["3 mm chain, brass", { kind: "stringing", form: "chain", linkMm: 3 }],
    ["6mm jump ring", { kind: "finding", form: "jump ring", alongMm: 6 }],
    ["2 x 2 mm crimp tube", { kind: "finding", form: "crimp tube", alongMm: 2 }],
    ["size 10 needle", { kind: "consumable", form: "needle" }],
    ["glue", { kind: "consumable", form: "glue" }],
    ["leaflet", { kind: "packaging", form: "card" }],
    ["magnetic clasp", { kind: "finding", form: "clasp" }],
    ["toggle ring", { kind: "finding", form: "clasp" }],
    ["open link", { kind: "finding", form: "connector" }],
    ["felt ball 10 mm", { kind: "bead", form: "round", alongMm: 10 }],
    ["10 mm ribbon, dark green", { kind: "stringing", form: "ribbon", acrossMm: 10 }],
    ["ear wire", { kind: "finding", form: "ear wire" }],
    ["ceramic tube 12 x 6 mm", { form: "tube", alongMm: 12, acrossMm: 6, material: "ceramic" }],
    ["something odd", { kind: "bead" }],
  ])("%s", (words, expected) => {
    expect(said(words)).toMatchObject(expected);
  });

  test("nothing across is said of what is as wide as it is long", () => {
    expect(said("6 mm round").acrossMm).toBeUndefined();
    expect(said("something odd")).toEqual({ kind: "bead" });
  });

  test("any words are read without a fault, and their measures are lengths", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (words) => {
        const { alongMm, acrossMm, diameterMm, lengthMm, linkMm, colour } = understand(words);
        for (const mm of [alongMm, acrossMm, diameterMm, lengthMm, linkMm]) expect(mm === null || mm > 0).toBe(true);
        expect(colour === null || /^#[0-9a-f]{6}$/.test(colour)).toBe(true);
      }),
    );
  });

  test.each([
    ["dark red", "#b3262f"],
    ["light blue", "#3560a6"],
  ])("%s is told from the colour alone", (words, plain) => {
    expect(colourSaid(words)).toMatch(/^#[0-9a-f]{6}$/);
    expect(colourSaid(words)).not.toBe(plain);
  });

  test("a metal or a lining said beside a colour gives way to it", () => {
    expect(colourSaid("silver lined red")).toBe(colourSaid("red"));
    expect(colourSaid("silver")).not.toBeNull();
    expect(colourSaid("round")).toBeNull();
  });
});

describe("what fits a cell of the colour tray", () => {
  const key = (entry: Partial<KeyEntry>) => KeyEntry.parse({ key: "A", name: "bead", kind: "bead", ...entry });
  const of = (id: string, name: string, more = {}) => component(1, { name, ...more, id });
  const round = wantedOf("6 mm round", "bead", [key({ name: "6 mm round", alongMm: 6, shape: "round" })]);

  test("kind, form and size decide", () => {
    expect(fitOf(round, of("a", "Round, moss", { form: "round", alongMm: 6 }))).toBe("same");
    // Nothing but its name says that it is a round.
    expect(fitOf(round, of("b", "6 mm round, moss", { form: null, alongMm: null }))).toBe("same");
    expect(fitOf(round, of("c", "Round, moss", { form: "round", alongMm: 8 }))).toBe("kind");
    expect(fitOf(round, of("d", "Cube, moss", { form: "cube", alongMm: 6 }))).toBe("kind");
    expect(fitOf(round, of("e", "Glue", { kind: "consumable", form: "glue", alongMm: null }))).toBe("another");
  });

  test("seed beads go by their named size, whatever each maker's measure", () => {
    const seed = wantedOf("11/0 seed", "bead", [key({ name: "11/0 seed", alongMm: 1.41 })]);
    expect(fitOf(seed, of("a", "Seed, blue", { form: "seed", size: "11/0", alongMm: 1.3 }))).toBe("same");
    expect(fitOf(seed, of("b", "Seed, blue", { form: "seed", size: "15/0", alongMm: 1.4 }))).toBe("kind");
  });

  test("the nearest in colour to the colourway's others comes first, what is odd stays behind", () => {
    const list = [
      of("far", "Round, orange", { form: "round", alongMm: 6, colour: "#dd7a24" }),
      of("near", "Round, teal", { form: "round", alongMm: 6, colour: "#2b7a7d" }),
      of("other size", "Round, teal, large", { form: "round", alongMm: 10, colour: "#2b7a7d" }),
      of("other size, far", "Round, red, large", { form: "round", alongMm: 10, colour: "#b3262f" }),
      of("glue", "Glue", { kind: "consumable", form: "glue", alongMm: null }),
    ];
    const ids = (of: { id: string }[]) => of.map((c) => c.id);
    const found = choicesFor(round, list, ["#3fa9a8"]);
    expect(ids(found.same)).toEqual(["near", "far"]);
    expect(ids(found.near)).toEqual(["other size"]);
    expect(ids(found.rest)).toEqual(["other size, far", "glue"]);
    // With nothing beside, by name.
    expect(ids(choicesFor(round, list, []).same)).toEqual(["far", "near"]);
  });

  test("another kind is said in words", () => {
    const tube = wantedOf("tube bead", "bead", [key({ name: "tube bead", shape: "tube" })]);
    const glue = of("g", "Gem glue", { kind: "consumable", form: "glue", alongMm: null });
    expect(oddOf(tube, glue)).toBe("a tube of glue for a tube bead");
    expect(oddOf(tube, of("t", "Tube", { form: "tube" }))).toBeNull();
  });

  test("a component that fits nowhere yet begins with what the designs and its name say, and no more", () => {
    const entries = [key({ name: "6 mm round", alongMm: 6, shape: "round", holeMm: 1 })];
    const made = newComponent("6 mm round, Kelp green", "R6", round, entries);
    expect(ComponentInput.parse(made)).toEqual(made);
    expect(made).toMatchObject({
      kind: "bead",
      form: "round",
      baseUnit: "piece",
      alongMm: 6,
      holeMm: 1,
      colour: "#3f8152",
    });
    expect(fitOf(round, of("n", made.name, made))).toBe("same");
    // Seeds are kept in grams, with how many go to one.
    const seed = newComponent("11/0 seed, blue", "S11", wantedOf("11/0 seed", "bead", []), []);
    expect(seed).toMatchObject({ baseUnit: "g", perGram: 115, alongMm: 1.41 });
    const cord = newComponent("0.8 mm stretch cord", "SC", wantedOf("0.8 mm stretch cord", "stringing", []), []);
    expect(cord).toMatchObject({ baseUnit: "mm", diameterMm: 0.8, cautions: ["latex"] });
    expect(ComponentInput.parse(cord)).toEqual(cord);
  });

  test("a colourway's name says a colour and nothing else", () => {
    const pendant = wantedOf("pendant, teal", "focal", [key({ name: "pendant, teal", kind: "focal" })]);
    const of = (name: string, colourway: string) => newComponent(name, "X", pendant, [], colourway);
    expect(of("pendant, teal, Deep leaf", "Deep leaf").form).not.toBe("leaf");
    expect(of("pendant, teal, Sunset orange", "Sunset orange").colour).toBe(colourSaid("orange"));
    // Metal keeps its colour.
    const clasp = wantedOf("toggle clasp, gold", "finding", []);
    const gold = newComponent("toggle clasp, gold, Dusty pink", "X", clasp, [], "Dusty pink");
    expect(gold).toMatchObject({ kind: "finding", form: "clasp", metal: "gold", colour: colourSaid("gold") });
    // What is typed says the kind, form and material; the designs what it does not.
    const typed = newComponent("brass 8 mm round", "X", wantedOf("8 mm round", "bead", []), [], "Moss");
    expect(typed).toMatchObject({ kind: "bead", form: "round", material: "brass", alongMm: 8 });
  });

  test("a code comes of the name, and is none that is taken", () => {
    expect(codeOf("6 mm round, moss", new Set())).toBe("6-MM-ROUN-MOSS");
    expect(codeOf("6 mm round, moss", new Set(["6-MM-ROUN-MOSS", "6-MM-ROUN-MOSS-2"]))).toBe("6-MM-ROUN-MOSS-3");
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (name) => {
        expect(ComponentInput.shape.code.safeParse(codeOf(name, new Set())).success).toBe(true);
      }),
    );
  });

  test("the nearest of many colours is the nearest by the formula, within what the eye can tell", () => {
    const hex = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, "0")}`);
    fc.assert(
      fc.property(hex, fc.array(hex, { minLength: 1, maxLength: 12 }), (colour, others) => {
        const best = Math.min(...others.map((o) => colourDifference(colour, o)));
        const found = nearestColour(colour, others);
        expect(found).toBeGreaterThanOrEqual(best - 1e-9);
        // What is near in one measure of the eye's differences is near in the other.
        if (best < 5) expect(found).toBeLessThan(20);
      }),
    );
    expect(nearestColour("#000000", [])).toBe(Infinity);
  });

  // Sharma, Wu and Dalal 2005, "The CIEDE2000 color-difference formula: implementation notes, supplementary test data,
  // and mathematical observations": the formula is the colour library's, checked here for being the one that is meant.
  test("colours are compared by CIEDE2000", () => {
    expect(colourDifference("#ffffff", "#ffffff")).toBe(0);
    // Black and white are 100 apart in any version with its weights at 1: ΔL′ = 100, S_L = 1 at L̄ = 50.
    expect(colourDifference("#000000", "#ffffff")).toBeCloseTo(100, 3);
  });
});
