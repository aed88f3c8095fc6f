import { describe, expect, test } from "vitest";
import {
  aBoxOf,
  axesOf,
  type Bill,
  billOf,
  countRows,
  layTray,
  makeable,
  makeBilling,
  needsOf,
  originsOfNeed,
  roundUp,
  usedKeys,
  variantsOf,
} from "../src/bom/index.ts";
import type { BoxDetail, BoxRole, Component, PinnedDesign } from "../src/contract/index.ts";
import { replacementCost } from "../src/component/index.ts";
import { billAsCsv, costOf } from "../src/cost/index.ts";
import { design } from "./designs.ts";
import { component, id, ids } from "./things.ts";

/** How many of a box can be made of what is free, with no other in the way. */
const made = (bill: Bill) => makeable(bill.variants, bill.totals);

const [LINE, LINE2, MOSS, CLAY, SILVER, GOLD] = ids(1, 2, 11, 12, 21, 22);
const ROLE = { seed: id(31), round: id(32), clasp: id(33), cord: id(34), card: id(35) };

const SEED = component(41, { name: "seed", baseUnit: "g", perGram: 40, onHand: 5, averageCost: "0.20" });
const MOSS_ROUND = component(42, { name: "moss, round", alongMm: 6, onHand: 100, averageCost: "0.05" });
const CLAY_ROUND = component(43, { name: 'clay "round"', alongMm: 8, onHand: 20, spokenFor: 5 });
const CLASP = component(44, { name: "silver clasp", kind: "finding", onHand: 9, averageCost: "0.333" });
const CLASP2 = component(45, { name: "gold clasp", kind: "finding", onHand: 50 });
const CORD = component(46, { name: "cord", kind: "stringing", baseUnit: "mm", onHand: 10_000, averageCost: "0.001" });
const CARD = component(47, { name: "card", kind: "packaging", onHand: 100 });

const BRACELET = design({
  name: "Bracelet",
  key: [
    { key: "s", id: "s1", name: "seed", kind: "bead", alongMm: 2 },
    { key: "R", id: "r1", name: "round", kind: "bead", alongMm: 6 },
    { key: "CL", name: "clasp", kind: "finding" },
    { key: "SC", name: "cord", kind: "stringing" },
    { key: "CARD", name: "card", kind: "packaging" },
    { key: "X", name: "not used", kind: "bead", alongMm: 4 },
  ],
  parts: [
    {
      id: "band",
      name: "Band",
      stringing: "SC",
      tailMm: 50,
      steps: "(R 3s) to 60mm",
      uses: [{ key: "CL", count: 1 }],
    },
  ],
  uses: [{ key: "CARD", count: 1, per: "kit" }],
});

/** Two colourways and two metals; a bracelet twice a box. */
function detail(change: Partial<BoxDetail["box"]> = {}, components?: Component[]): BoxDetail {
  const role = (of: string, name: string, kind: BoxRole["kind"], follows: BoxRole["follows"]) => ({
    id: of,
    name,
    kind,
    follows,
  });
  const pick = (boxRole: string, first: string | null, second: string | null, c: Component) => ({
    boxRole,
    first,
    second,
    component: c.id,
  });
  return {
    box: {
      id: id(90),
      version: 1,
      month: "2027-04",
      theme: "Glaze Shelf",
      lines: [{ id: LINE, designId: id(91), revision: 2, times: 2, size: null, option: null }],
      colourways: [
        { id: MOSS, name: "Moss" },
        { id: CLAY, name: "Clay" },
      ],
      seconds: [
        { id: SILVER, name: "silver" },
        { id: GOLD, name: "gold" },
      ],
      variants: [
        { first: MOSS, second: SILVER, boxes: 3 },
        { first: CLAY, second: SILVER, boxes: 2 },
        { first: CLAY, second: GOLD, boxes: 1 },
      ],
      roles: [
        role(ROLE.seed, "seed", "bead", "none"),
        role(ROLE.round, "round", "bead", "first"),
        role(ROLE.clasp, "clasp", "finding", "both"),
        role(ROLE.cord, "cord", "stringing", "none"),
        role(ROLE.card, "card", "packaging", "none"),
      ],
      contents: [],
      bagging: "together",
      bindings: [
        { line: LINE, role: "s1", boxRole: ROLE.seed },
        { line: LINE, role: "r1", boxRole: ROLE.round },
        { line: LINE, role: "CL", boxRole: ROLE.clasp },
        { line: LINE, role: "SC", boxRole: ROLE.cord },
        { line: LINE, role: "CARD", boxRole: ROLE.card },
      ],
      prices: [],
      whatIfs: [],
      overrules: [],
      picks: [
        pick(ROLE.seed, null, null, SEED),
        pick(ROLE.round, MOSS, null, MOSS_ROUND),
        pick(ROLE.round, CLAY, null, CLAY_ROUND),
        pick(ROLE.clasp, MOSS, SILVER, CLASP),
        pick(ROLE.clasp, CLAY, SILVER, CLASP),
        pick(ROLE.clasp, CLAY, GOLD, CLASP2),
        pick(ROLE.cord, null, null, CORD),
        pick(ROLE.card, null, null, CARD),
      ],
      ...change,
    },
    designs: [{ designId: id(91), revision: 2, newest: 2, design: BRACELET }],
    spares: [],
    ruler: "mm" as const,
    components: components ?? [SEED, MOSS_ROUND, CLAY_ROUND, CLASP, CLASP2, CORD, CARD],
  };
}

describe("the counts of a box, by hand", () => {
  // An item is (R 3s) as often as 60 mm takes: seeds of the component have no size of their own, so the role's 2 mm
  // count. Moss rounds of 6 mm: 12 a repeat, 5 repeats. Clay of 8 mm: 14 a repeat, 4. Two items a box.
  const bill = billOf(detail());
  test("follow the chosen bead's own size along the thread", () => {
    const perBox = bill.variants.map((v) => Object.fromEntries(v.needs.map((n) => [n.component.name, aBoxOf(n)])));
    // The cord: strand 60 (or 56) + 2 × 50 mm of tails, twice.
    expect(perBox).toEqual([
      { "moss, round": 10, seed: 30, "silver clasp": 2, card: 1, cord: 320 },
      { 'clay "round"': 8, seed: 24, "silver clasp": 2, card: 1, cord: 312 },
      { 'clay "round"': 8, seed: 24, "gold clasp": 2, card: 1, cord: 312 },
    ]);
    expect(bill.problems).toEqual([]);
    expect(bill.variants.flatMap((v) => v.gaps)).toEqual([]);
  });
  test("seeds are needed in grams and told in beads; what is cut has no pieces", () => {
    const [seed] = needsOf(bill, MOSS, SEED.id);
    expect(seed!.need).toMatchObject({ perBox: 0.75, piecesPerBox: 30, run: 2.25 });
    expect(needsOf(bill, MOSS, CORD.id)[0]!.need).toMatchObject({ perBox: 320, piecesPerBox: null, run: 960 });
  });
  test("the sheet over all colourways: least and most a box, the run, and what is short of what is free", () => {
    const { rows, gaps, boxes } = countRows(bill, null);
    expect(boxes).toBe(6);
    expect(gaps).toEqual([]);
    const row = (c: Component) => {
      const { least, most, run, runInAll, short } = rows.find((r) => r.component === c)!;
      return [least, most, run, runInAll, short];
    };
    expect(row(SEED)).toEqual([24, 30, 4.05, 4.05, 0]);
    expect(row(MOSS_ROUND)).toEqual([10, 10, 30, 30, 0]);
    expect(row(CLAY_ROUND)).toEqual([8, 8, 24, 24, 9]); // 20 on hand, 5 spoken for
    expect(row(CLASP)).toEqual([2, 2, 10, 10, 1]);
    expect(row(CORD)).toEqual([312, 320, 1896, 1896, 0]);
  });
  test("the sheet of one colourway, its totals still those of the whole run", () => {
    const { rows, boxes } = countRows(bill, CLAY);
    expect(boxes).toBe(3);
    const seed = rows.find((r) => r.component === SEED)!;
    expect([seed.least, seed.most, seed.run, seed.runInAll]).toEqual([24, 24, 1.8, 4.05]);
    expect(rows.some((r) => r.component === MOSS_ROUND)).toBe(false);
    expect(variantsOf(bill, CLAY).map((v) => v.second)).toEqual([SILVER, GOLD]);
    expect(needsOf(bill, CLAY, CLASP2.id).map((n) => n.variant.second)).toEqual([GOLD]);
    expect(needsOf(bill, null, CLASP.id)).toHaveLength(2);
  });
  test("how many can be made: colourway by colourway, held back by what runs out first", () => {
    // Three moss boxes; then 15 free clay rounds at eight a box make one clay box, and leave too few for the gold one.
    expect(made(bill)).toEqual({ boxes: 4, limitedBy: [{ component: CLAY_ROUND, boxes: 4 }] });
    const plenty = detail({}, [
      SEED,
      MOSS_ROUND,
      { ...CLAY_ROUND, onHand: 29 },
      { ...CLASP, onHand: 10 },
      CLASP2,
      CORD,
      CARD,
    ]);
    expect(made(billOf(plenty))).toEqual({ boxes: 6, limitedBy: [] });
  });
});

describe("what is missing or does not fit", () => {
  test("a role that nothing is chosen for is a gap of that variant alone, and none of it can be made", () => {
    const { picks } = detail().box;
    const bill = billOf(detail({ picks: picks.filter((p) => p.component !== CLAY_ROUND.id) }));
    expect(bill.variants.map((v) => v.gaps.map((g) => [g.boxRole.name, g.perBox, g.unit]))).toEqual([
      [],
      [["round", 10, "piece"]],
      [["round", 10, "piece"]],
    ]);
    const { gaps } = countRows(bill, null);
    expect(gaps).toMatchObject([{ perBox: 10, unit: "piece", run: 30 }]);
    expect(made(bill).boxes).toBe(3);
    const cordless = billOf(detail({ picks: picks.filter((p) => p.component !== CORD.id) }));
    expect(cordless.variants[0]!.gaps).toMatchObject([{ unit: "mm", perBox: 320 }]);
  });
  test("each problem is told once, however many variants have it, and each line's own message apart", () => {
    const gone = detail();
    gone.box.lines.push({ ...gone.box.lines[0]!, id: LINE2, revision: 9 });
    expect(billOf(gone).problems).toEqual([{ line: LINE2, message: "The design of this line is missing." }]);
    const unbound = detail();
    unbound.box.bindings = unbound.box.bindings.filter((b) => b.role !== "CL");
    expect(billOf(unbound).problems).toEqual([{ line: LINE, message: "Bracelet: CL is not on the colour tray yet." }]);
    const twice = detail();
    twice.box.lines.push({ ...twice.box.lines[0]!, id: LINE2 });
    const lines = billOf(twice).problems.map((p) => p.line);
    expect(new Set(lines)).toEqual(new Set([LINE2]));
    expect(lines).toHaveLength(5);
  });
  test("what is kept in another way than it is used is told in words that say what would do", () => {
    const put = (role: string, c: Component) => {
      const picks = detail().box.picks.map((p) => (p.boxRole === role ? { ...p, component: c.id } : p));
      return billOf(detail({ picks })).problems.map((p) => p.message);
    };
    const beads = "Choose something kept in pieces or grams.";
    expect(put(ROLE.round, CORD)).toEqual([`Bracelet: cord is kept by length, but it is counted here. ${beads}`]);
    const lengths = "Choose something kept in millimetres.";
    expect(put(ROLE.cord, CLASP)).toEqual([
      `Bracelet: silver clasp is kept by the piece, but it is cut to length here. ${lengths}`,
    ]);
    expect(put(ROLE.cord, SEED)).toEqual([
      `Bracelet: seed is kept by the gram, but it is cut to length here. ${lengths}`,
    ]);
    const unknown = { ...SEED, perGram: null };
    expect(billOf(detail({}, [unknown, MOSS_ROUND, CLAY_ROUND, CLASP, CLASP2, CORD, CARD])).problems).toEqual([
      { line: LINE, message: "Bracelet: seed is kept in grams; say how many go to a gram to count it." },
    ]);
  });
  test("roundings go up, never a bead short, and dust of a sum is not a bead", () => {
    expect([roundUp(2.1, "piece"), roundUp(2, "piece"), roundUp(2 + 1e-9, "piece")]).toEqual([3, 2, 2]);
    expect([roundUp(1.0001, "g"), roundUp(1.23, "mm"), roundUp(0, "g")]).toEqual([1.001, 1.23, 0]);
    expect(Object.is(roundUp(-1e-9, "piece"), 0)).toBe(true);
  });
  test("a role's place on the tray is by what it follows", () => {
    const on = (follows: BoxRole["follows"]) => axesOf({ id: "r", name: "r", kind: "bead", follows }, "1", "2");
    expect([on("first"), on("second"), on("both"), on("none")]).toEqual([
      ["1", null],
      [null, "2"],
      ["1", "2"],
      [null, null],
    ]);
    expect(usedKeys(BRACELET)).toEqual(["s", "R", "CL", "SC", "CARD"]);
  });
});

describe("bills one after another", () => {
  test("follow a change of any kind, and keep what it does not touch", () => {
    const billing = makeBilling();
    const first = detail();
    const one = billing(first);
    const change = (box: Partial<BoxDetail["box"]>, rest: Partial<BoxDetail> = {}) => {
      const next = { ...first, ...rest, box: { ...first.box, ...box } };
      const bill = billing(next);
      expect(bill).toEqual(billOf(next));
      return bill;
    };
    expect(change({}).variants[0]).toBe(one.variants[0]);
    expect(change({ lines: first.box.lines.map((l) => ({ ...l, times: 3 })) }).variants[0]).not.toBe(one.variants[0]);
    const back = change({});
    expect(change({ bindings: first.box.bindings.slice(1) }).problems).toHaveLength(1);
    change({ roles: first.box.roles.map((r) => (r.id === ROLE.round ? { ...r, follows: "none" as const } : r)) });
    const dearer = first.components.map((c) => (c === CLASP2 ? { ...c, onHand: 1 } : c));
    const after = change({}, { components: dearer });
    expect(after.variants[2]!.needs.find((n) => n.component.id === CLASP2.id)!.component.onHand).toBe(1);
    expect(after.variants[0]).toEqual(back.variants[0]);
    const wider = { ...BRACELET, parts: BRACELET.parts.map((p) => ({ ...p, steps: "(R 3s) to 120mm" })) };
    const designs: PinnedDesign[] = [{ ...first.designs[0]!, design: wider }];
    expect(change({}, { designs }).variants[0]!.needs[0]!.perBox).not.toBe(one.variants[0]!.needs[0]!.perBox);
    expect(change({ variants: [] }).variants).toEqual([]);
  });
});

describe("where a need comes from", () => {
  const box = detail();
  const bill = billOf(box);
  test("its places add up to what a box takes, each with how many items it is times", () => {
    for (const variant of bill.variants) {
      for (const need of variant.needs) {
        const origins = originsOfNeed(box, variant, need);
        expect(origins.reduce((sum, o) => sum + o.perBox, 0)).toBeCloseTo(aBoxOf(need), 6);
        expect(origins.every((o) => o.line === LINE && o.design === "Bracelet" && o.revision === 2)).toBe(true);
      }
    }
  });
  test("what is there once a kit is not times the items; one size is not named", () => {
    const [card] = needsOf(bill, MOSS, CARD.id);
    expect(originsOfNeed(box, card!.variant, card!.need)).toMatchObject([
      { key: "CARD", times: 1, perBox: 1, size: null, option: null, origin: { how: "kit" } },
    ]);
    const [clasp] = needsOf(bill, MOSS, CLASP.id);
    expect(originsOfNeed(box, clasp!.variant, clasp!.need)).toMatchObject([
      { key: "CL", times: 2, perBox: 2, designId: id(91), origin: { how: "uses" } },
    ]);
  });
  test("a kit for several sizes lists the places of the size that needs most, and names it", () => {
    const sized = design({
      name: "Sized",
      sizes: [{ key: "S" }, { key: "L" }],
      key: BRACELET.key,
      parts: [{ id: "b", name: "B", steps: "(R 3s) to length", targetMm: { S: 60, L: 120 } }],
    });
    const of: BoxDetail = { ...detail(), designs: [{ designId: id(91), revision: 2, newest: 2, design: sized }] };
    const [round] = needsOf(billOf(of), MOSS, MOSS_ROUND.id);
    expect(originsOfNeed(of, round!.variant, round!.need)).toMatchObject([{ size: "L", perBox: 20 }]);
    const small = { ...of, box: { ...of.box, lines: of.box.lines.map((l) => ({ ...l, size: "S" })) } };
    const [less] = needsOf(billOf(small), MOSS, MOSS_ROUND.id);
    expect(originsOfNeed(small, less!.variant, less!.need)).toMatchObject([{ size: "S", perBox: 10 }]);
    expect(originsOfNeed({ ...of, designs: [] }, round!.variant, round!.need)).toEqual([]);
  });
});

describe("what it costs", () => {
  test("each line is rounded once; a box is the run by its boxes; what has no price is named once", () => {
    const bill = billOf(detail());
    const cost = costOf(bill);
    // Moss: 30 × 0.05 = 1.50; 2.25 g × 0.20 = 0.45; 6 × 0.333 = 1.998 → 2.00; 960 × 0.001 = 0.96
    expect(Object.fromEntries(cost.variants[0]!.lines.map((l) => [l.component.name, l.cost]))).toEqual({
      "moss, round": "1.50",
      seed: "0.45",
      "silver clasp": "2.00",
      card: null,
      cord: "0.96",
    });
    expect(cost.variants.map((v) => [v.boxes, v.run, v.perBox])).toEqual([
      [3, "4.91", "1.64"],
      [2, "2.20", "1.10"],
      [1, "0.43", "0.43"],
    ]);
    // Cord: 1,896 × 0.001 = 1.896 → 1.90 over the run, by largest remainder 0.96, 0.63 and 0.31.
    expect(cost).toMatchObject({ run: "7.54", boxes: 6, perBox: "1.26" });
    expect(cost.unpriced.map((c) => c.name).sort()).toEqual(["card", 'clay "round"', "gold clasp"]);
    expect(costOf(bill, 0)).toMatchObject({ run: "8", perBox: "1" });
    expect(costOf(bill).run).toBe("7.54");
  });
  test("no boxes cost nothing, and nothing is what a box of none costs", () => {
    const none = costOf(billOf(detail({ variants: [{ first: MOSS, second: SILVER, boxes: 0 }] })));
    expect(none).toMatchObject({ run: "0.00", boxes: 0, perBox: null, variants: [{ perBox: null, run: "0.00" }] });
  });
  test("what a base unit costs new is by the first offer, in whatever unit it is sold", () => {
    const offer = { pack: "p", amount: 50, unit: "piece" as const, price: "2.50", steps: [], minimum: 1 };
    expect(replacementCost({ ...MOSS_ROUND, offers: [offer, { ...offer, price: "9" }] })).toBe("0.05000000");
    expect(replacementCost({ ...SEED, offers: [{ ...offer, amount: 80 }] })).toBe("1.25000000"); // 80 beads, 2 g
    expect(replacementCost(MOSS_ROUND)).toBeNull();
    expect(replacementCost({ ...CORD, offers: [offer] })).toBeNull();
  });
  test("as CSV by RFC 4180: a line a component and variant, quotes doubled, gaps as well", () => {
    const { picks } = detail().box;
    const of = detail({ picks: picks.filter((p) => p.component !== CLASP2.id) });
    const bill = billOf(of);
    const lines = billAsCsv(of, bill, costOf(bill)).split("\r\n");
    expect(lines[0]).toBe(
      "month,box,colourway,second choice,boxes,code,component,kind,unit,a box,spare,spare by,the run,on hand," +
        "left for it,short in all,unit cost,cost",
    );
    expect(lines).toContain(
      '2027-04,Glaze Shelf,Moss,silver,3,C42,"moss, round",bead,piece,10,0,,30,100,100,0,0.05,1.50',
    );
    expect(lines).toContain('2027-04,Glaze Shelf,Clay,silver,2,C43,"clay ""round""",bead,piece,8,0,,16,20,15,9,,');
    expect(lines).toContain("2027-04,Glaze Shelf,Moss,silver,3,C41,seed,bead,g,0.75,0,,2.25,5,5,0,0.20,0.45");
    expect(lines).toContain("2027-04,Glaze Shelf,Clay,gold,1,,not chosen: clasp,finding,piece,2,,,2,,,,,");
    expect(lines.at(-1)).toBe("");
    expect(lines).toHaveLength(1 + 15 + 1);
    const plain = detail({ variants: [{ first: MOSS, second: null, boxes: 1 }] });
    expect(billAsCsv(plain, billOf(plain), costOf(billOf(plain)))).toContain("2027-04,Glaze Shelf,Moss,,1,C42");
  });
});

describe("laying the tray", () => {
  let next = 100;
  const newId = () => id(next++);
  const pinned: PinnedDesign = { designId: id(91), revision: 2, newest: 2, design: BRACELET };
  const bare: BoxDetail["box"] = { ...detail().box, roles: [], bindings: [], picks: [] };
  test("every used role gets its place: beads by colourway, the rest the same in every box", () => {
    const laid = layTray(bare, [pinned], newId);
    expect(laid.roles.map((r) => [r.name, r.follows])).toEqual([
      ["seed", "first"],
      ["round", "first"],
      ["clasp", "none"],
      ["cord", "none"],
      ["card", "none"],
    ]);
    expect(laid.bindings.map((b) => b.role)).toEqual(["s1", "r1", "CL", "SC", "CARD"]);
    expect(layTray(laid, [pinned], newId)).toEqual(laid);
  });
  test("a second design shares what is called the same, in small letters or large, and of the same kind", () => {
    const other = design({
      name: "Other",
      key: [
        { key: "A", name: "SEED", kind: "bead", alongMm: 2 },
        { key: "F", name: "round", kind: "focal", alongMm: 9 },
      ],
      parts: [{ id: "p", name: "P", steps: "A F" }],
    });
    const lines = [...bare.lines, { ...bare.lines[0]!, id: LINE2, designId: id(92), revision: 1 }];
    const second = { designId: id(92), revision: 1, newest: 1, design: other };
    const laid = layTray({ ...bare, lines }, [pinned, second], newId);
    expect(laid.roles).toHaveLength(6);
    const bound = (line: string, role: string) =>
      laid.bindings.find((b) => b.line === line && b.role === role)!.boxRole;
    expect(bound(LINE2, "A")).toBe(bound(LINE, "s1"));
    expect(bound(LINE2, "F")).not.toBe(bound(LINE, "r1"));
    expect(laid.roles.at(-1)).toMatchObject({ name: "round", kind: "focal", follows: "first" });
  });
  test("what no line uses any more goes with its choices; a line without its design keeps what it had", () => {
    const box = detail().box;
    const empty = layTray({ ...box, lines: [] }, [pinned], newId);
    expect([empty.roles, empty.bindings, empty.picks]).toEqual([[], [], []]);
    const kept = layTray(box, [], newId);
    expect([kept.roles, kept.bindings, kept.picks]).toEqual([box.roles, box.bindings, box.picks]);
    const fewer = { ...BRACELET, parts: BRACELET.parts.map((p) => ({ ...p, uses: [] })) };
    const without = layTray(box, [{ ...pinned, design: fewer }], newId);
    expect(without.roles.map((r) => r.name)).toEqual(["seed", "round", "cord", "card"]);
    expect(without.picks.some((p) => p.boxRole === ROLE.clasp)).toBe(false);
  });
});
