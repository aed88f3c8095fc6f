import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { type Answer, Design, type KitAnswer } from "../src/contract/index.ts";
import { count, countKit } from "../src/count/index.ts";

const folder = new URL("./examples/", import.meta.url);
const files = readdirSync(folder);
const read = (file: string, from = folder) => JSON.parse(readFileSync(new URL(file, from), "utf8")) as unknown;

test("there are thirteen worked designs", () => expect(files).toHaveLength(13));

describe.each(files)("%s", (file) => {
  const example = read(file) as { design: unknown; answers: Omit<Answer, "problems">[]; kit: KitAnswer };
  const design = Design.parse(example.design);
  test.each(example.answers.map((a) => [a.size, a.option, a] as const))(
    "size %s, option %s",
    (size, option, expected) => {
      const { problems, countsLeast, ...answer } = count(design, { size, option });
      expect(answer).toEqual(expected);
      expect(problems.filter((p) => p.level === "error")).toEqual([]);
      // Nothing is said against them but of shares written as parts: 2 and 1.
      expect(problems.filter((p) => !p.message.startsWith("The shares of mix"))).toEqual([]);
      for (const [key, least] of Object.entries(countsLeast)) expect(least).toBeLessThan(answer.counts[key]!);
    },
  );
  test("the kit that serves every size and option", () => {
    expect(countKit(design, null, null, null)).toMatchObject(example.kit);
  });
});

type Want = Partial<Pick<Answer, "counts" | "pieces">> & {
  part?: object;
  k?: object;
  kit?: Partial<KitAnswer>;
};

describe("cases worked by hand", () => {
  const cases = read("hand-cases-v2.json", new URL("./cases/", import.meta.url)) as {
    id: string;
    design: unknown;
    want: Want;
  }[];
  test("there are sixteen", () => expect(cases).toHaveLength(16));
  test.each(cases.map((c) => [c.id, c] as const))("%s", (_, { design: file, want }) => {
    const design = Design.parse(file);
    if (want.kit) expect(countKit(design, null, null, null)).toMatchObject(want.kit);
    if (want.counts || want.part) {
      const answer = count(design);
      expect(answer.counts).toEqual(want.counts);
      expect(answer.pieces).toEqual(want.pieces);
      expect(answer.parts.find((p) => p.id === "p")).toMatchObject(want.part ?? {});
      if (want.k) expect(answer.parts.find((p) => p.id === "k")).toMatchObject(want.k);
      // A bead is strung through its second hole in one case, and nobody said that it has two.
      expect(answer.problems.filter((p) => !p.message.includes("has one hole"))).toEqual([]);
    }
  });
});
