import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import Papa from "papaparse";
import { expect, test } from "./fixtures.ts";

const openJar = async (page: Page, code: string) => {
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill(code);
  const table = page.getByRole("table", { name: "Components" });
  await expect(table.getByRole("row")).toHaveCount(2);
  await table.getByRole("link").click();
  await expect(page.getByTestId("on-hand")).toBeVisible();
};

/** Puts so much on the simulated scale and takes its reading in one of the steps. */
const weigh = async (page: Page, grams: number, step: string) => {
  await page.getByLabel("Lies on the simulated scale, grams").fill(String(grams));
  await page.getByRole("button", { name: "Put on" }).click();
  await page
    .getByRole("region", { name: step })
    .getByRole("button", { name: new RegExp(`^Take ${grams.toFixed(1).replace(".", "\\.")}`) })
    .click();
};

test("anything is found by words, numbers and states, and a search can be kept", async ({ page }) => {
  await page.goto("/jars");
  const search = page.getByRole("searchbox", { name: "Find a component" });
  await search.fill("honey round hole>1.1");
  const table = page.getByRole("table", { name: "Components" });
  await expect(table.getByRole("row")).toHaveCount(2);
  await expect(table).toContainText("8 mm glass round, honey");
  await page.getByRole("button", { name: "Keep this search" }).click();
  await search.fill("low");
  await expect(page.getByRole("status").filter({ hasText: "of 122" })).toBeVisible();
  await page.reload();
  await page.getByRole("button", { name: "honey round hole>1.1", exact: true }).click();
  await expect(table.getByRole("row")).toHaveCount(2);
  // By keyboard: down into the list, and c counts the jar.
  await search.press("ArrowDown");
  await expect(table.getByRole("link")).toBeFocused();
  await page.keyboard.press("c");
  await expect(page.getByRole("heading", { name: "Count this jar" })).toBeVisible();
});

test("a jar is counted on the simulated scale, with its ±, what dominates it, and what would bring it down", async ({
  page,
}) => {
  await openJar(page, "B04-PRUS");
  await page.getByRole("link", { name: "Count", exact: true }).click();
  await page.getByRole("button", { name: "Use the simulated scale" }).click();
  await page.getByText("How it is made").click();
  await page.getByLabel("Readability, g").fill("0.001");
  await weigh(page, 0.8, "Counted pieces");
  await weigh(page, 32.1, "The full jar");
  await expect(page.getByText("Say what the empty jar weighs")).toBeVisible();
  await page.getByLabel("Empty jar, grams").fill("20.1");
  await expect(page.getByTestId("weighed")).toHaveText(/^(29[4-9]|30[0-6]) ± \d+$/);
  await expect(page.getByText("Most of the ± is how few pieces were sampled")).toBeVisible();
  await page.getByLabel("Wanted plus or minus").fill("3");
  await expect(page.getByText(/^sample \d+ pieces in all$/)).toBeVisible();
  // The cable is pulled: told, and nothing that was weighed is lost.
  await page.getByRole("button", { name: "Pull the cable" }).click();
  await expect(page.getByRole("alert")).toContainText("its cable was pulled");
  const answer = (await page.getByTestId("weighed").textContent())!;
  const [n] = answer.split(" ± ") as [string, string];
  await page.getByRole("button", { name: `Set the jar to ${n}` }).click();
  await expect(page.getByTestId("on-hand")).toContainText(`${n}`);
  await expect(page.getByTestId("on-hand")).toContainText("±");
  await expect(page.getByTestId("movement").first()).toContainText("sampled 20 of 0.");
  await expect(page.getByText(/jar 20\.1 g, piece 0\.0[34]\d* g/)).toBeVisible();
  // What was learnt of a piece is used the next time.
  await page.getByRole("link", { name: "Count", exact: true }).click();
  await expect(page.getByText(/a piece weighs 0\.0[34]\d* g, from 20 pieces/)).toBeVisible();
});

test("a delivery by CSV with two bad lines: refused with why, mended, sent again", async ({ page }) => {
  await page.goto("/tables/deliveries");
  const table =
    "Item;Qty;Paid;Location\nR08-HONE;50;4.10;B\nR08-NONE;50;4.10;B\nB04-PRUS;many;6.00;B\nS11-CELA;25;3.60;A\n";
  await page
    .getByLabel("Table file")
    .setInputFiles({ name: "delivery.csv", mimeType: "text/csv", buffer: Buffer.from(table) });
  await expect(page.getByTestId("preview")).toContainText("2 new");
  await expect(page.getByTestId("preview")).toContainText("2 refused");
  const lines = page.getByRole("region", { name: "Lines of the table" });
  await expect(lines).toContainText("there is no component R08-NONE");
  await expect(lines).toContainText("“many” is no number");
  await expect(page.getByRole("button", { name: /^Write all/ })).toBeDisabled();
  // A heading that nobody could guess is mapped by hand.
  await page.getByText("Other columns that a table may have").click();
  await page.getByLabel("cost").selectOption("Paid");
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Download the refused lines" }).click();
  const refused = readFileSync(await (await waiting).path(), "utf8");
  const { data } = Papa.parse<Record<string, string>>(refused, { header: true, skipEmptyLines: true });
  expect(data.map((r) => r.code)).toEqual(["R08-NONE", "B04-PRUS"]);
  expect(data[1]!.why).toContain("is no number");
  await page.getByRole("button", { name: "go on without them" }).click();
  await page.getByRole("button", { name: "Write all 2 lines" }).click();
  await expect(page.getByText("Written: 2 new, 0 changed, 0 as they were.")).toBeVisible();

  const mended = refused.replace("R08-NONE", "R08-TENM").replace("many", "144");
  await page
    .getByLabel("Table file")
    .setInputFiles({ name: "mended.csv", mimeType: "text/csv", buffer: Buffer.from(mended) });
  await page.getByRole("button", { name: "Write all 2 lines" }).click();
  await expect(page.getByText("Written: 2 new")).toBeVisible();
  await openJar(page, "R08-HONE");
  await expect(page.getByTestId("movement").first()).toContainText("delivery.csv");
  await expect(page.getByTestId("movement").first()).toContainText("+50");
  await expect(page.getByTestId("movement").first()).toContainText("£4.10");
});

test("a stocktake with one real and one insignificant difference", async ({ page }) => {
  await page.goto("/stocktakes");
  await page.getByRole("button", { name: "Begin a walk" }).click();
  const jar = page.getByTestId("walk-jar");
  await expect(jar).toBeVisible();
  const pick = async (name: string) => {
    await page.getByLabel("Go to").selectOption({
      label: (await page.getByLabel("Go to").locator("option", { hasText: name }).first().textContent())!,
    });
    await expect(jar).toContainText(name);
  };
  await pick("8 mm glass round, honey");
  await page.getByRole("button", { name: "By hand" }).click();
  await page.getByLabel("How many are there").fill("2000");
  await page.getByRole("button", { name: "Write it down and go on" }).click();
  // A jar counted by weight before: its book is only so sure, so one less is no finding.
  await pick("4 mm fire-polished round, celadon");
  const book = Number(
    (await page.getByText(/the book says/).textContent())!.match(/the book says ([\d,]+)/)![1]!.replace(/,/g, ""),
  );
  await page.getByRole("button", { name: "By hand" }).click();
  await page.getByLabel("How many are there").fill(String(book - 1));
  await page.getByRole("button", { name: "Write it down and go on" }).click();
  await page.getByRole("button", { name: "Skip this jar" }).click();

  await page.getByRole("button", { name: "Differences (2)" }).click();
  const rows = page.getByTestId("difference");
  await expect(rows).toHaveCount(2);
  await expect(rows.filter({ hasText: "8 mm glass round, honey" })).toContainText("more than the ± explains");
  await expect(rows.filter({ hasText: "celadon" })).toContainText("within the ±");
  await page.getByRole("button", { name: "Choose only what is certain" }).click();
  await page.getByRole("button", { name: "Post 1 of 2" }).click();
  await expect(rows.filter({ hasText: "honey" })).toContainText("posted");
  await openJar(page, "R08-HONE");
  await expect(page.getByTestId("on-hand")).toContainText("2,000");
});

test("a mistake is taken back with one click, by an entry of its own, under the name of who is at the bench", async ({
  page,
}) => {
  await openJar(page, "R08-WAX");
  await page.getByLabel("Who").selectOption("Wren");
  const before = await page.getByTestId("free").textContent();
  await page.getByLabel("What happened").selectOption("Broken or lost");
  await page.getByLabel("How many", { exact: true }).fill("500");
  await page.getByRole("button", { name: "Take it out" }).click();
  await expect(page.getByTestId("movement").first()).toContainText("broken or lost");
  await expect(page.getByTestId("movement").first()).toContainText("Wren");
  await page.getByRole("button", { name: /^Take back: broken or lost 500/ }).click();
  await expect(page.getByTestId("movement").first()).toContainText("reversed");
  await expect(page.getByTestId("free")).toHaveText(before!);
  // More than the book holds: told with the way out.
  await page.getByLabel("What happened").selectOption("Used");
  await page.getByLabel("How many", { exact: true }).fill("99999");
  await page.getByRole("button", { name: "Take it out" }).click();
  await expect(page.getByText(/The book holds only/)).toBeVisible();
  await page.getByRole("button", { name: "count it up to 99,999 and take it out" }).click();
  await expect(page.getByTestId("free")).toContainText("short by 600"); // what April speaks for
});

test("a cut from a spool leaves an offcut, and one piece long enough can be asked for", async ({ page }) => {
  await openJar(page, "WIRE-019");
  const where = page.getByRole("region", { name: "Where it stands" });
  await page.getByLabel("What happened").selectOption("Cut");
  await page.getByLabel("Each cut is").fill("20in");
  await page.getByLabel("How many cuts").fill("3");
  await page.getByRole("button", { name: "Cut it" }).click();
  await expect(where).toContainText("1 × 25 ft");
  await where.getByLabel("Is there one piece of").fill("31ft");
  await expect(where.getByText("No single piece is long enough.")).toBeVisible();
  await where.getByLabel("Is there one piece of").fill("26ft");
  await expect(where.getByText(/^Yes: \d+ could be cut\.$/)).toBeVisible();
});

test("a sheet of labels for what is listed, and a label's address opens the jar's count screen", async ({ page }) => {
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("rondelle");
  await page.getByRole("button", { name: "Labels" }).click();
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Make the PDF" }).click();
  expect(
    readFileSync(await (await waiting).path())
      .subarray(0, 5)
      .toString(),
  ).toBe("%PDF-");
  await page.goto("/j/r08-hone");
  await expect(page.getByRole("heading", { name: "Count this jar" })).toBeVisible();
  await expect(page.getByText("8 mm glass round, honey")).toBeVisible();
  await page.goto("/j/nothing");
  await expect(page.getByRole("heading", { name: "Not here" })).toBeVisible();
});

test("an order is written down, comes in parts, and stands on the way until then", async ({ page }) => {
  await page.goto("/orders/new");
  await page.getByLabel("Number").fill("LG-0500");
  await page.getByRole("button", { name: "Add a line" }).click();
  await page.keyboard.type("R06-SMOK");
  await page.keyboard.press("Enter");
  await page.getByLabel("Packs of 6 mm glass round, smoke").fill("4");
  await page.getByRole("button", { name: "Write it down" }).click();
  const form = page.getByRole("form", { name: "Receive" });
  await form.getByLabel("Came now of 6 mm glass round, smoke").fill("150");
  await form.getByLabel("Freight, GBP").fill("3.00");
  await form.getByRole("button", { name: "Receive it" }).click();
  await expect(form.getByLabel("Came now of 6 mm glass round, smoke")).toHaveValue("50");
  await openJar(page, "R06-SMOK");
  await page.getByRole("button", { name: "Where 50 on the way come from" }).click();
  await expect(page.getByTestId("origin")).toContainText("Lowfold Glass Merchants, order LG-0500");
  await expect(page.getByTestId("movement").first()).toContainText("Order LG-0500");
});

test("a new component: its form and size fill in the rest; stock is set aside for a purpose", async ({ page }) => {
  await page.goto("/jars/new");
  await page.getByLabel("Name", { exact: true }).fill("11/0 seed, moss");
  await page.getByLabel("Code").fill("S11-MOSS");
  await page.getByRole("combobox", { name: "Form", exact: true }).selectOption("seed");
  await page.getByLabel("Size, as the trade says it").fill("11/0");
  await page.getByLabel("Along the thread").focus();
  // A sixteenth of an inch says that it is rounded; in millimetres it is exact.
  await expect(page.getByLabel("Along the thread")).toHaveValue("~1/16");
  await page.getByRole("button", { name: "mm", exact: true }).click();
  await expect(page.getByLabel("Along the thread")).toHaveValue("1.41");
  await expect(page.getByLabel("Pieces a gram")).toHaveValue("115");
  await page.getByRole("button", { name: "Add a pack" }).click();
  await page.getByLabel("A pack is called (the first is the usual one)").fill("tube of 8.5 g");
  await page.getByLabel("It holds").fill("8.5");
  await page.getByRole("button", { name: "Add the component" }).click();
  await expect(page.getByText("Write an amount such as 4 or 4.20.")).toBeVisible();
  await page.getByLabel("It costs").fill("1.60");
  await page.getByRole("button", { name: "Add the component" }).click();
  await expect(page.getByRole("heading", { name: "11/0 seed, moss" })).toBeVisible();
  await page.getByLabel("Grams", { exact: true }).first().fill("17");
  await page.getByRole("button", { name: "Write down what came" }).click();
  await expect(page.getByTestId("free")).toHaveText("17 g");
  await page.getByLabel("For what").fill("Moss box");
  await page.getByLabel("How many to set aside").fill("20");
  await page.getByRole("button", { name: "Set aside" }).click();
  await expect(page.getByText("Only 17 is free.")).toBeVisible();
  await page.getByLabel("How many to set aside").fill("5");
  await page.getByRole("button", { name: "Set aside" }).click();
  await expect(page.getByTestId("free")).toHaveText("12 g");
  await page.getByRole("button", { name: "Give Moss box free again" }).click();
  await expect(page.getByTestId("free")).toHaveText("17 g");
});
