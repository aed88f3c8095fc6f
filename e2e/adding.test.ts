import {
  addToKey,
  expect,
  faults,
  newDesign,
  openDesign,
  openMonth,
  rows,
  save,
  sayToKey,
  setUp,
  stage,
  test,
} from "./fixtures.ts";
import { inDemo } from "../core/test/demoDay.ts";

test("Enter takes a jar only where it is what was said; one taken is chosen in Colours already", async ({ page }) => {
  await newDesign(page, "Slipway Bracelet");
  // There is one of 40 mm: another length is another pin.
  await sayToKey(page, "head pin 55 mm");
  await expect(page.getByTestId("key-A")).toContainText("head pin 55 mm");
  await sayToKey(page, "6 mm glass round, celadon");
  await expect(page.getByTestId("key-B")).toContainText("6 mm glass round, celadon");
  await rows(page).click();
  await page.keyboard.type("12B A");
  await save(page);

  await page.getByRole("link", { name: "Plan a month" }).click();
  await page.getByLabel("Month", { exact: true }).fill(inDemo("2027-09"));
  await page.getByLabel("Theme", { exact: true }).fill("Slipway");
  await page.getByRole("button", { name: "Plan it" }).click();
  await page.getByRole("button", { name: "Add a design" }).click();
  await page.keyboard.type("slipway");
  await page.keyboard.press("Enter");
  await stage(page, "Colours");
  await page.getByRole("button", { name: "Add a colourway" }).click();
  await expect(page.getByLabel("Name of the colourway Colourway 1")).toBeFocused();
  await page.keyboard.type("Tide");
  const cell = page.getByRole("button", { name: "6 mm glass round, celadon, Tide: 6 mm glass round, celadon" });
  await expect(cell).toHaveText("celadon");
  await expect(cell).toHaveAttribute("title", "6 mm glass round, celadon");
  await expect(page.getByRole("button", { name: "head pin 55 mm, every colourway: not chosen" })).toBeVisible();
});

test("a component is added for a whole row, as what is typed; the second time its name has the focus too", async ({
  page,
}) => {
  await openMonth(page, "Type Drawer");
  await stage(page, "Colours");
  const cells = page.getByRole("button", { name: /^4 mm bicone, / });
  await expect(cells).toHaveCount(3);
  const many = 3;
  await cells.first().click();
  await page.keyboard.type("4 mm bicone, kelp");
  await page.getByLabel("for the whole row").check();
  await page.getByRole("button", { name: "Add this component" }).click();
  const form = page.getByRole("form", { name: "The new component" });
  await expect(form.getByLabel("Name", { exact: true })).toHaveValue("4 mm bicone, kelp");
  await expect(form.getByLabel("Name", { exact: true })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(form).toBeHidden();
  await expect(page.getByRole("button", { name: /^4 mm bicone, .*: 4 mm bicone, kelp$/ })).toHaveCount(many);

  await page
    .getByRole("button", { name: /^6 mm cube, / })
    .first()
    .click();
  await page.getByRole("button", { name: "Add this component" }).click();
  await expect(form.getByLabel("Name", { exact: true })).toBeFocused();
});

test("hanging a part by its name makes it a part that hangs, and no bead", async ({ page }) => {
  await newDesign(page, "Two Falls");
  await addToKey(page, "6 mm round");
  await addToKey(page, "4 mm cube");
  await rows(page).click();
  await page.keyboard.type("3A hang Drop 3A");
  await page.getByRole("button", { name: "Add a part" }).click();
  await page.getByLabel("Part", { exact: true }).fill("Drop");
  await rows(page).click();
  await page.keyboard.type("2B");
  await page.getByRole("group", { name: "Parts" }).getByRole("button").first().click();
  const offer = page.getByRole("button", { name: "Hang the part Drop?" });
  await expect(offer.first()).toBeVisible();
  // Nothing offers it as a bead.
  await expect(page.getByText("In the rows, not in the key")).toBeHidden();
  await offer.first().click();
  await expect(offer).toHaveCount(0);
  await expect(page.getByTestId("count-A-0")).toHaveText("6");
  await expect(page.getByTestId("count-B-0")).toHaveText("2");
});

test("lengths show their unit inside, and metres stay metres", async ({ page }) => {
  await openDesign(page, "Press Bed Bracelet");
  await page.goto("/jars");
  await page.getByRole("searchbox").fill("CHAIN-35");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  const reorder = page.getByLabel("Order again at");
  await reorder.fill("10 m");
  await page.keyboard.press("Tab");
  await expect(reorder).toHaveValue("10 m");
  await page.getByRole("button", { name: "Save the component" }).click();
  await page.reload();
  await expect(reorder).toHaveValue("10 m");
  await reorder.fill("36");
  await expect(page.locator("label", { hasText: "Order again at" }).locator("[data-unit=in]")).toBeVisible();
});

test("many jars are chosen and changed at once, and that is undone in one step", async ({ page }) => {
  await page.goto("/jars");
  await page.getByRole("searchbox").fill("bicone");
  const found = page.getByRole("table", { name: "Components" }).getByRole("link");
  const many = await found.count();
  expect(many).toBeGreaterThan(3);
  await page.getByLabel("Choose all").check();
  await page.getByRole("button", { name: "Change …" }).click();
  const dialog = page.getByRole("dialog", { name: `Change ${many} components` });
  await dialog.getByLabel("Material").selectOption("resin");
  await dialog.getByLabel("Place").selectOption({ index: 1 });
  await dialog.getByRole("button", { name: `Change ${many}` }).click();
  await expect(page.getByText(new RegExp(`${many} changed, \\d+ moved\\.`, "i"))).toBeVisible();
  await page.getByRole("searchbox").fill("bicone resin");
  await expect(found).toHaveCount(many);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("As it was before.")).toBeVisible();
  await expect(page.getByText("Nothing fits that.")).toBeVisible();

  // Put away: not in the list, and not where beads are chosen, until it is taken out again.
  await page.getByRole("searchbox").fill("4 mm bicone, sepia");
  await page.getByRole("button", { name: "choose none" }).click();
  await page.getByLabel("Choose 4 mm bicone, sepia").check();
  await page.getByRole("button", { name: "Put away" }).click();
  await expect(page.getByText("Nothing fits that.")).toBeVisible();
  await page.getByRole("searchbox").fill("away");
  await expect(found).toHaveCount(1);
  await page.getByRole("button", { name: "Take out again" }).click();
  await page.getByRole("searchbox").fill("4 mm bicone, sepia");
  await expect(found).toHaveCount(1);
});

test("a new name keeps the code, and offers one that goes with it", async ({ page }) => {
  await page.goto("/jars");
  await page.getByRole("searchbox").fill("R06-INK");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await page.getByLabel("Name", { exact: true }).fill("6 mm round, midnight");
  await expect(page.getByLabel("Code", { exact: true })).toHaveValue("R06-INK");
  await page.getByRole("button", { name: "by the new name: 6-MM-ROUN-MIDN" }).click();
  await expect(page.getByLabel("Code", { exact: true })).toHaveValue("6-MM-ROUN-MIDN");
});

test("a committed box says that its contents and colours are a plan now", async ({ page }) => {
  await openMonth(page, "Dye Garden");
  for (const name of ["Contents", "Colours"]) {
    await stage(page, name);
    await expect(page.getByRole("note")).toContainText("This is now a plan.");
  }
  await openMonth(page, "Letterpress");
  await stage(page, "Colours");
  await expect(page.getByRole("note")).toBeHidden();
});

test("the first page opens where work is: the box being packed", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("heading", { name: "Apiary", level: 1 })).toBeVisible();
});

test("help answers a beginner's words with a line and a way there", async ({ page }) => {
  await page.goto("/help");
  const search = page.getByRole("searchbox", { name: "Find in the help" });
  for (const word of [
    "pin",
    "earring",
    "crimp",
    "elastic",
    "knot",
    "postage",
    "backup",
    "wrist",
    "supplier",
    "label",
  ]) {
    await search.fill(word);
    await expect(page.getByTestId("answer").first(), word).toBeVisible();
    await expect(page.getByTestId("answer").first().getByRole("link")).toBeVisible();
  }
  await search.fill("supplier");
  await page.getByRole("link", { name: "To the suppliers" }).click();
  await expect(page.getByRole("form", { name: "People, suppliers and places" })).toBeVisible();
});

test("in what is to be bought of nobody, one name is given to all lines, and stays with the packs", async ({
  page,
  request,
}) => {
  const get = async <T>(path: string) => (await (await request.get(path)).json()) as T;
  const { components } = await get<{
    components: { id: string; version: number; offers: { supplier: string | null }[] }[];
  }>("/api/components");
  const { lines } = await get<{ lines: { component: string }[] }>("/api/buy");
  // Nobody is named for three things that are lacking.
  const wanted = new Set(lines.slice(0, 3).map((l) => l.component));
  const bare = components.filter((c) => wanted.has(c.id));
  const changes = bare.map(({ id, version, offers }) => ({
    id,
    version,
    set: { offers: offers.map((o) => ({ ...o, supplier: null })) },
  }));
  expect((await request.post("/api/components/changes", { data: { changes } })).ok()).toBe(true);
  await page.goto("/buy");
  await expect(page.getByRole("heading", { name: "Nobody named sells it" })).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.getByLabel("Who sells them").fill("Pell Mell Beads");
  await page.getByRole("button", { name: /^Sells (it|all \d+)$/ }).click();
  await expect(page.getByRole("heading", { name: "Nobody named sells it" })).toBeHidden();
  // What nobody sold before can be ordered now.
  await page.getByRole("button", { name: "Write the orders" }).click();
  await expect(page.getByLabel("Number of the order to Pell Mell Beads")).toBeVisible();
  await page.goto("/workshop/people");
  await expect(page.getByLabel(/^Lead days of Pell Mell Beads/)).toBeVisible();
});

test.describe("an empty workshop", () => {
  test.use({ demo: false });

  test("its currency can change while nothing is ordered, and says what becomes of figures", async ({ page }) => {
    await page.goto("/");
    await expect(page.getByRole("form", { name: "A new workshop" })).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await setUp(page);
    await page.goto("/workshop");
    await page.getByLabel("Currency").selectOption("JPY");
    await expect(page.getByText(/what is typed keeps its figures: 2\.40 \w{3} is then 2\.40 JPY/)).toBeVisible();
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await expect(page.getByRole("button", { name: "Save", exact: true })).toBeDisabled();
    await page.reload();
    await expect(page.getByLabel("Currency")).toHaveValue("JPY");
  });
});
