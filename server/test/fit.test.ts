/** Fit, lengths, sentences and the maker's sheet over HTTP, against the demo in a real database. */
import { countWhole } from "@jar-count/core/count";
import { type BoxDetail, Design, type FitAnswer, type LengthsAnswer } from "@jar-count/core/contract";
import { chooseMethod, SHIPPED } from "@jar-count/core/method";
import { layOut } from "@jar-count/core/picture";
import { sentencesOf, sheetFor } from "@jar-count/core/sheet";
import { takeWay } from "@jar-count/core/ways";
import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { getDocument, OPS } from "pdfjs-dist/legacy/build/pdf.mjs";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { z } from "zod";
import { startServer, type TestServer } from "./harness.ts";

let demo: TestServer;
beforeAll(async () => {
  demo = await startServer({ demo: true });
});
afterAll(() => demo.stop());

const example = (name: string) =>
  Design.parse(
    (
      JSON.parse(readFileSync(new URL(`../../core/test/examples/${name}.json`, import.meta.url), "utf8")) as {
        design: unknown;
      }
    ).design,
  );

/** Beading wire that will not go twice through a small seed bead: common practice. */
const tight = Design.parse({
  format: "jar-count/design",
  version: 2,
  name: "Tight",
  key: [
    { key: "A", name: "11/0 seed", kind: "bead", alongMm: 1.4, acrossMm: 2.1, holeMm: 0.8 },
    { key: "BW", name: "beading wire", kind: "stringing", form: "beading wire", diameterMm: 0.48 },
  ],
  parts: [{ id: "s", name: "Strand", stringing: "BW", tailMm: 50, steps: "back: 6A\nagain: 2A, >A" }],
});

describe("POST /api/fit", () => {
  test("what does not pass, in its place, with ways out that clear it when taken and asked again", async () => {
    const { status, body } = await demo.send<z.infer<typeof FitAnswer>>("POST", "/api/fit", { design: tight });
    expect(status).toBe(200);
    const [hole] = body.checks;
    expect(hole).toMatchObject({
      rule: "hole",
      level: "fail",
      part: "s",
      row: 1,
      from: 6,
      to: 8,
      key: "A",
      unit: "mm",
    });
    expect(hole).toMatchObject({ need: 0.96, have: 0.8 });
    expect(hole!.ways.length).toBeGreaterThanOrEqual(2);
    for (const way of hole!.ways) {
      const changed = takeWay(tight, way);
      const again = await demo.send<z.infer<typeof FitAnswer>>("POST", "/api/fit", { design: changed });
      expect(
        again.body.checks.filter((c) => c.level !== "fine"),
        way.say,
      ).toEqual([]);
    }
  });

  test("a component's measures take the place of the role's; what nobody measured is listed", async () => {
    const design = example("kiln-door-earrings");
    const ask = async (components: object) =>
      (await demo.send<z.infer<typeof FitAnswer>>("POST", "/api/fit", { design, components })).body;
    const without = await ask({});
    expect(without.checks.filter((c) => c.rule === "hole")).toEqual([]);
    expect(without.unchecked).toContainEqual({ rule: "hole", part: "door", key: "TH", missing: "diameterMm" });
    // Four passes of 0.15 mm thread through W: 0.15 × 2.414 × 0.8 (soft thread).
    const { checks } = await ask({
      TH: { diameterMm: 0.15, form: "thread", breakKg: 2 },
      W: { holeMm: 0.9, massG: 0.2 },
    });
    expect(checks.find((c) => c.rule === "hole" && c.key === "W")).toMatchObject({
      need: 0.28968,
      have: 0.9,
      level: "fine",
    });
  });

  test("a body that is not as agreed is refused with its place", async () => {
    const bad = await demo.send("POST", "/api/fit", { design: tight, components: { A: { holeMm: "wide" } } });
    expect(bad).toMatchObject({ status: 422, body: { errors: [{ pointer: "/components/A/holeMm" }] } });
  });
});

describe("POST /api/lengths", () => {
  test("the closest ways first, each counting to what it says", async () => {
    const design = example("glaze-drip-necklace");
    const asked = { design, part: "strand", size: null, targetMm: 406.4 };
    const { status, body } = await demo.send<z.infer<typeof LengthsAnswer>>("POST", "/api/lengths", asked);
    expect(status).toBe(200);
    expect(body.ways.length).toBeGreaterThan(3);
    const offs = body.ways.map((w) => Math.abs(w.offMm));
    expect(offs).toEqual([...offs].sort((a, b) => a - b));
    for (const way of body.ways) {
      const parts = design.parts.map((p) => (p.id === "strand" ? { ...p, steps: way.steps } : p));
      const { answer } = countWhole({ ...design, parts });
      expect(answer.parts[0]!.strandMm).toBe(way.strandMm);
      expect(way.offMm).toBeCloseTo(way.strandMm - 406.4, 6);
    }
  });
  test("a part that is not there is said, with those that are", async () => {
    const bad = await demo.send("POST", "/api/lengths", { design: tight, part: "x", targetMm: 10 });
    expect(bad).toMatchObject({ status: 422, body: { detail: "The design has no part x: its parts are s." } });
  });
});

test("POST /api/sentences tells the rows as the core does, at each level", async () => {
  const design = example("kiln-door-earrings");
  for (const level of ["short", "plain", "every move"] as const) {
    const { body } = await demo.send("POST", "/api/sentences", { design, part: "door", level });
    expect(body).toEqual({ rows: sentencesOf(design, design.parts[0]!, level) });
  }
  expect((await demo.send("POST", "/api/sentences", { design, part: "door", level: "loud" })).status).toBe(422);
});

describe("the maker's sheet", () => {
  const found = async (theme: string) => {
    const id = (await demo.call("listBoxes")).find((b) => b.theme === theme)!.id;
    return (await demo.call("readBox", { params: { id } })) as BoxDetail;
  };
  const pdfOf = async (path: string) => {
    const answer = await fetch(`${demo.url}${path}`);
    expect(answer.headers.get("content-type")).toContain("application/pdf");
    return getDocument({ data: new Uint8Array(await answer.arrayBuffer()), useSystemFonts: true }).promise;
  };
  const textOf = async (path: string) => {
    const pdf = await pdfOf(path);
    let text = "";
    for (let n = 1; n <= pdf.numPages; n++)
      text += (await (await pdf.getPage(n)).getTextContent()).items.map((i) => ("str" in i ? i.str : "")).join(" ");
    return text;
  };

  test.each([
    ["a4", 595.28],
    ["letter", 612],
  ])("as PDF on %s: what is in the bag, the rows in words, and pictures at real size", async (paper, wide) => {
    const detail = await found("Glaze Shelf");
    const { box } = detail;
    const [line] = box.lines;
    const [first] = box.colourways;
    const asked = `line=${line!.id}&first=${first!.id}&paper=${paper}&unit=mm&level=plain`;
    const path = `/api/boxes/${box.id}/sheet.pdf?${asked}`;
    const pdf = await pdfOf(path);
    const bill = await demo.call("readFrozenBill", { params: { id: box.id } });
    const { design } = detail.designs.find((d) => d.designId === line!.designId)!;
    const sheet = sheetFor(
      bill,
      design,
      { line: line!.id, first: first!.id, second: null, size: null, level: "plain" },
      [],
    )!;
    let text = "";
    const moves: number[][] = [];
    for (let n = 1; n <= pdf.numPages; n++) {
      const page = await pdf.getPage(n);
      expect(page.view[2]).toBeCloseTo(wide, 0);
      const { items } = await page.getTextContent();
      text += `${items.map((i) => ("str" in i ? i.str : "")).join(" ")} `;
      const { fnArray, argsArray } = await page.getOperatorList();
      fnArray.forEach((fn, i) => fn === OPS.transform && moves.push([...(argsArray[i] as number[])]));
    }
    text = text.replace(/\s+/g, " ");
    expect(text).toContain(sheet.name);
    for (const part of sheet.parts) for (const row of part.rows) expect(text).toContain(row.text.replace(/\s+/g, " "));
    for (const item of sheet.contents.bags.flatMap((b) => b.items)) expect(text).toContain(item.component.name);
    expect(text).not.toContain("undefined");
    // A millimetre of the piece is a millimetre on paper: 72 ÷ 25.4 points.
    expect(moves.some(([a, , , d]) => Math.abs(a! - 72 / 25.4) < 1e-4 && Math.abs(d! - 72 / 25.4) < 1e-4)).toBe(true);
    const door = sheet.parts.find((p) => p.picture)!;
    for (const mark of door.picture!.marks.slice(0, 12))
      expect(
        moves.some(
          ([a, b, , , x, y]) => a === 1 && b === 0 && Math.abs(x! - mark.x) < 0.01 && Math.abs(y! - mark.y) < 0.01,
        ),
      ).toBe(true);
    expect(door.byRow.map((r) => r.label)).toEqual(["ring", "edge", "arch", "hang"]);
    // Each row's picture holds what is there by then: never fewer beads, and what is new is of that row alone.
    const beads = door.byRow.map((r) => r.picture.marks.length);
    expect(beads).toEqual([...beads].sort((a, b) => a - b));
    expect(door.byRow[0]!.isNew.every(Boolean)).toBe(true);
    expect(door.byRow[1]!.isNew.filter(Boolean).length).toBe(beads[1]! - beads[0]!);
  });

  test("its ruler is as long as it says", async () => {
    const { box } = await found("Apiary");
    const path = `/api/boxes/${box.id}/sheet.pdf?line=${box.lines[0]!.id}&first=${box.colourways[0]!.id}&unit=in`;
    const pdf = await pdfOf(path);
    const at = new Map<string, number>();
    for (let n = 1; n <= pdf.numPages; n++) {
      const { items } = await (await pdf.getPage(n)).getTextContent();
      const ruler = items.flatMap((i) => ("str" in i && /^[0-6]$/.test(i.str) && i.height < 9.5 ? [i] : []));
      for (const i of ruler) at.set(i.str, i.transform[4] + i.width / 2);
    }
    expect([...at.keys()]).toEqual(["0", "1", "2", "3", "4", "5", "6"]);
    for (let inch = 1; inch <= 6; inch++) expect(at.get(`${inch}`)! - at.get("0")!).toBeCloseTo(72 * inch, 0);
  });

  test("says what the bag holds, by the frozen bill; of what is not there it says so", async () => {
    const { box } = await found("Glaze Shelf");
    const missing = `/api/boxes/${box.id}/sheet.pdf?line=${randomUUID()}&first=${box.colourways[0]!.id}`;
    expect((await fetch(`${demo.url}${missing}`)).status).toBe(404);
    const other = `/api/boxes/${box.id}/sheet.pdf?line=${box.lines[0]!.id}&first=${randomUUID()}`;
    expect((await fetch(`${demo.url}${other}`)).status).toBe(404);
  });

  test("can't disagree with the bag: what is planned otherwise since the bill was frozen is not in it", async () => {
    const { box, designs } = await found("Dye Garden");
    const line = box.lines.find(
      (l) => designs.find((d) => d.designId === l.designId)?.design.name === "Dye Vat Swings",
    )!;
    const path = `/api/boxes/${box.id}/sheet.pdf?line=${line.id}&first=${box.colourways[0]!.id}`;
    const before = await textOf(path);
    const { design } = await demo.call("readDesign", { params: { id: line.designId } });
    const parts = design.parts.map((p) => ({ ...p, steps: p.steps?.replace("7c", "9c") ?? null }));
    const saved = { requestKey: randomUUID(), revision: line.revision, reason: "longer", design: { ...design, parts } };
    expect((await demo.send("PUT", `/api/designs/${line.designId}`, saved)).status).toBe(200);
    const changes = { lines: { put: [{ ...line, revision: line.revision + 1 }] } };
    const change = { requestKey: randomUUID(), version: box.version, changes };
    expect((await demo.send("PATCH", `/api/boxes/${box.id}`, change)).status).toBe(200);
    expect(await textOf(path)).toBe(before);
    expect(before).toMatch(/Pick up one [^.]+ \(t\), 7 of [^.]+ \(c\) and 1 t\./);
  });

  test("says how the ends are made, what each takes, and with which tools", async () => {
    const { box } = await found("Letterpress");
    const [line] = box.lines;
    const { design } = await demo.call("readDesign", { params: { id: line!.designId } });
    const part = design.parts.find((p) => p.stringing != null)!;
    const folded = SHIPPED.find((m) => m.id === "crimp-folded")!;
    const made = chooseMethod(design, part.id, folded, { at: "both ends", values: { cover: "cover" } });
    const saved = { requestKey: randomUUID(), revision: line!.revision, reason: "ends", design: made };
    expect((await demo.send("PUT", `/api/designs/${line!.designId}`, saved)).status).toBe(200);
    const changes = { lines: { put: [{ ...line!, revision: line!.revision + 1 }] } };
    const change = { requestKey: randomUUID(), version: box.version, changes };
    expect((await demo.send("PATCH", `/api/boxes/${box.id}`, change)).status).toBe(200);
    const [first] = box.colourways;
    const text = await textOf(`/api/boxes/${box.id}/sheet.pdf?line=${line!.id}&first=${first!.id}&unit=in`);
    expect(text.replace(/\s+/g, " ")).toMatch(
      /Both ends: Folded crimp, with a cover\..* Loop to the clasp: .*in\. Takes 2 \w+ and 2 \w+\. Leave .* at each/,
    );
    expect(text.replace(/\s+/g, " ")).toContain("With crimping pliers and side cutters.");
  });

  test("draws a long strand as the core lays it", async () => {
    const { designs, box } = await found("Glaze Shelf");
    const { design } = designs.find((d) => d.design.name === "Glaze Drip Necklace")!;
    const counting = countWhole(design);
    const picture = layOut(counting, counting.parts[0]!, new Map());
    const line = box.lines.find((l) => designs.find((d) => d.designId === l.designId)?.design === design)!;
    const pdf = await pdfOf(`/api/boxes/${box.id}/sheet.pdf?line=${line.id}&first=${box.colourways[0]!.id}`);
    expect(picture.right - picture.left).toBeGreaterThan(400);
    expect(pdf.numPages).toBeLessThanOrEqual(3);
  });
});

test("what a choice does wrong and may stand is kept with the box, and comes through an archive", async () => {
  const id = (await demo.call("listBoxes")).find((b) => b.theme === "Letterpress")!.id;
  const { box } = await demo.call("readBox", { params: { id } });
  const overrule = {
    id: randomUUID(),
    line: box.lines[0]!.id,
    first: box.colourways[0]!.id,
    second: null,
    component: box.picks[0]!.component,
    rule: "hole" as const,
    part: "band",
    roleId: "v",
    size: "M",
    need: 0.966,
    have: 0.9,
    note: "It goes through with a push",
    who: "",
    on: "2027-03-02",
  };
  const change = { requestKey: randomUUID(), version: box.version, changes: { overrules: { put: [overrule] } } };
  expect((await demo.send("PATCH", `/api/boxes/${id}`, change)).status).toBe(200);
  expect((await demo.call("readBox", { params: { id } })).box.overrules).toEqual([overrule]);
  const wrong = { ...overrule, id: randomUUID(), line: randomUUID() };
  const bad = { requestKey: randomUUID(), version: box.version + 1, changes: { overrules: { put: [wrong] } } };
  expect((await demo.send("PATCH", `/api/boxes/${id}`, bad)).status).toBe(422);
  const copy = await startServer();
  try {
    const zip = await (await fetch(`${demo.url}/api/archive`)).arrayBuffer();
    const headers = { "content-type": "application/zip" };
    expect((await fetch(`${copy.url}/api/archive`, { method: "POST", headers, body: zip })).status).toBe(201);
    expect((await copy.call("readBox", { params: { id } })).box.overrules).toEqual([overrule]);
    const again = await (await fetch(`${copy.url}/api/archive`)).arrayBuffer();
    expect(Buffer.from(again).equals(Buffer.from(zip))).toBe(true);
  } finally {
    await copy.stop();
  }
});
