import { afterEach, describe, expect, test } from "vitest";
import type { BoxSummary, Design, DesignSummary } from "@jar-count/core/contract";
import { count } from "@jar-count/core/count";
import { CONSTRUCTS } from "@jar-count/core/shorthand";
import { id } from "../../core/test/things.ts";
import { roadOf } from "../src/app/road.ts";
import { newDesign } from "../src/features/bench/unsaved.ts";
import { examplesOf, pictureOf } from "../src/features/notation/examples.ts";
import { type Lesson, LESSONS, lessonOf } from "../src/features/notation/lessons.ts";
import { followLocale, localeTag, numberMarks, plainDigits } from "../src/settings/locale.ts";
import { sayNumber } from "../src/ui/marks.tsx";
import { sayDay } from "../src/ui/month.ts";

afterEach(() => followLocale(""));

describe("numbers and dates as the workshop writes them", () => {
  // What each locale writes is the Unicode CLDR's, as the browser has it.
  test.each([
    ["en-GB", "1,240.5", "20 Apr 2027"],
    ["de-DE", "1.240,5", "20. Apr. 2027"],
    ["en-US", "1,240.5", "Apr 20, 2027"],
    ["fr-FR", "1\u202f240,5", "20 avr. 2027"],
  ])("%s: %s and %s", (tag, number, day) => {
    followLocale(tag);
    expect(localeTag()).toBe(tag);
    expect(sayNumber(1240.5)).toBe(number);
    expect(sayDay("2027-04-20T12:00:00Z")).toBe(day);
    // What is written is read back, and so is a plain point.
    expect(Number(plainDigits(number))).toBe(1240.5);
    expect(Number(plainDigits("1240.5"))).toBe(1240.5);
    expect(Number(plainDigits("12"))).toBe(12);
  });
  test("a comma is a decimal wherever it stands before other than three digits", () => {
    expect(plainDigits("1,5")).toBe("1.5");
    expect(plainDigits("1,500")).toBe("1500");
    followLocale("de-DE");
    expect(plainDigits("1,5")).toBe("1.5");
    expect(plainDigits("1.500")).toBe("1500");
    expect(plainDigits("1.5")).toBe("1.5");
  });
  test("empty leaves it to the browser", () => {
    followLocale("de-DE");
    followLocale("");
    expect(localeTag()).toBeUndefined();
    expect(numberMarks().decimal).toBe(
      new Intl.NumberFormat().formatToParts(0.5).find((p) => p.type === "decimal")!.value,
    );
  });
});

describe("examples of the notation", () => {
  const own: Pick<Design, "key" | "parts" | "sizes"> = {
    key: [
      { key: "H", name: "8 mm round", kind: "bead", alongMm: 8 },
      { key: "A", name: "lobster clasp", kind: "finding", alongMm: 10 },
    ],
    parts: [{ id: "p", name: "p", steps: "" }],
    sizes: [{ key: "petite" }, { key: "tall" }],
  };
  test("stand in the design's own letters and sizes; what it lacks is stood in for by letters that are free", () => {
    const { keys, entries } = examplesOf(own);
    expect(keys).toMatchObject({ beads: ["H", "H", "H"], finding: "A", sizes: ["petite", "tall"] });
    expect(new Set(entries.map((e) => e.key)).size).toBe(entries.length);
    const empty = examplesOf({ ...own, key: [own.key[1]!] });
    expect(empty.keys.beads).not.toContain("A");
    expect(empty.keys.beads[0]).toBe("A2");
  });
  test.each(CONSTRUCTS.filter((c) => c.drawn).map((c) => [c.title, c] as const))("%s has a picture", (_, construct) => {
    for (const examples of [examplesOf(null), examplesOf(own)]) {
      const { marks, links, lines, fittings } = pictureOf(construct, examples)!.picture;
      expect(marks.length + links.length + lines.length + fittings.length).toBeGreaterThan(0);
    }
  });
});

describe("lessons", () => {
  /** What a learner does beside writing rows, in the order of the steps that ask for it. */
  const DONE: Record<string, ((d: Design) => Design)[]> = {
    "stretch-bracelet": [
      (d) => part(d, { stringing: "C" }),
      (d) => part(d, { targetMm: 190.5 }),
      (d) => part(d, { tailMm: 101.6 }),
    ],
    "bent-wire-earring": [
      (d) => part(d, { cutMm: 228.6 }),
      (d) => part(d, { uses: [{ key: "E", count: 1 }] }),
      (d) => part(d, { makes: 2 }),
    ],
    "unlike-strands": [(d) => part(d, { strands: 3 }), (d) => part(d, { finishedRatio: 0.8 })],
    "charm-row": [
      (d) => ({ ...d, key: d.key.map((e) => (e.key === "L" ? { ...e, hangsBy: [{ key: "J", count: 1 }] } : e)) }),
    ],
  };
  const part = (d: Design, change: Partial<Design["parts"][number]>): Design => ({
    ...d,
    parts: d.parts.map((p, i) => (i === 0 ? { ...p, ...change } : p)),
  });
  test.each(LESSONS.map((l) => [l.title, l] as const))(
    "%s: every step is open until it is done as it says, and stays done",
    (_, lesson: Lesson) => {
      expect(lessonOf(lesson.id)).toBe(lesson);
      const others = [...DONE[lesson.id]!];
      let design = lesson.start;
      lesson.steps.forEach((step, i) => {
        expect(step.done(design), `${i + 1} before`).toBe(false);
        design = step.type === undefined ? others.shift()!(design) : part(design, { steps: step.type });
        expect(step.done(design), `${i + 1} after`).toBe(true);
      });
      expect(others).toEqual([]);
      expect(lesson.steps.map((s) => s.done(design))).toEqual(lesson.steps.map(() => true));
      const { problems } = count(design);
      expect(problems.filter((p) => p.level === "error")).toEqual([]);
    },
  );
});

describe("the road to the first counted box", () => {
  const box = (more: Partial<BoxSummary>): BoxSummary => ({
    id: id(1),
    month: "2027-04",
    packed: 0,
    theme: "Kelp",
    version: 1,
    state: "planned",
    packBy: "2027-03-20",
    designs: 0,
    boxes: 0,
    colourways: [],
    ...more,
  });
  const design = { id: id(2), name: "Band", design: newDesign() } as DesignSummary;
  const next = (designs: DesignSummary[], boxes: BoxSummary[]) => roadOf(designs, boxes).find((s) => !s.done);
  test("leads from step to step, each to its place, and ends with beads chosen", () => {
    expect(next([], [])).toMatchObject({ words: "a design", to: "/designs/new" });
    expect(next([design], [])).toMatchObject({ words: "a month", to: "/months/new" });
    expect(next([design], [box({})])).toMatchObject({ to: `/months/${id(1)}/designs` });
    expect(next([design], [box({ designs: 1 })])).toMatchObject({ to: `/months/${id(1)}/colours` });
    const named = [{ id: id(3), name: "Wrack", stripe: [] }];
    expect(next([design], [box({ designs: 1, colourways: named })])!.words).toBe("a colourway and how many boxes");
    expect(next([design], [box({ designs: 1, colourways: named, boxes: 12 })])!.words).toBe("beads chosen");
    const chosen = [{ ...named[0]!, stripe: ["#3f8152"] }];
    expect(next([design], [box({ designs: 1, colourways: chosen, boxes: 12 })])).toBeUndefined();
  });
});
