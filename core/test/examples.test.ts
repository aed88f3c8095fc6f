import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { Answer, Design } from "../src/contract/index.ts";
import { count } from "../src/count/index.ts";

const folder = new URL("./examples/", import.meta.url);
const files = readdirSync(folder);

test("there are nine worked designs", () => expect(files).toHaveLength(9));

describe.each(files)("%s", (file) => {
  const example = JSON.parse(readFileSync(new URL(file, folder), "utf8")) as { design: unknown; answers: Answer[] };
  const design = Design.parse(example.design);
  test.each(example.answers.map((a) => [a.size, a.option, a] as const))(
    "size %s, option %s",
    (size, option, expected) => {
      const answer = count(design, { size, option });
      expect(answer).toEqual({ ...expected, problems: [] });
    },
  );
});
