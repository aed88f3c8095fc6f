import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { mergeRecords } from "../src/merge/index.ts";

const people = (...names: string[]) => names.map((name) => ({ id: name.toLowerCase()[0]!, name }));

describe("two changes of one record", () => {
  const base = { name: "Studio", currency: "GBP", people: people("Wren", "Ines") };

  test("fields and members that only one of them changed are as they made them", () => {
    const mine = { ...base, name: "Quarry Lane", people: people("Wren", "Inez") };
    const theirs = { ...base, currency: "EUR", people: people("Wrenna", "Ines", "Odd") };
    expect(mergeRecords(base, mine, theirs)).toEqual({
      merged: { name: "Quarry Lane", currency: "EUR", people: people("Wrenna", "Inez", "Odd") },
      clashes: [],
    });
  });

  test("the same place changed by both is a clash, named as a person knows it; who decides, decides", () => {
    const mine = { ...base, name: "Mine", people: people("Wren", "Inez") };
    const theirs = { ...base, name: "Theirs", people: people("Wren", "Inka") };
    const { merged, clashes } = mergeRecords(base, mine, theirs);
    expect(clashes).toEqual([
      { path: ["name"], mine: "Mine", theirs: "Theirs" },
      { path: ["people", "Inez", "name"], mine: "Inez", theirs: "Inka" },
    ]);
    expect(merged).toEqual(mine);
    expect(mergeRecords(base, mine, theirs, "theirs").merged).toEqual(theirs);
  });

  test("taken out by one stands, unless the other changed it", () => {
    const out = { ...base, people: people("Wren") };
    expect(mergeRecords(base, out, { ...base, name: "X" }).merged).toEqual({ ...out, name: "X" });
    const theirs = { ...base, people: people("Wren", "Inka") };
    const { merged, clashes } = mergeRecords(base, out, theirs);
    expect(clashes).toEqual([{ path: ["people", "Inka"], mine: null, theirs: { id: "i", name: "Inka" } }]);
    expect(merged.people).toEqual(people("Wren"));
    expect(mergeRecords(base, out, theirs, "theirs").merged.people).toEqual(people("Wren", "Inka"));
  });

  test("the order goes by who changed it, and what is new stands behind", () => {
    const mine = { ...base, people: people("Ines", "Wren") };
    const theirs = { ...base, people: people("Wren", "Ines", "Odd") };
    expect(mergeRecords(base, mine, theirs).merged.people.map((p) => p.name)).toEqual(["Ines", "Wren", "Odd"]);
    expect(mergeRecords(base, theirs, mine).merged.people.map((p) => p.name)).toEqual(["Ines", "Wren", "Odd"]);
  });
});

describe("laws", () => {
  const record = fc.record({
    name: fc.constantFrom("a", "b", "c"),
    days: fc.option(fc.nat(3)),
    list: fc.uniqueArray(fc.record({ id: fc.constantFrom("1", "2", "3"), name: fc.constantFrom("x", "y") }), {
      selector: (x) => x.id,
      maxLength: 3,
    }),
  });
  const byId = (r: { list: { id: string }[] }) => ({ ...r, list: [...r.list].sort((p, q) => (p.id < q.id ? -1 : 1)) });

  test("who changed nothing has no say, and the same change twice is no clash", () => {
    fc.assert(
      fc.property(record, record, (base, other) => {
        expect(mergeRecords(base, base, other)).toEqual({ merged: other, clashes: [] });
        expect(mergeRecords(base, other, base)).toEqual({ merged: other, clashes: [] });
        expect(mergeRecords(base, other, other)).toEqual({ merged: other, clashes: [] });
      }),
    );
  });
  test("without a clash it does not matter who was first, but for the order of what both added", () => {
    fc.assert(
      fc.property(record, record, record, (base, mine, theirs) => {
        const [here, there] = [mergeRecords(base, mine, theirs), mergeRecords(base, theirs, mine)];
        expect(here.clashes.length).toBe(there.clashes.length);
        if (here.clashes.length === 0) expect(byId(here.merged)).toEqual(byId(there.merged));
      }),
    );
  });
  test("each side's changes are all in it where it is preferred", () => {
    fc.assert(
      fc.property(record, record, record, (base, mine, theirs) => {
        const { merged } = mergeRecords(base, mine, theirs, "mine");
        if (mine.name !== base.name) expect(merged.name).toBe(mine.name);
        for (const item of mine.list) {
          const was = base.list.find((b) => b.id === item.id);
          if (was?.name !== item.name) expect(merged.list).toContainEqual(item);
        }
      }),
    );
  });
});
