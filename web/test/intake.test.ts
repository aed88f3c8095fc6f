import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { IntakeWorker, Judged } from "../src/workers/intake.ts";
import { newDesign } from "../src/features/bench/unsaved.ts";
import { readDesignFile } from "../src/features/designs/designFile.ts";
import { monthName } from "../src/ui/month.ts";
import { component, id } from "../../core/test/things.ts";
import { refused, serve } from "./page.ts";

/** What the worker offers the page is taken where it hands it over. */
let worker: IntakeWorker;
beforeEach(async () => {
  vi.resetModules();
  vi.doMock("comlink", () => ({ expose: (offered: IntakeWorker) => (worker = offered) }));
  await import("../src/workers/intake.ts");
});
afterEach(() => {
  vi.doUnmock("comlink");
  vi.unstubAllGlobals();
});

const ROUND = component(1, { code: "R6", name: "6 mm round", onHand: 40 });
const KNOWN = { places: [{ id: id(2), code: "A", name: "Drawers", held: false }], suppliers: [] };
const MAPPING = { code: "code", quantity: "quantity" };
const COUNTS = "code,quantity\nR6,50\nR6,fifty\nNONE,3\n";
const IMPORTED = { imported: 1, entries: 1 };

/** Reads, judges and returns the lines as the page gets them. */
async function judge(text: string, kind = "counts" as const) {
  worker.read(text);
  const parts: Judged[][] = [];
  const progress: number[] = [];
  await worker.judge(
    kind,
    MAPPING,
    KNOWN,
    null,
    (done) => progress.push(done),
    (part) => parts.push(part),
  );
  return { parts, progress, lines: parts.flat() };
}

describe("a table on its way in", () => {
  test("shows headings and first rows before anything is judged", () => {
    expect(worker.read(COUNTS)).toMatchObject({
      headings: ["code", "quantity"],
      rows: 3,
      first: [{ code: "R6", quantity: "50" }, { code: "R6" }, { code: "NONE" }],
    });
  });
  test("each line is judged by what the server has now, with the line of the file that it stands in", async () => {
    const asked = serve(() => ({ body: { components: [ROUND], asOf: "1" } }));
    const { lines } = await judge(COUNTS);
    expect(asked.map((a) => a.path)).toEqual(["/components"]);
    expect(lines.map((l) => [l.line, l.status])).toEqual([
      [2, "new"],
      [3, "refused"],
      [4, "refused"],
    ]);
    expect(lines[2]!.faults.join(" ")).toContain("NONE");
    expect(worker.refused().map((row) => [row.code, row.why])).toEqual([
      ["R6", lines[1]!.faults.join(" ")],
      ["NONE", lines[2]!.faults.join(" ")],
    ]);
  });
  test("thousands of lines come in parts, with how far it got", async () => {
    serve(() => ({ body: { components: [ROUND], asOf: "1" } }));
    const { parts, progress, lines } = await judge(`code,quantity\n${"R6,50\n".repeat(2500)}`);
    expect(parts.map((p) => p.length)).toEqual([1000, 1000, 500]);
    expect(progress).toEqual([0, 500, 1000, 1500, 2000]);
    expect(lines.map((l) => l.line)).toEqual(Array.from({ length: 2500 }, (_, i) => i + 2));
  });
  test("chosen lines are written as they stand; sent again after a lost answer under the same key", async () => {
    let away = true;
    const asked = serve(({ method }) => {
      if (method === "GET") return { body: { components: [ROUND], asOf: "1" } };
      return away ? "away" : { body: IMPORTED };
    });
    await judge(COUNTS);
    const first = await worker.write("counts", "shelf.csv", null, [2]);
    expect(first).toMatchObject({ refusal: { code: "away" } });
    away = false;
    expect(await worker.write("counts", "shelf.csv", null, [2])).toEqual({ imported: IMPORTED });
    await worker.write("counts", "shelf.csv", null, [2, 3]);
    const bodies = asked
      .filter((a) => a.method === "POST")
      .map((a) => a.body as { requestKey: string; rows: object[] });
    expect(bodies.map((b) => b.rows)).toEqual([
      [{ code: "R6", quantity: "50" }],
      [{ code: "R6", quantity: "50" }],
      [
        { code: "R6", quantity: "50" },
        { code: "R6", quantity: "fifty" },
      ],
    ]);
    expect(bodies[1]!.requestKey).toBe(bodies[0]!.requestKey);
    expect(bodies[2]!.requestKey).not.toBe(bodies[0]!.requestKey);
  });
  test("judged anew, the same lines are a new write", async () => {
    const asked = serve(({ method }) => ({
      body: method === "GET" ? { components: [ROUND], asOf: "1" } : IMPORTED,
    }));
    const keyOf = async () => {
      await judge(COUNTS);
      await worker.write("counts", "shelf.csv", null, null);
      return (asked.at(-1)!.body as { requestKey: string }).requestKey;
    };
    expect(await keyOf()).not.toBe(await keyOf());
  });
  test("a refusal comes back whole, with its places", async () => {
    serve(({ method }) =>
      method === "GET"
        ? { body: { components: [ROUND], asOf: "1" } }
        : refused("invalid", "Nothing was written.", {
            errors: [{ pointer: "/rows/1/quantity", detail: "A number." }],
          }),
    );
    await judge(COUNTS);
    expect(await worker.write("counts", "shelf.csv", null, null)).toMatchObject({
      refusal: { code: "invalid", errors: [{ pointer: "/rows/1/quantity" }] },
    });
  });
});

describe("a design file", () => {
  const file = (text: string, size = text.length) => ({ size, text: () => Promise.resolve(text) }) as unknown as File;
  test("a new design is one that can be saved and read again", async () => {
    expect(await readDesignFile(file(JSON.stringify(newDesign())))).toEqual({ design: newDesign() });
  });
  test.each([
    ["{", /cut short/],
    ["[]", /./],
    [JSON.stringify({ ...newDesign(), name: "" }), /^name: /],
    [JSON.stringify({ ...newDesign(), parts: [{ id: "a", name: "A", strands: 0 }] }), /^parts › 0 › strands: /],
  ])("%j is refused with the place", async (text, says) => {
    const found = await readDesignFile(file(text));
    expect("faults" in found && found.faults[0]).toMatch(says);
  });
  test("a file far too large is refused before it is read", async () => {
    const found = await readDesignFile({ size: 9e6, text: () => Promise.reject(new Error("read")) } as never);
    expect(found).toEqual({ faults: [expect.stringContaining("over 8 MB")] });
  });
});

test("a month by its name, whatever the time zone", () => {
  expect([monthName("2027-04"), monthName("2027-01"), monthName("2027-12", true)]).toEqual([
    "April",
    "January",
    "December 2027",
  ]);
});
