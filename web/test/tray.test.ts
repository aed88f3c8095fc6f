import { EMPTY_BOX } from "@jar-count/core/box";
import { BoxInput, type BoxRole } from "@jar-count/core/contract";
import { expect, test } from "vitest";
import {
  addColourway,
  choose,
  chooseInAll,
  followColourway,
  joinRole,
  setBoxes,
  setColourwayName,
  splitRole,
  withoutColourway,
} from "../src/features/box/tray.ts";
import { id, ids } from "../../core/test/things.ts";

const [MOSS, CLAY, LINE1, LINE2, SEED, ROUND, WAX, HONEY] = ids(1, 2, 3, 4, 5, 6, 7, 8);
const seed: BoxRole = { id: SEED, name: "11/0 seed", kind: "bead", follows: "first" };
const round: BoxRole = { id: ROUND, name: "6 mm round", kind: "bead", follows: "none" };
const line = (of: string) => ({ id: of, designId: of, revision: 1, times: 1, size: null, option: null });
const BOX: BoxInput = {
  ...EMPTY_BOX,
  month: "2027-04",
  theme: "Glaze Shelf",
  lines: [line(LINE1), line(LINE2)],
  colourways: [
    { id: MOSS, name: "Moss" },
    { id: CLAY, name: "Clay" },
  ],
  variants: [
    { first: MOSS, second: null, boxes: 10 },
    { first: CLAY, second: null, boxes: 12 },
  ],
  roles: [seed, round],
  contents: [],
  bagging: "together",
  bindings: [
    { line: LINE1, role: "s", boxRole: SEED },
    { line: LINE2, role: "b", boxRole: SEED },
    { line: LINE2, role: "R", boxRole: ROUND },
  ],
  picks: [
    { boxRole: SEED, first: MOSS, second: null, component: WAX },
    { boxRole: ROUND, first: null, second: null, component: HONEY },
  ],
};
/** Whatever is done on the tray leaves a box that the contract takes. */
const sound = (box: BoxInput) => {
  expect(BoxInput.safeParse(box).error?.issues ?? []).toEqual([]);
  return box;
};

test("one choice fills a whole row, over what was chosen in it", () => {
  const filled = chooseInAll(seed, HONEY)(BOX);
  expect(filled.picks.filter((p) => p.boxRole === SEED).map((p) => [p.first, p.component])).toEqual([
    [MOSS, HONEY],
    [CLAY, HONEY],
  ]);
  expect(filled.picks.filter((p) => p.boxRole !== SEED)).toEqual(BOX.picks.filter((p) => p.boxRole !== SEED));
});

test("a colourway comes with as many boxes as the last one, or none yet, and goes with its boxes and choices", () => {
  const added = sound(addColourway(BOX));
  expect(added.colourways[2]).toMatchObject({ name: "Colourway 3" });
  expect(added.variants[2]).toMatchObject({ first: added.colourways[2]!.id, second: null, boxes: 12 });
  expect(addColourway({ ...BOX, variants: [], colourways: [], picks: [] }).variants[0]!.boxes).toBe(0);
  const gift = (first: string | null) => ({
    id: crypto.randomUUID(),
    component: BOX.picks[0]!.component,
    first,
    quantity: 1,
  });
  const gifts = [gift(MOSS), gift(CLAY), gift(null)];
  // What went out with it goes too.
  expect(sound(withoutColourway(MOSS)({ ...BOX, contents: gifts })).contents).toEqual(gifts.slice(1));
  const gone = sound(withoutColourway(MOSS)(BOX));
  expect(gone.colourways).toEqual([BOX.colourways[1]]);
  expect(gone.variants).toEqual([BOX.variants[1]]);
  expect(gone.picks).toEqual([BOX.picks[1]]);
});

test("a name and a number change one colourway and leave the others the same objects", () => {
  const named = sound(setColourwayName(CLAY, "Terracotta")(BOX));
  expect(named.colourways).toEqual([BOX.colourways[0], { id: CLAY, name: "Terracotta" }]);
  expect(named.colourways[0]).toBe(BOX.colourways[0]);
  const numbered = sound(setBoxes(MOSS, 30)(BOX));
  expect(numbered.variants.map((v) => v.boxes)).toEqual([30, 12]);
  expect(numbered.variants[1]).toBe(BOX.variants[1]);
  expect(numbered.picks).toBe(BOX.picks);
});

test("a choice is put in, changed in its place and taken out; every other one stays the same object", () => {
  const chosen = sound(choose(SEED, CLAY, HONEY)(BOX));
  expect(chosen.picks.at(-1)).toEqual({ boxRole: SEED, first: CLAY, second: null, component: HONEY });
  const changed = sound(choose(SEED, MOSS, HONEY)(BOX));
  expect(changed.picks[0]).toMatchObject({ first: MOSS, component: HONEY });
  expect(changed.picks[1]).toBe(BOX.picks[1]);
  expect(sound(choose(SEED, MOSS, null)(BOX)).picks).toEqual([BOX.picks[1]]);
  expect(choose(SEED, CLAY, null)(BOX).picks).toEqual(BOX.picks);
});

test("a role that was one everywhere keeps its choice in each colourway, and the other way round", () => {
  const each = sound(followColourway(round)(BOX));
  expect(each.roles[1]).toMatchObject({ id: ROUND, follows: "first" });
  expect(each.picks.filter((p) => p.boxRole === ROUND)).toEqual([
    { boxRole: ROUND, first: MOSS, second: null, component: HONEY },
    { boxRole: ROUND, first: CLAY, second: null, component: HONEY },
  ]);
  const all = sound(followColourway(seed)(BOX));
  expect(all.picks.find((p) => p.boxRole === SEED)).toEqual({
    boxRole: SEED,
    first: null,
    second: null,
    component: WAX,
  });
  expect(sound(followColourway(seed)({ ...BOX, picks: [] })).picks).toEqual([]);
});

test("roles that share a jar are joined, and split again with the same choices to begin with", () => {
  const joined = sound(joinRole(ROUND, SEED)(BOX));
  expect(joined.roles).toEqual([seed]);
  expect(joined.bindings.map((b) => b.boxRole)).toEqual([SEED, SEED, SEED]);
  expect(joined.picks).toEqual([BOX.picks[0]]);

  let next = 20;
  const split = sound(splitRole(seed, () => id(next++))(BOX));
  expect(split.roles.map((r) => r.id)).toEqual([SEED, id(20), ROUND]);
  expect(split.bindings.map((b) => b.boxRole)).toEqual([SEED, id(20), ROUND]);
  expect(split.picks.at(-1)).toEqual({ boxRole: id(20), first: MOSS, second: null, component: WAX });
});
