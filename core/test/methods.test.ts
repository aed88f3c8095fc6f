/**
 * Methods: what each that ships brings, worked by hand. The part is a strand of 100 mm on wire 0.5 mm thick, its beads
 * 5 mm; numbers of the methods are common practice, from memory.
 */
import { describe, expect, it } from "vitest";
import { Design, MethodDefinition, type Part } from "../src/contract/index.ts";
import { count, countWhole } from "../src/count/index.ts";
import { checkFit } from "../src/fit/index.ts";
import { finishedMm } from "../src/length/index.ts";
import {
  cautionsOf,
  type Choice,
  chooseMethod,
  definitionsIn,
  dropMethod,
  linesOf,
  methodsOf,
  minutesOf,
  SHIPPED,
  toolsOf,
} from "../src/method/index.ts";
import { levelOf, madeOf, minutesFor, sayMinutes } from "../src/sheet/index.ts";
import { takeWay, waysOut } from "../src/ways/index.ts";

const KEY = [
  { key: "O", name: "5 mm round", kind: "bead", alongMm: 5, acrossMm: 5, holeMm: 1.5 },
  { key: "L", name: "leaf", kind: "focal", alongMm: 14 },
  { key: "S", name: "strand wire", kind: "stringing", form: "beading wire", diameterMm: 0.5 },
  // Findings that the methods find by their form, with lengths that are easy to add.
  { key: "X", name: "crimp", kind: "finding", form: "crimp tube", alongMm: 2 },
  { key: "XC", name: "cover", kind: "finding", form: "crimp cover", alongMm: 3 },
  { key: "HP", name: "pin", kind: "finding", form: "head pin", diameterMm: 0.6 },
  { key: "EP", name: "eye", kind: "finding", form: "eye pin", diameterMm: 0.6 },
  { key: "E", name: "end", kind: "finding", form: "end cap", alongMm: 8 },
  { key: "CN", name: "cone", kind: "finding", form: "cone", alongMm: 9 },
  { key: "JR", name: "ring", kind: "finding", form: "jump ring", alongMm: 5 },
  { key: "EW", name: "ear wire", kind: "finding", form: "ear wire" },
  { key: "G", name: "glue", kind: "consumable", form: "glue" },
  { key: "H", name: "8/0 seed", kind: "bead", form: "seed", alongMm: 2 },
];
const design = (part: Partial<Part> = {}) =>
  Design.parse({
    format: "jar-count/design",
    version: 2,
    name: "Method",
    key: KEY,
    parts: [{ id: "p", name: "P", stringing: "S", steps: "20O", ...part }],
  });
const method = (id: string) => SHIPPED.find((m) => m.id === id)!;
const partOf = (d: Design) => d.parts[0]!;

interface Case {
  id: string;
  choice?: Partial<Choice>;
  part?: Partial<Part>;
  /** Pieces beside the 20 beads. */
  counts?: Record<string, number>;
  /** Pieces of what is cut: of S, 100 mm and two tails. */
  pieces?: Record<string, { mm: number; count: number }[]>;
  finished: number;
  tools: string[];
  minutes: [handsOn: number, waiting: number];
}
const S = (mm: number, count = 1) => ({ S: [{ mm, count }] });
const bare = S(100);
const pinned: Partial<Part> = { stringing: null };
const pliers = ["round-nose pliers", "chain-nose pliers", "side cutters"];

const CASES: Case[] = [
  // Two crimps; 100 + 2 × 50 of wire; 100 + 2 × (2 + 4) mm finished; 1 min an end.
  {
    id: "crimp-flat",
    counts: { X: 2 },
    pieces: S(200),
    finished: 112,
    tools: ["chain-nose pliers", "side cutters"],
    minutes: [2, 0],
  },
  // With covers: two more, half a minute each.
  {
    id: "crimp-folded",
    choice: { values: { cover: "cover" } },
    counts: { X: 2, XC: 2 },
    pieces: S(200),
    finished: 112,
    tools: ["crimping pliers", "side cutters"],
    minutes: [4, 0],
  },
  {
    id: "crimp-rounded",
    counts: { X: 2 },
    pieces: S(200),
    finished: 112,
    tools: ["rounding crimp pliers", "side cutters"],
    minutes: [3, 0],
  },
  // A single wire: two dummy pieces of 15 mm, consumed.
  {
    id: "crimp-rounded",
    choice: { values: { wires: "single" } },
    counts: { X: 2 },
    pieces: {
      S: [
        { mm: 200, count: 1 },
        { mm: 15, count: 2 },
      ],
    },
    finished: 112,
    tools: ["rounding crimp pliers", "side cutters"],
    minutes: [3, 0],
  },
  // One crimp; 100 + 2 × 40; 100 + 2 finished, and 4 more where one end is looped back.
  {
    id: "crimp-crossed",
    counts: { X: 1 },
    pieces: S(180),
    finished: 102,
    tools: ["crimping pliers", "side cutters"],
    minutes: [2, 0],
  },
  {
    id: "crimp-crossed",
    choice: { values: { back: "looped" } },
    counts: { X: 1 },
    pieces: S(180),
    finished: 106,
    tools: ["crimping pliers", "side cutters"],
    minutes: [2.5, 0],
  },
  { id: "simple-loop", part: pinned, counts: { HP: 1 }, pieces: {}, finished: 102.3, tools: pliers, minutes: [1, 0] },
  {
    id: "simple-loop",
    part: pinned,
    choice: { values: { plane: "in line" } },
    counts: { HP: 1 },
    pieces: {},
    finished: 102.3,
    tools: pliers,
    minutes: [1.3, 0],
  },
  // 2.3 mm of loop and 2.5 mm of neck.
  { id: "wrapped-loop", part: pinned, counts: { HP: 1 }, pieces: {}, finished: 104.8, tools: pliers, minutes: [2, 0] },
  {
    id: "coiled-drop",
    part: pinned,
    counts: { HP: 1 },
    pieces: {},
    finished: 103,
    tools: ["round-nose pliers", "3 mm mandrel", "side cutters"],
    minutes: [2, 0],
  },
  // 100 + 2 × 140 of cord to tie, re-thread and pull.
  { id: "knot-surgeon", counts: {}, pieces: S(380), finished: 101, tools: ["scissors"], minutes: [2, 0] },
  {
    id: "knot-surgeon",
    choice: { values: { glue: "kit" } },
    counts: { G: 1 },
    pieces: S(380),
    finished: 101,
    tools: ["scissors"],
    minutes: [2.5, 30],
  },
  {
    id: "knot-in-cup",
    counts: { E: 2 },
    pieces: S(250),
    finished: 116,
    tools: ["scissors", "chain-nose pliers"],
    minutes: [4, 0],
  },
  {
    id: "knot-in-bead",
    counts: {},
    pieces: S(300),
    finished: 100,
    tools: ["scissors", "beading needle"],
    minutes: [3, 0],
  },
  // 6 mm of cord in each end: it is cut, and not seen.
  {
    id: "glued-cord-end",
    counts: { E: 2 },
    pieces: S(112),
    finished: 116,
    tools: ["scissors", "cocktail stick", "clear jewellery glue"],
    minutes: [4, 30],
  },
  {
    id: "cap",
    part: { strands: 3, steps: "each(20O)" },
    counts: { E: 2, O: 60 },
    pieces: S(112, 3),
    finished: 116,
    tools: ["scissors", "cocktail stick", "clear jewellery glue"],
    minutes: [4, 30],
  },
  // Three strands: a cone and an eye pin at each end, a crimp for each strand's each end.
  {
    id: "cone",
    part: { strands: 3, steps: "each(20O)" },
    counts: { CN: 2, EP: 2, X: 6, O: 60 },
    pieces: S(200, 3),
    finished: 100 + 2 * (9 + 2.3),
    tools: ["crimping pliers", ...pliers],
    minutes: [12, 0],
  },
  {
    id: "ribbon-end",
    counts: { E: 2 },
    pieces: S(116),
    finished: 116,
    tools: ["flat-nose pliers", "scissors"],
    minutes: [2, 0],
  },
  {
    id: "memory-wire-loops",
    counts: {},
    pieces: S(120),
    finished: 106,
    tools: ["memory-wire cutters", "heavy round-nose pliers", "eye protection"],
    minutes: [3, 0],
  },
  {
    id: "jump-ring-charm",
    part: { steps: "20O, (hang L) x3" },
    choice: { at: "each L" },
    counts: { JR: 3, L: 3 },
    pieces: bare,
    finished: 100,
    tools: ["two pairs of chain-nose pliers"],
    minutes: [0.5, 0],
  },
  {
    id: "own-loop-charm",
    part: { steps: "20O, (hang L) x3" },
    choice: { at: "each L" },
    counts: { L: 3 },
    pieces: { ...bare, W: [{ mm: 70, count: 3 }] },
    finished: 100,
    tools: pliers,
    minutes: [2.5, 0],
  },
  // A ring is linked in at each end: the finished piece is 2 × 5 mm longer.
  {
    id: "ring-link",
    counts: { JR: 2 },
    pieces: bare,
    finished: 110,
    tools: ["two pairs of chain-nose pliers"],
    minutes: [1, 0],
  },
  { id: "hidden-bead", counts: { H: 2 }, pieces: bare, finished: 100, tools: ["beading needle"], minutes: [0.6, 0] },
  {
    id: "ear-wire-bought",
    part: pinned,
    counts: { EW: 1 },
    pieces: {},
    finished: 100,
    tools: ["chain-nose pliers"],
    minutes: [0.5, 0],
  },
  // 1 3/4 in of 20 ga wire, to the next millimetre.
  {
    id: "ear-wire-made",
    part: pinned,
    counts: {},
    pieces: { W: [{ mm: 45, count: 1 }] },
    finished: 100,
    tools: [...pliers, "10 mm mandrel", "fine file"],
    minutes: [3, 0],
  },
  {
    id: "head-pin-bought",
    part: pinned,
    counts: { HP: 1 },
    pieces: {},
    finished: 100,
    tools: ["side cutters"],
    minutes: [0.2, 0],
  },
  {
    id: "head-pin-made",
    part: pinned,
    counts: { X: 1 },
    pieces: { W: [{ mm: 50, count: 1 }] },
    finished: 100,
    tools: ["chain-nose pliers", "side cutters"],
    minutes: [1, 0],
  },
];

describe("what each method brings", () => {
  it("ships sixteen at least, each in a case below", () => {
    expect(SHIPPED.length).toBeGreaterThanOrEqual(16);
    expect(new Set(CASES.map((c) => c.id))).toEqual(new Set(SHIPPED.map((m) => m.id)));
  });

  it.each(CASES.map((c) => [`${c.id} ${Object.values(c.choice?.values ?? {}).join(" ")}`.trim(), c] as const))(
    "%s",
    (_, { id, choice, part, counts, pieces, finished, tools, minutes }) => {
      const before = design(part);
      const definition = method(id);
      const d = Design.parse(
        JSON.parse(JSON.stringify(chooseMethod(before, "p", definition, { at: definition.places[0]!, ...choice }))),
      );
      const counting = countWhole(d);
      expect(counting.answer.problems).toEqual([]);
      expect(counting.answer.counts).toEqual({ O: 20, ...counts });
      expect(counting.answer.pieces).toEqual(pieces ?? {});
      expect(finishedMm(counting, counting.parts[0]!)).toBeCloseTo(finished, 6);
      const [of] = methodsOf(d, partOf(d));
      expect(toolsOf(of!)).toEqual(tools);
      expect(d.atHand?.map((t) => (typeof t === "string" ? t : t.name)) ?? []).toEqual(tools);
      const took = minutesOf(of!);
      expect([took.handsOn, took.waiting].map((n) => Number(n.toFixed(3)))).toEqual(minutes);
      // Everything it wrote says who wrote it, and is where it says.
      expect(linesOf(d, partOf(d))[0]!.lines.every((line) => line.state === "as written")).toBe(true);
      // Taken out again, nothing of it stays.
      const dropped = dropMethod(d, "p", of!.method);
      expect(count(dropped).counts).toEqual(count(before).counts);
      expect(count(dropped).pieces).toEqual(count(before).pieces);
      expect(dropped.atHand ?? null).toBeNull();
      expect(dropped.methods).toBeUndefined();
    },
  );
});

const lacking = (d: Design) =>
  checkFit(countWhole(d))
    .checks.filter((c) => c.rule === "lacks")
    .map(({ key, need, have }) => ({ key, need, have }));

describe("choosing again", () => {
  const folded = () =>
    chooseMethod(design(), "p", method("crimp-folded"), { at: "both ends", values: { cover: "cover" } });

  it("replaces what nobody edited: one method of a kind takes the other's place", () => {
    const flat = chooseMethod(folded(), "p", method("crimp-flat"), { at: "both ends" });
    expect(count(flat).counts).toEqual({ O: 20, X: 2 });
    expect(methodsOf(flat, partOf(flat)).map((m) => m.definition.id)).toEqual(["crimp-flat"]);
    expect(flat.atHand).toEqual([
      { name: "chain-nose pliers", by: "crimp-flat" },
      { name: "side cutters", by: "crimp-flat" },
    ]);
  });

  it("leaves a line that somebody edited, and writes none beside it", () => {
    const d = folded();
    const uses = partOf(d).uses!.map((u) => (u.key === "X" ? { ...u, count: 4 } : u));
    const edited = { ...d, parts: [{ ...partOf(d), uses }] };
    const again = chooseMethod(edited, "p", method("crimp-folded"), { at: "both ends" });
    expect(count(again).counts).toEqual({ O: 20, X: 4 });
    expect(linesOf(again, partOf(again))[0]!.lines).toEqual([
      { what: "use", key: "X", count: 2, forEach: null, mm: null, state: "edited" },
    ]);
  });

  it("writes no second crimp where the rows pick them up already", () => {
    const d = chooseMethod(design({ steps: "X 20O X" }), "p", method("crimp-folded"), { at: "both ends" });
    expect(count(d).counts).toEqual({ O: 20, X: 2 });
    expect(linesOf(d, partOf(d))[0]!.lines[0]!.state).toBe("there already");
    expect(checkFit(countWhole(d)).checks.filter((c) => c.rule === "lacks")).toMatchObject([{ need: 2, have: 2 }]);
  });

  it("hides a bead beside those of its kind that are strung", () => {
    const d = chooseMethod(design({ steps: "20O 3H" }), "p", method("hidden-bead"), { at: "both ends" });
    expect(count(d).counts).toEqual({ O: 20, H: 5 });
  });

  it("writes rings for charms beside those that a person wrote for the ends, and counts what a charm hangs by", () => {
    const hung = design({ stringing: null, steps: "hang L, hang L", uses: [{ key: "JR", count: 2 }] });
    const d = chooseMethod(hung, "p", method("jump-ring-charm"), { at: "each L" });
    expect(count(d).counts).toEqual({ L: 2, JR: 4 });
    const byKey = { ...hung, key: KEY.map((e) => (e.key === "L" ? { ...e, hangsBy: [{ key: "JR", count: 1 }] } : e)) };
    const there = chooseMethod(Design.parse(byKey), "p", method("jump-ring-charm"), { at: "each L" });
    expect(count(there).counts).toEqual({ L: 2, JR: 4 });
    expect(linesOf(there, partOf(there))[0]!.lines).toMatchObject([{ forEach: "L", state: "there already" }]);
    expect(lacking(there)).toEqual([{ key: "JR", need: 1, have: 1 }]);
  });

  it("is made for one charm and for another, and dropped from one of them", () => {
    const hung = design({ stringing: null, steps: "(hang L) x3 hang H" });
    const of = (d: Design, key: string) => chooseMethod(d, "p", method("jump-ring-charm"), { at: `each ${key}` });
    const both = of(of(hung, "L"), "H");
    expect(count(both).counts).toEqual({ L: 3, H: 1, JR: 4 });
    expect(count(of(both, "L")).counts).toEqual({ L: 3, H: 1, JR: 4 });
    const one = dropMethod(both, "p", { id: "jump-ring-charm", at: "each L" });
    expect(count(one).counts).toEqual({ L: 3, H: 1, JR: 1 });
    expect(one.atHand).toEqual([{ name: "two pairs of chain-nose pliers", by: "jump-ring-charm" }]);
  });

  it("cuts its wire beside a cut of the same wire that is for something else", () => {
    const d = design({ cuts: [{ key: "S", count: 1, mm: 300 }] });
    const single = { at: "both ends", values: { wires: "single" } };
    const rounded = chooseMethod(d, "p", method("crimp-rounded"), single);
    expect(count(rounded).pieces.S).toEqual([
      { mm: 300, count: 1 },
      { mm: 200, count: 1 },
      { mm: 15, count: 2 },
    ]);
    expect(lacking(rounded)).toEqual([
      { key: "X", need: 2, have: 2 },
      { key: "S", need: 2, have: 2 },
    ]);
  });

  it("needs what two methods take of one thing together", () => {
    const stop = MethodDefinition.parse({
      format: "jar-count/method",
      version: 1,
      id: "quarry-stop",
      name: "Quarry stop",
      about: "A crimp that holds the beads apart.",
      for: "knot",
      places: ["one end"],
      roles: [{ id: "crimp", name: "crimp", kind: "finding", form: "crimp tube" }],
      lines: [{ write: "use", role: "crimp" }],
    });
    const both = chooseMethod(folded(), "p", stop, { at: "one end" });
    expect(count(both).counts).toEqual({ O: 20, X: 3, XC: 2 });
    expect(lacking(both)).toContainEqual({ key: "X", need: 3, have: 3 });
    const uses = partOf(both).uses!.filter((u) => u.by !== "quarry-stop");
    const short = { ...both, parts: [{ ...partOf(both), uses }] };
    expect(lacking(short)).toContainEqual({ key: "X", need: 3, have: 2 });
    const check = checkFit(countWhole(short)).checks.find((c) => c.rule === "lacks" && c.level === "fail")!;
    const ways = waysOut(short, {}, check).map((way) => count(takeWay(short, way)).counts.X);
    // Put in, not made, added by hand.
    expect(ways).toEqual([3, 2, 3]);
  });

  it("takes no link that another method joined for a ring of its own", () => {
    const linked = chooseMethod(design({ steps: "20O" }), "p", method("ring-link"), { at: "one end" });
    const own = MethodDefinition.parse({
      format: "jar-count/method",
      version: 1,
      id: "quarry-ring",
      name: "Quarry ring",
      about: "A ring at the end.",
      for: "end",
      places: ["one end"],
      roles: [{ id: "ring", name: "ring", kind: "finding", form: "jump ring" }],
      lines: [{ write: "use", role: "ring" }],
    });
    expect(count(chooseMethod(linked, "p", own, { at: "one end" })).counts).toEqual({ O: 20, JR: 2 });
  });

  it("keeps tools that a person wrote, and takes its own away with itself", () => {
    const d = { ...design(), atHand: ["scissors"] };
    const knotted = chooseMethod(d, "p", method("knot-surgeon"), { at: "one end", values: { glue: "at hand" } });
    expect(knotted.atHand).toEqual(["scissors", { name: "clear jewellery glue", by: "knot-surgeon" }]);
    expect(dropMethod(knotted, "p", { id: "knot-surgeon", at: "one end" }).atHand).toEqual(["scissors"]);
  });

  it("brings its cautions: solvent glue only where there is glue", () => {
    const of = (values: Record<string, string>) => {
      const d = chooseMethod(design(), "p", method("knot-surgeon"), { at: "one end", values });
      return cautionsOf(methodsOf(d, partOf(d))[0]!);
    };
    expect(of({})).toEqual([]);
    expect(of({ glue: "at hand" })).toEqual(["solvent glue"]);
  });

  it("takes a workshop's own method from a file, and carries it with the design", () => {
    const own = MethodDefinition.parse({
      format: "jar-count/method",
      version: 3,
      id: "quarry-bow",
      name: "Quarry bow",
      about: "Two ends tied in a bow.",
      for: "knot",
      places: ["one end"],
      minutes: [{ handsOn: 4, waiting: 0 }],
      needs: { tail: [{ mm: 200 }] },
    });
    const d = Design.parse(JSON.parse(JSON.stringify(chooseMethod(design(), "p", own, { at: "one end" }))));
    expect(count(d).pieces).toEqual(S(500));
    expect(methodsOf(d, partOf(d))[0]).toMatchObject({ definition: { id: "quarry-bow", version: 3 } });
  });

  it("is kept with the file and never counted: what can't be read does no harm", () => {
    const odd = Design.parse({
      ...design(),
      methods: "who knows",
      parts: [{ ...partOf(design()), methods: [{ id: 7 }] }],
    });
    expect(count(odd)).toEqual(count(design()));
    expect(methodsOf(odd, partOf(odd))).toEqual([]);
    // Read twice it is the same list: a page that watches it is not told of a change each time.
    for (const d of [design(), odd]) expect(definitionsIn(d)).toBe(definitionsIn(d));
  });
});

describe("on the maker's sheet", () => {
  const said = (d: Design) => madeOf(countWhole(d), partOf(d));

  it("says how an end is made, what it takes as the bag has it, what to leave, and with which tools", () => {
    const choice = { at: "both ends", values: { cover: "cover", wires: "single" } };
    const d = chooseMethod(design(), "p", method("crimp-rounded"), choice);
    const text =
      "Rounded crimp, with a cover, a single wire and a dummy piece. " +
      "A crimp closed round with rounding pliers. It holds two passes: a single wire gets a dummy piece. " +
      "Loop to the clasp: 4\u00a0mm. Takes 2 X, 2 XC and 2 S of 15\u00a0mm. " +
      "Leave 50\u00a0mm of S at each for it. With rounding crimp pliers and side cutters.";
    expect(said(d)).toEqual([{ label: "both ends", text }]);
    const uses = partOf(d).uses!.flatMap((u) => (u.key === "X" ? [{ ...u, count: 4 }] : []));
    const edited = { ...d, parts: [{ ...partOf(d), uses }] };
    expect(said(edited)[0]!.text).toContain("Takes 4 X and 2 S of 15\u00a0mm.");
  });

  it("says what is there already, what is linked in, and what rests", () => {
    const there = chooseMethod(design({ steps: "X 20O X" }), "p", method("crimp-folded"), { at: "both ends" });
    expect(said(there)[0]!.text).toContain("Takes 2 X.");
    const linked = chooseMethod(design(), "p", method("ring-link"), { at: "one end" });
    expect(said(linked)).toMatchObject([{ label: "one end", text: expect.stringContaining("Takes 1 JR.") as string }]);
    // The same method for two charms: each says its own.
    const rings = ["L", "H"].reduce(
      (d, key) => chooseMethod(d, "p", method("jump-ring-charm"), { at: `each ${key}` }),
      design({ steps: "hang L, hang H" }),
    );
    expect(said(rings).map(({ label, text }) => [label, /Takes [^.]*/.exec(text)?.[0]])).toEqual([
      ["each L", "Takes 1 JR"],
      ["each H", "Takes 1 JR"],
    ]);
    const glued = chooseMethod(design(), "p", method("knot-surgeon"), { at: "one end", values: { glue: "at hand" } });
    expect(said(glued)[0]!.text).toMatch(/^Surgeon’s knot, the maker’s own glue\..* Then it rests for \d+ min\.$/);
  });
});

describe("level and time", () => {
  const judged = (d: Design) => {
    const counting = countWhole(d);
    return levelOf(counting, checkFit(counting));
  };
  it("is first steps where nothing asks for more, and says why where something does", () => {
    expect(judged(design())).toMatchObject({ level: "first steps", byHand: null });
    const stitched = Design.parse({
      ...design({ steps: "ring: (O H) x6\nedge: (H >O >O >O >O) x6" }),
      about: { technique: "stitched" },
    });
    const { level, reasons } = judged(stitched);
    expect(reasons.map((r) => r.points)).toEqual([2, 1, 1]);
    expect(level).toBe("practised");
    expect(reasons[0]!.say).toBe("It is stitched.");
  });
  it("can be set by hand, with a reason", () => {
    const d = Design.parse({ ...design(), about: { level: "demanding", levelReason: "Wire that fights back." } });
    expect(judged(d)).toMatchObject({ level: "demanding", byHand: "Wire that fights back." });
  });
  it("reads the levels of before as the first three", () => {
    for (const [old, now] of [
      ["easy", "first steps"],
      ["medium", "comfortable"],
      ["hard", "practised"],
    ])
      expect(Design.parse({ ...design(), about: { level: old } }).about?.level).toBe(now);
  });
  it("works minutes out, hands on and waiting apart; trials take their place", () => {
    // 20 beads of 4 s, one cut of 20 s, one part of 40 s, two glued ends of 2 min, 5 min to begin: 11.3 → 10 min.
    const glued = chooseMethod(design(), "p", method("glued-cord-end"), { at: "both ends" });
    const counting = countWhole(glued);
    expect(minutesFor(counting)).toMatchObject({ handsOn: 10, waiting: 30, from: "model" });
    expect(minutesFor(counting, [{ minutes: 40 }, { minutes: 50 }, {}])).toMatchObject({
      handsOn: 45,
      waiting: 30,
      from: "trials",
    });
    expect(minutesFor(countWhole({ ...glued, minutes: 25, waitMinutes: 60 }))).toMatchObject({
      handsOn: 25,
      waiting: 60,
      from: "said",
    });
    // A ring for each of three charms: three times half a minute.
    const charms = chooseMethod(design({ steps: "20O, (hang L) x3" }), "p", method("jump-ring-charm"), {
      at: "each L",
    });
    expect(minutesFor(countWhole(charms)).of.find((x) => x.say === "Ends, links and knots")?.minutes).toBe(1.5);
    expect(sayMinutes({ handsOn: 119.6, waiting: 0 })).toBe("2 h hands on");
    expect(sayMinutes({ handsOn: 125, waiting: 30 })).toBe("2 h 5 min hands on, 30 min waiting");
  });
});
