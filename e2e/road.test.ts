import { readFileSync } from "node:fs";
import Papa from "papaparse";
import {
  addToKey,
  expect,
  more,
  openDesign,
  openMonth,
  rows,
  save,
  setUp,
  stage,
  test,
  writeRows,
} from "./fixtures.ts";
import { inDemo } from "../core/test/demoDay.ts";

test.describe("from an empty workshop", () => {
  test.use({ demo: false });

  test("a new user comes to a short list", async ({ page }) => {
    await setUp(page);

    // A design: two beads and a cord, one row.
    await page.getByRole("link", { name: "Write the first design" }).click();
    await page.getByLabel("Name of the design").fill("Tide Line Bracelet");
    for (const words of ["6 mm round", "4 mm cube", "stretch cord"]) await addToKey(page, words);
    await page.getByLabel("Strung on").selectOption({ label: "C · stretch cord" });
    await page.getByLabel("Each tail").fill("150mm");
    await rows(page).click();
    await page.keyboard.type("(2A B) x9");
    await expect(page.getByTestId("leading")).toHaveText("27");
    await expect(page.getByTestId("count-A-0")).toHaveText("18");
    await save(page);

    // Two jars, one with stock.
    for (const [name, code, count] of [
      ["Round, sea glass", "R6-SEA", "100"],
      ["Cube, driftwood", "Q4-DRI", ""],
    ] as const) {
      await page.getByRole("link", { name: "Jars g j" }).click();
      await page.getByRole("link", { name: "Add a component" }).click();
      await page.getByLabel("Name", { exact: true }).fill(name);
      await page.getByLabel("Code").fill(code);
      await page.getByLabel("Along the thread").fill(code.startsWith("R") ? "6mm" : "4mm");
      await page.getByRole("button", { name: "Add a pack" }).click();
      await page.getByLabel("A pack is called").fill("strand of 50");
      await page.getByLabel("It holds").fill("50");
      await page.getByLabel("It costs").fill("2.50");
      await page.getByRole("button", { name: "Add the component" }).click();
      await expect(page.getByTestId("on-hand")).toHaveText("0");
      if (count) {
        await page.getByLabel("How many", { exact: true }).fill(count);
        await page.getByRole("button", { name: "Write down what came" }).click();
        await expect(page.getByTestId("on-hand")).toHaveText(count);
      }
    }

    // A month, its design, a colourway, the tray.
    await page.getByRole("link", { name: "Plan a month" }).click();
    await page.getByLabel("Month", { exact: true }).fill(inDemo("2027-09"));
    await page.getByLabel("Theme", { exact: true }).fill("Shoreline");
    await page.getByRole("button", { name: "Plan it" }).click();
    await page.getByRole("button", { name: "Add a design" }).click();
    await page.keyboard.type("tide");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("link", { name: "Tide Line Bracelet" })).toBeVisible();
    await stage(page, "Colours");
    await page.getByRole("button", { name: "Add a colourway" }).click();
    await page.getByLabel("Name of the colourway Colourway 1").fill("Kelp");
    await page.getByLabel("Boxes of Kelp").fill("12");
    await page.getByRole("button", { name: "6 mm round, Kelp: not chosen" }).click();
    await page.keyboard.type("sea");
    await page.keyboard.press("Enter");
    // By keyboard: down to the next cell, and a letter opens the search.
    await page.getByRole("button", { name: "6 mm round, Kelp: Round, sea glass" }).focus();
    await page.keyboard.press("ArrowDown");
    await page.keyboard.type("drift");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("button", { name: "4 mm cube, Kelp: Cube, driftwood" })).toBeVisible();

    // 18 rounds and 9 cubes a box and one more of each, 12 boxes: 228 and 120. 100 and 0 on hand.
    await stage(page, "Counts");
    await expect(page.getByTestId("need-R6-SEA")).toContainText(/18\s*1\s*228\s*100.*short by\s*128/);
    await expect(page.getByTestId("need-Q4-DRI")).toContainText(/9\s*1\s*120\s*0.*short by\s*120/);
    await expect(page.getByRole("link", { name: "not chosen yet" })).toBeVisible();
    await expect(page.getByTestId("leading")).toHaveText("0");

    // 228 × 2.50/50 + 120 × 2.50/50 = 11.40 + 6.00
    await stage(page, "Money");
    await expect(page.getByTestId("run-cost")).toHaveText("£17.40");
    await expect(page.getByTestId("box-cost-Kelp")).toHaveText("£1.45");

    await page.reload();
    await expect(page.getByTestId("run-cost")).toHaveText("£17.40");
  });
});

test("in the demo, a changed row changes count, cost and shortage, and stays", async ({ page }) => {
  await openMonth(page, "Apiary");
  await stage(page, "Counts");
  const rounds = page.getByTestId("need-R08-HONE");
  const aBox = rounds.getByRole("button", { name: /^Where .* a box of/ });
  await expect(aBox).toHaveText("22");
  await stage(page, "Money");
  const before = await page.getByTestId("box-cost-Honey").textContent();

  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await expect(page.getByTestId("leading")).toHaveText("57");
  await writeRows(page, "2H, (3e r 9H r 3e) to length fill (H e)\nclose: >2H");
  await expect(page.getByTestId("leading")).not.toHaveText("57");
  await expect(page.getByText("was 57")).toBeVisible();
  await page.getByLabel("What changed, in a few words").fill("More rounds");
  await save(page);

  // The box goes on counting with the revision it was counted with, until it is told to use the newer one.
  await openMonth(page, "Apiary");
  await stage(page, "Counts");
  await expect(aBox).toHaveText("22");
  await stage(page, "Contents");
  await page.getByRole("button", { name: "What would change" }).click();
  await expect(page.getByRole("dialog").getByRole("row", { name: /^H 8 mm round/ })).toBeVisible();
  await page.getByRole("button", { name: "Use revision 2" }).click();
  await expect(page.getByText("counted by revision 2")).toBeVisible();
  await stage(page, "Counts");
  await expect(aBox).not.toHaveText("22");
  await expect(rounds).toContainText("short by");
  await stage(page, "Money");
  await expect(page.getByTestId("box-cost-Honey")).not.toHaveText(before!);
  const after = await page.getByTestId("box-cost-Honey").textContent();
  await expect(page.getByText("· saved")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("box-cost-Honey")).toHaveText(after!);
});

test("the lines of a colourway's cost add up to its total, and the bill leaves as CSV", async ({ page }) => {
  await openMonth(page, "Glaze Shelf");
  await stage(page, "Money");
  const table = page.getByRole("region", { name: "Cost lines" });
  await expect(page.getByTestId("colourway-cost")).toBeVisible();
  const costs = await table.locator("tbody tr td:last-child").allTextContents();
  const cents = (text: string) => Math.round(Number(text.replace(/[£,]/g, "")) * 100);
  expect(costs.length).toBeGreaterThan(10);
  expect(costs.reduce((sum, c) => sum + cents(c), 0)).toBe(
    cents((await page.getByTestId("colourway-cost").textContent())!),
  );

  await stage(page, "Counts");
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Bill of materials (CSV)" }).click();
  const file = await waiting;
  expect(file.suggestedFilename()).toBe(`${inDemo("2027-03")} Glaze Shelf.csv`);
  const { data } = Papa.parse<Record<string, string>>(readFileSync(await file.path(), "utf8"), {
    header: true,
    skipEmptyLines: true,
  });
  expect(data.filter((r) => r.colourway === "Celadon")).toHaveLength(costs.length);
  expect(data.find((r) => r.code === "R04-CELA")).toMatchObject({ "a box": "12", "the run": "720", unit: "piece" });
});

test("a design leaves as a file and comes in again the same", async ({ page }) => {
  await openDesign(page, "Ink Roller Chain");
  const beads = await page.getByTestId("leading").textContent();
  const waiting = page.waitForEvent("download");
  await more(page, "Save as a design file");
  const path = await (await waiting).path();
  const first = readFileSync(path, "utf8");
  await page.goto("/designs");
  await page
    .getByLabel("Design file", { exact: true })
    .setInputFiles({ name: "ink.jarcount.json", mimeType: "application/json", buffer: Buffer.from(first) });
  await expect(page.getByText(/^Revision 1, saved/)).toBeVisible();
  await expect(page.getByTestId("leading")).toHaveText(beads!);
  const again = page.waitForEvent("download");
  await more(page, "Save as a design file");
  // Saved anew it is of the newest version, and else the same to the byte.
  const newest = first.replace('"version": 1', '"version": 2');
  expect(readFileSync(await (await again).path(), "utf8")).toBe(newest);
});

test("the picture draws every bead that is strung", async ({ page }) => {
  await openDesign(page, "Press Bed Bracelet");
  for (const [size, beads] of [
    ["Small", 64],
    ["Medium", 65],
    ["Large", 65],
  ] as const) {
    await page.getByRole("button", { name: size, exact: true }).click();
    // All that is strung: cubes, bicones, rounds, bars and the two crimps.
    await expect(page.getByTestId("strand")).toHaveAttribute("data-beads", String(beads));
  }
});
