import { expect, faults, openDesign, openMonth, stage, test } from "./fixtures.ts";

test.describe("an empty workshop", () => {
  test.use({ demo: false });
  test("every room says what belongs in it and offers the first step", async ({ page }) => {
    for (const [path, says, step] of [
      ["/jars", "No jars yet", "Add the first component"],
      ["/designs", "No designs yet", "New design"],
      ["/orders", "No orders yet", "Write down an order"],
      ["/stocktakes", "No walk yet", "Begin a walk"],
      ["/", "A new workshop", "See the invented workshop"],
    ] as const) {
      await page.goto(path);
      await expect(page.getByRole("heading", { name: says }).last()).toBeVisible();
      await expect(page.getByRole("main").getByText(step).first()).toBeVisible();
    }
    await page.goto("/orders");
    await expect(page.getByText("add one in the workshop")).toBeVisible();
    await page.goto("/stocktakes");
    await expect(page.getByRole("button", { name: "Begin a walk" })).toBeDisabled();
    await page.goto("/jars/00000000-0000-4000-8000-000000000000");
    await expect(page.getByRole("heading", { name: "Not here" })).toBeVisible();
  });

  test("people, suppliers and places are written down, and what is wrong is told in place", async ({ page }) => {
    await page.goto("/workshop/people");
    await page.getByRole("button", { name: "Add a person" }).click();
    await page.getByRole("button", { name: "Save people, suppliers and places" }).click();
    await expect(page.getByText("Give it a name.")).toBeVisible();
    await page.getByLabel("Person 1").fill("Tobias");
    await page.getByRole("button", { name: "Add a supplier" }).click();
    await page.getByLabel("Supplier 1").fill("Marl and Tin");
    await page.getByLabel("Lead days of Marl and Tin").fill("9");
    await page.getByRole("button", { name: "Add a place" }).click();
    await page.getByLabel("Code of place 2").fill("two words");
    await page.getByLabel("Name of place two words").fill("Attic");
    await page.getByRole("button", { name: "Save people, suppliers and places" }).click();
    await expect(page.getByRole("alert").first()).toContainText("without spaces");
    await page.getByLabel("Code of place 2").fill("ATTIC");
    await page.getByRole("button", { name: "Save people, suppliers and places" }).click();
    await expect(page.getByRole("alert")).toHaveCount(0);
    await page.getByLabel("Who").selectOption("Tobias");
    await page.reload();
    await expect(page.getByLabel("Who").locator("option:checked")).toHaveText("Tobias");
    await expect(page.getByLabel("Lead days of Marl and Tin")).toHaveValue("9");
    await page.goto("/workshop");
    await page.getByLabel("Address on labels").fill("my shed");
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await expect(page.getByText("Write an address such as http://192.168.1.20:4321")).toBeVisible();
  });
});

test("a very long name stays in its place in every list, at a tablet's width", async ({ page }) => {
  const long = "Hand-pressed two-hole tablet with a picasso edge and an aged copper core, second firing "
    .repeat(2)
    .trim();
  await page.setViewportSize({ width: 768, height: 1024 });
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("R08-HONE");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await page.getByLabel("Name", { exact: true }).fill(long);
  await page.getByRole("button", { name: "Save the component" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(long);
  const fits = () => page.evaluate(() => document.documentElement.scrollWidth);
  expect(await fits()).toBeLessThanOrEqual(768);
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("hand-pressed");
  await expect(page.getByTitle(long).first()).toBeVisible();
  expect(await fits()).toBeLessThanOrEqual(768);
  await openMonth(page, "Apiary");
  for (const name of ["Counts", "Money", "Colours"]) {
    await stage(page, name);
    await expect(page.getByRole("navigation", { name: "Stages of the box" })).toBeVisible();
    expect(await fits(), name).toBeLessThanOrEqual(768);
  }
  await openDesign(page, "Press Bed Bracelet");
  await expect(page.getByTestId("strand")).toBeVisible();
  expect(await fits()).toBeLessThanOrEqual(768);
});

test("what is spoken for and on the way opens to whom and whence; a jar tells where it is used", async ({ page }) => {
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("R08-HONE");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await page.getByRole("button", { name: "What 40 are spoken for" }).click();
  await expect(page.getByTestId("origin").filter({ hasText: "Replacements for Apiary" })).toContainText("40");
  await page.keyboard.press("Escape");
  // 2,050 less the 24 of each of April's 70 boxes in honey, which are packed, and the one that broke.
  await page.getByRole("button", { name: /^Where 369 on hand are/ }).click();
  await expect(page.getByTestId("origin-total")).toHaveText("369");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Where 300 on the way come from" }).click();
  await page.getByRole("link", { name: /order LG-0412/ }).click();
  await expect(page.getByRole("heading", { name: "Order LG-0412" })).toBeVisible();
  await page.goBack();
  await page
    .getByRole("region", { name: "Where it is used" })
    .getByRole("link", { name: "Smoke and Honey Stretch Bracelet" })
    .click();
  await expect(page.getByLabel("Name of the design")).toHaveValue("Smoke and Honey Stretch Bracelet");
});

test("a table taken out comes in again as it is, and an import can be stopped", async ({ page }) => {
  await page.goto("/tables/components");
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Take components out" }).click();
  const path = await (await waiting).path();
  await page.getByLabel("Table file").setInputFiles(path);
  await expect(page.getByTestId("preview")).toContainText("122 as they are");
  await expect(page.getByTestId("preview")).toContainText("0 refused");
  // A long one is stopped while it is looked at.
  const lines = ["code,name", ...Array.from({ length: 40_000 }, (_, i) => `L${i},line ${i}`)].join("\n");
  await page
    .getByLabel("Table file")
    .setInputFiles({ name: "long.csv", mimeType: "text/csv", buffer: Buffer.from(lines) });
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByRole("button", { name: "Choose a file" })).toBeVisible();
  await page.goto("/jars");
  await expect(page.getByText("122 components")).toBeVisible();
});

test("a supplier's price list is asked for, looked at line by line, and brings the new prices in", async ({ page }) => {
  await page.goto("/tables/offers");
  await page.getByLabel("Or a supplier's price list (simulated)").selectOption({ label: "Tinker Row Findings" });
  await page.getByRole("button", { name: "Ask for it" }).click();
  await expect(page.getByRole("heading", { name: "Tinker Row Findings, price list.csv" })).toBeVisible();
  const preview = page.getByTestId("preview");
  await expect(preview).toContainText("0 refused");
  await page.getByRole("button", { name: /^Write/ }).click();
  await expect(page.getByRole("status")).toContainText(/Written: 0 new, [1-9]\d* changed/);
  await page.getByRole("button", { name: "Ask for it" }).click();
  await expect(preview).toContainText("0 new0 changed");
});

test("the workshop leads to the books, which agree, and are checked again when asked", async ({ page }) => {
  await page.goto("/workshop/data");
  await page.getByRole("link", { name: "Hold every jar against the ledger" }).click();
  await expect(page.getByRole("heading", { name: "Books" })).toBeVisible();
  await expect(page.getByTestId("leading")).toHaveText("None");
  await expect(page.getByRole("status").filter({ hasText: "movements" })).toContainText("122 components");
  const again = page.waitForResponse((r) => r.url().endsWith("/api/books"));
  await page.getByRole("button", { name: "Check again" }).click();
  expect((await again).status()).toBe(200);
  await expect(page.getByTestId("leading")).toHaveText("None");
});

test("books that differ name the jars, each leading to its count", async ({ page }) => {
  const differ = [
    {
      component: "6f1c2f2e-0000-4000-8000-000000000001",
      code: "R06-SMOK",
      name: "6 mm round",
      ledger: 40,
      balance: 41,
    },
  ];
  const books = { checkedAt: "2027-03-01T02:20:00Z", movements: 300, components: 120, differ };
  await page.route("**/api/books", (route) => route.fulfill({ json: books }));
  await page.goto("/books");
  await expect(page.getByTestId("leading")).toHaveText("1");
  const row = page.getByTestId("differs");
  await expect(row).toContainText("40");
  await expect(row).toContainText("41");
  await expect(row.getByRole("link", { name: "6 mm round" })).toHaveAttribute("href", /\/count$/);
});

test("a page that stops says so in place, and the way on is there", async ({ page }) => {
  await page.route(/\/assets\/books-.*\.js$/, (route) =>
    route.fulfill({
      contentType: "text/javascript",
      body: 'export function BooksPage() { throw new Error("a page left out on purpose"); }',
    }),
  );
  await page.goto("/books");
  await expect(page.getByRole("heading", { name: "This page has stopped" })).toBeVisible();
  await expect(page.getByRole("alert")).toContainText("a page left out on purpose");
  expect(await faults(page)).toEqual([]);
  await page.getByRole("link", { name: "Back to the months" }).click();
  await expect(page.getByRole("heading", { name: "Apiary", level: 1 })).toBeVisible();
  await page.unroute(/\/assets\/books-.*\.js$/);
  await page.goto("/books");
  await expect(page.getByRole("heading", { name: "Books" })).toBeVisible();
});
