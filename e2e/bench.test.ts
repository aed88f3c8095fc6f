import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import {
  addToKey,
  expect,
  more,
  newDesign,
  openDesign,
  openMonth,
  rows,
  save,
  stage,
  test,
  toggleKey,
  writeRows,
} from "./fixtures.ts";

const strand = (page: Page) => page.getByRole("application", { name: /^Beads on the strand/ });
const bar = (page: Page) => page.getByRole("group", { name: "Building" });
test.describe("a bracelet", () => {
  test.use({ demo: false });
  test("built by pointing alone, and the same by typing alone, count the same", async ({ page }) => {
    await newDesign(page);
    await addToKey(page, "4 mm round, moss");
    await addToKey(page, "4 mm cube, clay");
    const put = (key: string) => page.getByRole("button", { name: `Put ${key} on the strand` });
    await put("A").click();
    await bar(page).getByLabel("How many of the chosen bead").fill("3");
    await put("B").click();
    await expect(rows(page)).toHaveText("3A B");
    // The whole stretch: from the first bead to the last, by pointer.
    const canvas = page.getByTestId("strand");
    const scale = Number(await canvas.getAttribute("data-scale"));
    const bead = async (n: number, shift = false) => {
      const box = (await canvas.boundingBox())!;
      await page.mouse.move(box.x + (8 + 4 * n + 2) * scale, box.y + box.height / 2);
      if (shift) await page.keyboard.down("Shift");
      await page.mouse.down();
      await page.mouse.up();
      if (shift) await page.keyboard.up("Shift");
    };
    await bead(0);
    await bead(3, true);
    await expect(page.getByTestId("chosen")).toContainText("4 beads");
    await bar(page).getByLabel("Repeat how often").fill("5");
    await bar(page).getByRole("button", { name: "Repeat" }).click();
    await expect(rows(page)).toHaveText("(3A B) x5");
    // Dragged from the bead key onto the strand.
    const now = Number(await canvas.getAttribute("data-scale"));
    await put("B").dragTo(canvas, { targetPosition: { x: (8 + 1) * now, y: 40 } });
    await expect(rows(page)).toHaveText("(B 3A B) x5");
    await bar(page).getByRole("button", { name: "Mirror" }).click();
    await expect(rows(page)).toHaveText("((B) mirror 3A B) x5");
    await page.getByRole("button", { name: "Undo" }).click();
    await expect(rows(page)).toHaveText("(B 3A B) x5");
    await expect(page.getByTestId("leading")).toHaveText("25");
    const pointed = [
      await page.getByTestId("count-A-0").textContent(),
      await page.getByTestId("count-B-0").textContent(),
    ];
    await save(page);

    await newDesign(page);
    await addToKey(page, "4 mm round, moss");
    await addToKey(page, "4 mm cube, clay");
    await writeRows(page, "(B 3A B) x5");
    await expect(page.getByTestId("leading")).toHaveText("25");
    expect([
      await page.getByTestId("count-A-0").textContent(),
      await page.getByTestId("count-B-0").textContent(),
    ]).toEqual(pointed);
    await expect(page.getByTestId("strand")).toHaveAttribute("data-beads", "25");
  });
});

test("beads 5 to 8 chosen by keyboard, mirrored, undone: the text is byte for byte what it was", async ({ page }) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await writeRows(page, "Row 1:  2H,  (3e r H r 3e) x4  # as it was \nclose: >2H");
  await page.getByRole("button", { name: "Medium", exact: true }).click();
  const before = await rows(page).evaluate((e) =>
    [...e.querySelectorAll(".cm-line")].map((l) => l.textContent).join("\n"),
  );
  await expect(page.getByTestId("strand")).toHaveAttribute("data-form", "ring");
  await strand(page).focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowRight");
  for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+ArrowRight");
  await expect(page.getByTestId("chosen")).toContainText("e r H r");
  await page.keyboard.press("m");
  await expect(rows(page)).toContainText("(2e (e r H r) mirror 3e) x4  # as it was");
  await page.keyboard.press("Control+z");
  await expect
    .poll(() => rows(page).evaluate((e) => [...e.querySelectorAll(".cm-line")].map((l) => l.textContent).join("\n")))
    .toBe(before);
  // A count is typed on the strand; what would be wrong is told and not done.
  await strand(page).focus();
  await page.keyboard.press("Home");
  await page.keyboard.press("4");
  await expect(rows(page)).toContainText("Row 1:  4H,");
  // Passing through goes on behind the row: the beads that are strung stay where they are.
  await bar(page).getByRole("button", { name: "Pass through" }).click();
  await expect(rows(page)).toContainText("(3e r H r 3e) x4 >4H  # as it was");
});

test("a round is drawn as a ring with its later rows around it, and flat if one wants", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  const canvas = page.getByTestId("strand");
  await expect(canvas).toHaveAttribute("data-form", "ring");
  const beads = await canvas.getAttribute("data-beads");
  await expect(page.getByText("A schematic: later rounds stand where the passes tell")).toBeVisible();
  await bar(page).getByRole("button", { name: "Strand", exact: true }).click();
  await expect(canvas).toHaveAttribute("data-form", "strip");
  await expect(canvas).toHaveAttribute("data-beads", beads!);
  const scale = Number(await canvas.getAttribute("data-scale"));
  await bar(page).getByRole("button", { name: "Larger" }).click();
  await expect.poll(async () => Number(await canvas.getAttribute("data-scale"))).toBeCloseTo(scale * 1.4, 5);
});

test("the picture leaves as SVG, true to scale under its ruler, and as PNG", async ({ page }) => {
  await openDesign(page, "Press Bed Bracelet");
  await page.getByRole("button", { name: "mm", exact: true }).click();
  const first = page.waitForEvent("download");
  await bar(page).getByRole("button", { name: "SVG" }).click();
  const svg = readFileSync(await (await first).path(), "utf8");
  const [, width, left, wide] = /width="([\d.]+)mm".*?viewBox="(-?[\d.]+) \S+ ([\d.]+)/.exec(svg)!.map(Number) as [
    number,
    number,
    number,
    number,
  ];
  // One unit of the drawing is one printed millimetre, and the ruler's marks stand at their millimetres.
  expect(width).toBe(wide);
  const marks = [...svg.matchAll(/<text x="(-?[\d.]+)"[^>]*>(\d+) mm</g)].map((m) => [
    Number(m[1]) - 0.6,
    Number(m[2]),
  ]);
  expect(marks.length).toBeGreaterThan(4);
  for (const [x, mm] of marks) expect(x).toBeCloseTo(mm!, 3);
  expect(left).toBeLessThan(0);
  const drawn = async (what: string) => Number(await page.getByTestId("strand").getAttribute(`data-${what}`));
  expect((svg.match(/<use /g) ?? []).length).toBe((await drawn("beads")) + (await drawn("fittings")));
  const second = page.waitForEvent("download");
  await bar(page).getByRole("button", { name: "PNG" }).click();
  expect(
    readFileSync(await (await second).path())
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
});

test("a handed bead makes a mirrored pair, drawn and told on the bench and on the counts sheet", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  const beads = Number(await page.getByTestId("strand").getAttribute("data-beads"));
  await toggleKey(page, "D");
  await page.getByText("Kind, looks and what it hangs by").click();
  await page.getByLabel("one-sided, slanted, or left and right").check();
  await expect(page.getByText("Make a mirrored pair: Door once each way round.")).toBeVisible();
  await expect(page.getByTestId("strand")).toHaveAttribute("data-beads", String(2 * beads));
  await save(page);
  await openMonth(page, "Glaze Shelf");
  await stage(page, "Contents");
  await page.getByRole("button", { name: "Add a design" }).click();
  await page.keyboard.type("kiln");
  await page.keyboard.press("Enter");
  await stage(page, "Counts");
  await expect(page.getByText("Make mirrored pairs:")).toBeVisible();
});

test("a renamed key is followed by every use; unused and unknown keys are marked", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  const beads = await page.getByTestId("leading").textContent();
  await toggleKey(page, "W");
  await page.getByLabel("Letter of Two-hole wedge").fill("Wd");
  await expect(rows(page)).toContainText("(R Wd a Wd) x6");
  await expect(rows(page)).toContainText("# close the ring");
  await expect(page.getByTestId("leading")).toHaveText(beads!);
  // Its number is followed too: nothing changed, so nothing says what it was.
  await expect(page.getByTestId("key-Wd").locator("del")).toHaveCount(0);
  await page.keyboard.press("Control+z");
  await expect(rows(page)).toContainText("(R W a W) x6");
  await addToKey(page, "8 mm round, plum");
  await expect(page.getByText("not used")).toBeVisible();
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.insertText(" Zz");
  await page.getByRole("button", { name: "Add Zz", exact: true }).click();
  await expect(page.getByTestId("count-Zz-0")).toHaveText("2");
});

test("a trial is written down, its differences shown; corrected, it is a new revision with that reason", async ({
  page,
}) => {
  await openDesign(page, "Dye Vat Swings");
  await more(page, "Bench log");
  await page.getByRole("button", { name: "Write a trial down" }).click();
  const form = page.getByRole("form", { name: "A trial" });
  await form.getByLabel("Who made it").selectOption("Wren");
  await form.getByLabel("Minutes").fill("41");
  await form.getByLabel("Used of c", { exact: true }).fill("28");
  await form.getByLabel("What was awkward").fill("The chips turn on the pin");
  await form.getByRole("button", { name: "Write it down" }).click();
  const trial = page.getByTestId("trial").filter({ hasText: "41 min" });
  await expect(trial).toContainText("Wren");
  await expect(trial).toContainText("used 28");
  await expect(trial).toContainText("Minutes an item: none said becomes 41");
  await trial.getByRole("button", { name: "Correct the design" }).click();
  await expect(page.getByLabel("What changed, in a few words")).toHaveValue(/^Trial of \d{4}-\d\d-\d\d: 41 minutes$/);
  await save(page);
  await more(page, "Earlier revisions");
  await expect(
    page.getByRole("dialog", { name: "Revisions" }).getByRole("button", { name: /Revision 2/ }),
  ).toContainText("41 minutes");
});

test("designs are found by a bead in them, put away and taken out again, and copied", async ({ page }) => {
  await page.goto("/designs");
  const cards = page.getByRole("main").getByRole("listitem");
  await expect(cards).toHaveCount(16);
  await page.getByRole("searchbox", { name: "Find a design" }).fill("memory wire");
  await expect.poll(() => cards.count()).toBeLessThan(4);
  await page.getByRole("searchbox", { name: "Find a design" }).fill("");
  await page.getByRole("button", { name: "Put Warp Rope Bracelet away" }).click();
  await expect(cards).toHaveCount(15);
  await page.getByRole("button", { name: "1 put away" }).click();
  await page.getByRole("button", { name: "Take Warp Rope Bracelet out again" }).click();
  await page
    .getByRole("button", { name: "back to the library" })
    .or(page.getByText("Nothing fits that"))
    .first()
    .waitFor();
  await page.reload();
  await expect(cards).toHaveCount(16);
  await page.getByRole("button", { name: "Copy Dye Vat Swings" }).click();
  await expect(page.getByLabel("Name of the design")).toHaveValue("Dye Vat Swings again");
});

test("a bead comes into the key from the jars with its measures, and the design can be asked what differs", async ({
  page,
}) => {
  await openDesign(page, "Press Bed Bracelet");
  await page.getByRole("combobox", { name: "Add to the bead key" }).fill("6mm smoke round");
  await expect(page.locator("[cmdk-item]")).toHaveCount(2);
  await expect(page.locator("[cmdk-item][aria-selected=true]")).toContainText("6 mm glass round, smoke");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("status").filter({ hasText: "6 mm glass round, smoke added." })).toBeVisible();
  await page.getByRole("button", { name: /^More about .*, 6 mm glass round, smoke/ }).click();
  await page.getByRole("button", { name: "mm", exact: true }).click();
  await expect(page.getByLabel("Along the thread").last()).toHaveValue("6");
  await more(page, "Compare sizes and options");
  const dialog = page.getByRole("dialog", { name: "What differs" });
  await expect(dialog.getByRole("columnheader", { name: "Small" })).toBeVisible();
  await expect(dialog.getByRole("row")).not.toHaveCount(0);
});
