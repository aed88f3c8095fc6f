/** The bench judges: lengths, what does not fit, methods, and the maker's sheet, as a person meets them. */
import type { Page } from "@playwright/test";
import { readFileSync } from "node:fs";
import { expect, faults, more, openDesign, openMonth, rows, save, stage, test, toggleKey } from "./fixtures.ts";

const tally = (page: Page) => page.getByRole("complementary").last();
const inMm = (page: Page) => page.getByRole("button", { name: "mm", exact: true }).click();
const part = (page: Page, name: string) =>
  page.getByRole("group", { name: "Parts" }).getByRole("button", { name }).first().click();
const dialog = (page: Page, name: string | RegExp) => page.getByRole("dialog", { name });
const finding = (page: Page, words: string) =>
  dialog(page, "Does it fit?").getByRole("listitem").filter({ hasText: words });

test("a length is reached by a suggestion: the closest way first, its picture, and one press", async ({ page }) => {
  await openDesign(page, "Glaze Drip Necklace");
  await inMm(page);
  await expect(tally(page)).toContainText("397.6 mm");
  await page.getByRole("button", { name: /^Length in all/ }).click();
  const open = dialog(page, "Length of Strand");
  await expect(open.getByRole("region", { name: "How long it is" })).toContainText("±");
  await open.getByLabel("Make it this long").fill("16 in");
  await page.keyboard.press("Tab");
  const ways = open.getByRole("list", { name: "Ways to this length" }).getByRole("listitem");
  await expect(ways.first()).toBeVisible();
  expect(await ways.count()).toBeGreaterThan(3);
  await expect(ways.first()).toContainText("406.4 mm");
  await expect(ways.first().locator("canvas")).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await ways
    .first()
    .getByRole("button", { name: /^Make it so/ })
    .click();
  await expect(open).toHaveCount(0);
  await expect(rows(page)).not.toContainText("x14, 3O 2b) mirror around P");
  await expect(tally(page)).toContainText("406.4 mm");
  // It is one step of the draft, and can be taken back as any other.
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(tally(page)).toContainText("397.6 mm");
});

test("a fit check stops one, and there are two ways out", async ({ page }) => {
  await openDesign(page, "Sampler: what passes");
  const brief = tally(page).getByRole("region", { name: "Does it fit" });
  await expect(brief).toContainText(
    "2 passes of BW, beading wire need a hole of 0.96 mm; A, 11/0 seed, slate, has 0.8 mm.",
  );
  await brief.getByRole("button", { name: /^Ways out/ }).click();
  const hole = finding(page, "need a hole of 0.96 mm");
  await hole.getByRole("button", { name: /Take a bead with a wider hole/ }).click();
  await expect(hole).toHaveCount(0);
  expect(await faults(page)).toEqual([]);
  // What is wrong with the rest is told still: the cover, folded instead of pressed flat, closes.
  const cover = finding(page, "pressed flat");
  await cover.getByRole("button", { name: "Fold the crimp instead of pressing it flat" }).click();
  await expect(cover).toHaveCount(0);
  await page.keyboard.press("Escape");
  await part(page, "Cover");
  await expect(page.getByRole("region", { name: "Ends, links and knots" })).toContainText("Folded crimp, both ends");
  // The other way out of the first: back again, and thinner wire.
  await page.getByRole("button", { name: /^Undo/ }).click();
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(brief).toContainText("need a hole of 0.96 mm");
  await brief.getByRole("button", { name: /^Ways out/ }).click();
  await finding(page, "need a hole of 0.96 mm")
    .getByRole("button", { name: /Take thinner stringing/ })
    .click();
  await expect(finding(page, "need a hole of 0.96 mm")).toHaveCount(0);
});

test("a finding is let stand by a note that stays with the revision, until it gets worse", async ({ page }) => {
  await openDesign(page, "Sampler: what passes");
  await page.getByRole("combobox", { name: /^Who/ }).selectOption({ label: "Wren" });
  await tally(page)
    .getByRole("button", { name: /^Ways out/ })
    .click();
  const hole = finding(page, "need a hole of 0.96 mm");
  await hole.getByRole("button", { name: "Let it stand" }).click();
  await hole.getByLabel("Why it may stand").fill("Tried it: with a push it goes through");
  await expect(hole.getByLabel("Who says so")).toHaveValue("Wren");
  await hole.getByRole("button", { name: "Keep this note" }).click();
  const stands = dialog(page, "Does it fit?").getByRole("region", { name: "Let stand" });
  await expect(stands).toContainText("“Tried it: with a push it goes through” Wren");
  await page.keyboard.press("Escape");
  await save(page);
  await page.reload();
  const brief = tally(page).getByRole("region", { name: "Does it fit" });
  await expect(brief).not.toContainText("need a hole of 0.96 mm");
  await brief.getByRole("button", { name: /^Ways out/ }).click();
  await expect(stands).toContainText("with a push it goes through");
  await page.keyboard.press("Escape");
  // It stands with the revision, and is read there.
  await more(page, "Earlier revisions");
  await page.getByRole("button", { name: /^Revision 2/ }).click();
  await expect(page.getByRole("dialog", { name: "Revisions" })).toContainText(
    "Let stand in it: “Tried it: with a push it goes through” Wren",
  );
  await page.keyboard.press("Escape");
  // Once more through the same beads is worse than what was let stand.
  await part(page, "Hole");
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.insertText("\nmore: >12A");
  await expect(brief).toContainText("3 passes of BW, beading wire need a hole of 1.03 mm");
});

test("another crimp changes bill, tools and minutes, in lines that say where they come from", async ({ page }) => {
  await openDesign(page, "Comb and Cell Collar");
  await part(page, "Front");
  const made = page.getByRole("region", { name: "Ends, links and knots" });
  await made.getByRole("button", { name: "Choose how they are made" }).click();
  const choose = dialog(page, "How Front is made");
  await expect(choose.getByLabel("Method", { exact: true })).toHaveValue("crimp-folded 1");
  const brings = choose
    .getByRole("region", { name: "It brings" })
    .or(choose.getByRole("region", { name: "What it brings" }));
  await expect(brings).toContainText("2 × 2 x 2 mm crimp tube");
  await expect(brings).toContainText("crimping pliers");
  await expect(brings).toContainText("3 min hands on");
  await choose.getByLabel("Cover").selectOption("cover");
  await expect(brings).toContainText("2 × 3 mm crimp cover");
  await expect(brings).toContainText("4 min hands on");
  expect(await faults(page)).toEqual([]);
  await choose.getByRole("button", { name: "Make it so" }).click();
  await expect(made).toContainText("Folded crimp, both ends; 2 CT; 2 CC");
  await expect(tally(page).getByRole("button", { name: /^More about CC, / })).toBeVisible();
  // Rounded, on a single wire: the covers go, and a short dummy piece of the wire comes.
  await made.getByRole("button", { name: "Choose another" }).click();
  await choose.getByLabel("Method", { exact: true }).selectOption("crimp-rounded 1");
  await choose.getByLabel("Wires in it").selectOption("single");
  await expect(brings).toContainText("rounding crimp pliers");
  await choose.getByRole("button", { name: "Make it so" }).click();
  await inMm(page);
  await expect(made).toContainText("Rounded crimp, both ends; 2 CT; 2 BW of 15 mm");
  await page.getByText("The whole item: what it takes").click();
  const hand = page.getByRole("group", { name: "To have at hand, not in the kit" });
  await expect(hand.getByRole("textbox").first()).toHaveValue("rounding crimp pliers");
  await save(page);
});

test("an ear wire bought or made: what each costs, and how long it takes", async ({ page }) => {
  await openDesign(page, "Weir Drops");
  await part(page, "Earring");
  await page
    .getByRole("region", { name: "Ends, links and knots" })
    .getByRole("button", { name: "Choose another" })
    .click();
  const choose = dialog(page, "How Earring is made");
  await choose.getByLabel("Method", { exact: true }).selectOption("ear-wire-made 1");
  const table = choose.getByRole("table", { name: "Make or buy, one of it" });
  await expect(table.getByRole("row", { name: /Ear wire, bought £\d/ })).toBeVisible();
  // 45 mm of a spool of 6 m at £4.20 and three minutes of work.
  await expect(table.getByRole("row", { name: /Ear wire, made £0.03 3 £/ })).toBeVisible();
});

test("a workshop's own method comes from a file, and is refused in place where it is none", async ({ page }) => {
  await openDesign(page, "Glaze Drip Necklace");
  await page.getByRole("button", { name: "Choose how they are made" }).click();
  const choose = dialog(page, "How Strand is made");
  const give = (name: string, text: string) =>
    choose.getByLabel("Method file").setInputFiles({ name, mimeType: "application/json", buffer: Buffer.from(text) });
  await give("half.method.json", "{ not JSON");
  await expect(choose.getByRole("alert")).toContainText("This file is not JSON");
  await give("other.method.json", JSON.stringify({ format: "another", id: "x" }));
  await expect(choose.getByRole("alert")).toContainText("This is not a Jar Count method file.");
  const own = {
    format: "jar-count/method",
    version: 1,
    id: "lane-knot",
    name: "Lane knot",
    about: "Two half hitches, as it is done in the lane.",
    for: "knot",
    places: ["one end"],
    tools: [{ name: "fid" }],
    minutes: [{ handsOn: 3, waiting: 0 }],
  };
  await give("lane-knot.method.json", JSON.stringify(own));
  await expect(choose.getByLabel("Method", { exact: true })).toHaveValue("lane-knot 1");
  await choose.getByRole("button", { name: "Make it so" }).click();
  await expect(page.getByRole("region", { name: "Ends, links and knots" })).toContainText("Lane knot, one end");
  await save(page);
});

test("the rows in plain words follow typing, at three reading levels", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  await page.getByText("The rows in plain words").click();
  const words = page.getByRole("list", { name: "Rows in words" });
  await expect(words).toContainText(
    "ring: Pick up one 4 mm fire-polished round (R), one Two-hole wedge (W), one 15/0 seed (a) and 1 W. Do this 6",
  );
  await page.getByRole("button", { name: "short", exact: true }).click();
  await expect(words).toContainText(
    "ring: one 4 mm fire-polished round (R), one Two-hole wedge (W), one 15/0 seed (a) and 1 W. Do this 6 times.",
  );
  await page.getByRole("button", { name: "every move", exact: true }).click();
  await expect(words).toContainText("Pass the needle through W again, and pull it snug.");
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.insertText(" 2b");
  await expect(words).toContainText(/2 (b|of 11\/0 seed \(b\)) with the needle/);
});

test("the level says why, and stands by hand with a reason", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  await expect(tally(page)).toContainText("practised");
  await tally(page).getByText("Why", { exact: true }).click();
  await expect(tally(page)).toContainText("It is stitched.");
  await page.getByText("The whole item: what it takes").click();
  await page.getByLabel("Level").selectOption("demanding");
  await page.getByLabel("Why this level").fill("Two-hole beads turn in the hand");
  await expect(tally(page)).toContainText("Set by hand: Two-hole beads turn in the hand");
});

test("the maker's sheet: read on the page, downloaded, its text read and its picture measured", async ({ page }) => {
  await openMonth(page, "Glaze Shelf");
  await stage(page, "Lists");
  await page.getByRole("button", { name: "Maker’s sheet" }).click();
  const sheet = page.getByRole("article", { name: "Maker’s sheet" });
  await expect(sheet).toContainText("Kiln Door Earrings");
  await expect(sheet).toContainText("Two-hole wedge, tenmoku");
  await expect(sheet.getByRole("list", { name: "Steps of Door" })).toContainText("Do this 6 times.");
  expect(await faults(page)).toEqual([]);
  // On the page a millimetre is a millimetre: 96 px an inch.
  const picture = sheet.getByAltText("Door, at real size");
  const svg = decodeURIComponent((await picture.getAttribute("src"))!);
  const mm = Number(/width="([\d.]+)mm"/.exec(svg)![1]);
  expect((await picture.boundingBox())!.width).toBeCloseTo((mm * 96) / 25.4, 0);
  await expect(sheet.getByAltText(/^Door after /)).toHaveCount(4);

  await page.getByRole("button", { name: "every move" }).click();
  await expect(sheet).toContainText("with the needle");
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "PDF, Letter" }).click();
  const file = await (await waiting).path();
  const { getDocument, OPS } = await import("pdfjs-dist/legacy/build/pdf.mjs");
  const pdf = await getDocument({ data: new Uint8Array(readFileSync(file)), useSystemFonts: true }).promise;
  let text = "";
  let scaled = false;
  for (let n = 1; n <= pdf.numPages; n++) {
    const leaf = await pdf.getPage(n);
    expect(leaf.view[2]).toBeCloseTo(612, 0);
    const { items } = await leaf.getTextContent();
    text += items.map((i) => ("str" in i ? i.str : "")).join(" ");
    const { fnArray, argsArray } = await leaf.getOperatorList();
    scaled ||= fnArray.some(
      (fn, i) => fn === OPS.transform && Math.abs((argsArray[i] as number[])[0]! - 72 / 25.4) < 1e-4,
    );
  }
  text = text.replace(/\s+/g, " ");
  expect(text).toMatch(/Pick up one [^.]+ \(R\), one [^.]+ \(W\), one 15\/0 seed[^.]* \(a\) and 1 W with the needle/);
  expect(text).toContain("Two-hole wedge, tenmoku");
  expect(scaled).toBe(true);

  // Another design and colourway of the box; in inches by the person's choice.
  await page.getByLabel("Design").selectOption({ label: "Glaze Drip Necklace" });
  await page.getByRole("button", { name: "Tenmoku", exact: true }).click();
  await expect(sheet).toContainText("Glaze Shelf, Tenmoku");
  await expect(sheet).toContainText(/Comes out at 16 \d+\/\d+ in/);
});

test("the sheet says how ends are made, what each takes and with which tools", async ({ page }) => {
  await openMonth(page, "Letterpress");
  await stage(page, "Contents");
  await page.getByRole("button", { name: "Add a design" }).click();
  await page.keyboard.type("sluice");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: "Sluice Gate Necklace" })).toBeVisible();
  await stage(page, "Lists");
  await page.getByRole("button", { name: "Maker’s sheet" }).click();
  await page.getByLabel("Design").selectOption({ label: "Sluice Gate Necklace" });
  const ends = page.getByRole("list", { name: "Ends, links and knots of Front" });
  await expect(ends).toContainText("Folded crimp, with a cover.");
  await expect(ends).toContainText("Takes 2 CC and 2 X.");
  await expect(ends).toContainText("With crimping pliers and side cutters.");
  await expect(page.getByRole("list", { name: "Ends, links and knots of Stone drop" })).toContainText("Takes 1 HP.");
  expect(await faults(page)).toEqual([]);
});

test("what a chosen component does wrong is told with the colours, and may stand there by a note", async ({ page }) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await toggleKey(page, "H");
  await openMonth(page, "Letterpress");
  await stage(page, "Colours");
  const wrong = page.getByRole("region", { name: "What was chosen and does not fit" });
  await expect(page.getByRole("region", { name: "Colour tray", exact: true })).toBeVisible();
  await expect(wrong).toHaveCount(0);
  // The jar's hole is measured anew, and is narrower than was thought.
  await page.goto("/jars");
  await page.getByRole("searchbox").fill("2 mm steel round");
  await page
    .getByRole("link", { name: /2 mm steel round/ })
    .first()
    .click();
  const form = page.getByRole("form", { name: "The component" });
  await form.getByLabel("Hole", { exact: true }).fill("0.9 mm");
  await form.getByRole("button", { name: "Save the component" }).click();
  await expect(form.getByText("Saved.")).toBeVisible();
  await openMonth(page, "Letterpress");
  await stage(page, "Colours");
  await expect(wrong).toContainText("Press Bed Bracelet · every colourway");
  await expect(wrong).toContainText("need a hole of 0.97 mm; v, 2 mm round, has 0.9 mm.");
  await wrong.getByRole("button", { name: "Let it stand" }).first().click();
  await page.getByRole("combobox", { name: /^Who/ }).selectOption({ label: "Wren" });
  await wrong.getByLabel("Why it may stand").fill("Reamed by hand");
  await wrong.getByRole("button", { name: "Keep this note" }).click();
  await expect(wrong).toContainText("Stands: “Reamed by hand” Wren, ");
  expect(await faults(page)).toEqual([]);
});
