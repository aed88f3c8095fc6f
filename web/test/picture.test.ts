import { readFileSync } from "node:fs";
import { Design, FINISHES, SHAPES } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import { appearancesOf, FITTING_SHAPES, layOut } from "@jar-count/core/picture";
import { describe, expect, test } from "vitest";
import { beadSvg } from "../src/ui/bead.ts";
import { pictureAsSvg } from "../src/ui/exportPicture.ts";

const load = (name: string) =>
  Design.parse(
    JSON.parse(readFileSync(new URL(`../../core/test/examples/${name}.json`, import.meta.url), "utf8")).design,
  );
const picture = (name: string, part: string, how = {}) => {
  const design = load(name);
  const counting = countWhole(design, {
    size: design.sizes?.[0]?.key ?? null,
    option: design.options?.[0]?.key ?? null,
  });
  const looks = appearancesOf(design.key);
  return {
    looks,
    of: layOut(
      counting,
      counting.parts.find((p) => p.part.id === part)!,
      looks,
      undefined,
      how,
    ),
  };
};
const attribute = (svg: string, name: string) => Number(new RegExp(` ${name}="([\\d.]+)mm"`).exec(svg)![1]);

describe("the picture as SVG", () => {
  test.each([
    ["smoke-and-honey-stretch", "band"],
    ["press-bed-bracelet", "band"],
    ["rail-fringe-pendant", "drop"],
    ["ink-roller-chain", "long"],
    ["kiln-door-earrings", "door"],
  ])("%s, %s: every bead once, in millimetres, nothing of the page's own", (name, part) => {
    const { looks, of } = picture(name, part);
    const svg = pictureAsSvg(of, looks, "mm");
    expect(svg.match(/<use /g) ?? []).toHaveLength(of.marks.length + of.fittings.length);
    // A link is drawn over its own edge: twice in one place.
    const links = svg.match(/<ellipse cx="[^"]+" cy="[^"]+" rx="[^"]+" ry="[^"]+" transform="[^"]+"/g) ?? [];
    expect(new Set(links).size).toBe(of.links.length);
    expect(attribute(svg, "width")).toBeCloseTo(of.right - of.left + 12, 2);
    // It must stand alone: no variables, no references to what is not in it, balanced elements.
    expect(svg).not.toContain("var(");
    const ids = new Set([...svg.matchAll(/ id="([^"]+)"/g)].map((m) => m[1]));
    for (const [, to] of svg.matchAll(/(?:href="#|url\(#)([^")]+)/g)) expect(ids).toContain(to);
    for (const element of ["g", "defs", "text", "svg"])
      expect(svg.split(`</${element}>`).length, element).toBe(
        [...svg.matchAll(new RegExp(`<${element}[ >]`, "g"))].length + 1,
      );
  });
  test("the ruler in inches is 25.4 units an inch, in millimetres one", () => {
    const { looks, of } = picture("press-bed-bracelet", "band");
    for (const [unit, per] of [
      ["in", 25.4],
      ["mm", 1],
    ] as const) {
      const marks = [
        ...pictureAsSvg(of, looks, unit).matchAll(/<path d="M(-?[\d.]+) \S+v3"[^>]*\/><text[^>]*>(\d+) /g),
      ].map((m) => [Number(m[1]), Number(m[2])]);
      expect(marks.length).toBeGreaterThan(3);
      for (const [x, n] of marks) expect(x).toBeCloseTo(n! * per, 2);
    }
  });
  test("the second of a pair is turned over", () => {
    const { looks, of } = picture("kiln-door-earrings", "door", { laid: "ring", pair: true });
    const svg = pictureAsSvg(of, looks, "mm");
    expect(svg.match(/scale\(-1 1\)/g)).toHaveLength((of.marks.length + of.fittings.length) / 2);
  });
});

test("every shape and finish draws, and every finding", () => {
  for (const shape of [...SHAPES, ...FITTING_SHAPES]) {
    for (const finish of FINISHES) {
      const svg = beadSvg({ shape, finish, colour: "#a84030", alongMm: 4, acrossMm: 6 }, "x");
      expect(svg, shape).toContain('<path d="M');
      expect(svg, shape).not.toMatch(/NaN|undefined|Infinity/);
    }
  }
});

test("no two shapes look the same, but those that are told by their size or place alone", () => {
  const drawn = new Map<string, string>();
  for (const shape of [...SHAPES, ...FITTING_SHAPES]) {
    const svg = beadSvg({ shape, finish: "opaque", colour: "#a84030", alongMm: 5, acrossMm: 7 }, "x");
    const paths = [...svg.matchAll(/ d="([^"]+)"/g)].map((m) => m[1]).join();
    const twin = drawn.get(paths);
    expect([undefined, "cylinder", "jump ring"], `${shape} and ${twin}`).toContain(twin);
    drawn.set(paths, shape);
  }
});
