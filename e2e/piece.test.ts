import type { Page } from "@playwright/test";
import { addToKey, expect, newDesign, openDesign, partFold, rows, save, test, writeRows } from "./fixtures.ts";

const bar = (page: Page) => page.getByRole("group", { name: "Building" });
const canvas = (page: Page) => page.getByTestId("strand");
const put = (page: Page, what: string) => bar(page).getByLabel("Put on the strand").selectOption(what);
/** Makes the part at hand a sub-assembly, and says under which key. */
const asSub = async (page: Page, name: string, key: string) => {
  await page.getByLabel("Part", { exact: true }).fill(name);
  const more = page.getByLabel("made apart and used by a letter of its own");
  if (!(await more.isVisible())) await partFold(page).click();
  await more.check();
  await page.getByLabel("Its letter").fill(key);
};
const addPart = (page: Page) => page.getByRole("button", { name: "Add a part" }).click();

test.describe("an empty workshop", () => {
  test.use({ demo: false });

  test("a necklace joined from parts, built by pointing, is 18 in in all", async ({ page }) => {
    await newDesign(page, "Lock Gate Necklace");
    await addToKey(page, "4 mm round");
    await addToKey(page, "toggle ring 12 mm");
    await addToKey(page, "chain 4 mm");

    // The front: 24 beads of 4 mm.
    await put(page, "A");
    await bar(page).getByLabel("How many of the chosen bead").fill("24");
    await expect(rows(page)).toHaveText("24A");
    await asSub(page, "Front", "FR");
    // A side of chain that takes up what is left.
    await addPart(page);
    await page.getByLabel("Strung on").selectOption("C");
    await put(page, "skip to length");
    await asSub(page, "Side", "SD");
    // The whole, joined.
    await addPart(page);
    await page.getByLabel("Part", { exact: true }).fill("Necklace");
    await page.getByLabel("Target length").fill("18in");
    for (const what of ["join B", "rest SD", "FR", "rest SD", "join B"]) await put(page, what);
    await expect(rows(page)).toHaveText("join B rest SD FR rest SD join B");

    // 457.2 − 24 − 96 = 337.2, half of it 168.6: 42 links of 4 mm on either side, 456 mm in all.
    const tally = page.getByRole("complementary").last();
    await expect(tally).toContainText("Necklace comes out");
    await page.getByRole("button", { name: "mm", exact: true }).click();
    await expect(tally).toContainText("456 mm");
    await expect(tally).toContainText("1.2 mm");
    // Seen as worn, every bead in it, with no problem left.
    await expect(canvas(page)).toHaveAttribute("data-form", "worn");
    await expect(canvas(page)).toHaveAttribute("data-beads", "26");
    await expect(bar(page).getByRole("button", { name: "As worn" })).toHaveAttribute("aria-pressed", "true");
    await expect(tally.getByText("What is wrong")).toHaveCount(0);
    await save(page);

    // A bead of the front, pointed at in the whole, takes one to the front.
    const box = (await canvas(page).boundingBox())!;
    const scale = Number(await canvas(page).getAttribute("data-scale"));
    await page.mouse.click(box.x + box.width / 2, box.y + box.height - 2 * scale - 2 * scale);
    await expect(page.getByLabel("Part", { exact: true })).toHaveValue("Front");
    await expect(page.getByTestId("chosen")).toContainText("1 bead");
    await page.keyboard.press("Delete");
    await expect(rows(page)).toHaveText("12A 11A");
    await expect(canvas(page)).toHaveAttribute("data-beads", "25");
  });

  test("an earring with two unlike dangles from one loop, built by pointing", async ({ page }) => {
    await newDesign(page, "Two Falls");
    await addToKey(page, "4 mm round");
    await addToKey(page, "4 mm cube");
    await addToKey(page, "ear wire");
    await put(page, "A");
    await asSub(page, "Short fall", "SF");
    await addPart(page);
    await put(page, "B");
    await bar(page).getByLabel("How many of the chosen bead").fill("3");
    await asSub(page, "Long fall", "LF");
    await addPart(page);
    await page.getByLabel("Part", { exact: true }).fill("Earring");
    await page.getByLabel("An item needs").fill("2");
    await put(page, "hang SF");
    await put(page, "hang LF");
    await expect(rows(page)).toHaveText("hang (SF | LF)");
    await partFold(page).click();
    await page.getByRole("button", { name: "Add what this part takes", exact: true }).click();
    await page.getByLabel("What, findings of this part that no row names").selectOption("C");
    // A pair: one short and one long fall each, under two ear wires; it hangs 12 mm deep.
    await expect(canvas(page)).toHaveAttribute("data-form", "worn");
    await expect(canvas(page)).toHaveAttribute("data-beads", "8");
    await page.getByRole("button", { name: "mm", exact: true }).click();
    await expect(page.getByRole("complementary").last()).toContainText("Hangs below Earring");
    await expect(page.getByRole("complementary").last()).toContainText("12 mm");
    await expect(page.getByTestId("count-C-0")).toHaveText(/2/);
  });
});

test("what a part is drawn as is proposed with its reason, and is what somebody says", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  await partFold(page).click();
  await expect(page.getByText("since a later row passes through the beads of the first")).toBeVisible();
  await expect(canvas(page)).toHaveAttribute("data-form", "ring");
  await page.getByLabel("Drawn as").selectOption("strand");
  await expect(canvas(page)).toHaveAttribute("data-form", "strip");
  await expect(page.getByText("since a later row passes")).toHaveCount(0);
});

test("a number that differs by size, for each bead, and from what another cut leaves", async ({ page }) => {
  await openDesign(page, "Lock Keeper Cuff");
  await partFold(page).click();
  // 4 links of stone chain for each round, 9 of them: 12 mm each.
  const tally = page.getByRole("complementary").last();
  await page.getByRole("button", { name: "mm", exact: true }).click();
  await expect(tally).toContainText("9 × 4 links (12 mm)");
  await page.getByRole("button", { name: "Large", exact: true }).click();
  await expect(tally).toContainText("11 × 4 links (12 mm)");
  await expect(tally).toContainText("2 × 7 links (21 mm)");
  await expect(page.getByTestId("count-O-1")).toContainText("11");
  await expect(page.getByTestId("count-O-1")).toContainText("9");
  await page.getByLabel("from what another cut leaves").first().check();
  await expect(tally).toContainText("from what those leave");
});

test("what is said wrongly is said once, with the mend; what a word does is coloured and completed", async ({
  page,
}) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await writeRows(page, "(2H 3e) x6 mirror");
  const tally = page.getByRole("complementary").last();
  await expect(tally.getByText("Put all that it turns in brackets")).toHaveCount(1);
  await writeRows(page, "((2H 3e) x6) mirror around (r H r)");
  await expect(tally.getByText("Put all that it turns in brackets")).toHaveCount(0);
  await expect(tally).toContainText("but nothing in its rows reaches for it");
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" (H) x3 spa");
  await expect(page.locator(".cm-tooltip-autocomplete")).toContainText("spaced");
});
