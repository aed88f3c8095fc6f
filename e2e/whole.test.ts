import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import {
  more,
  EMPTY,
  expect,
  makeDatabase,
  openDesign,
  openMonth,
  rows,
  save,
  stage,
  startServer,
  test,
  faults,
} from "./fixtures.ts";

/** The main views in groups, each gone through and checked. */
const VIEWS: Record<string, (page: Page, check: (what: string) => Promise<void>) => Promise<void>> = {
  "a box": async (page, check) => {
    await openMonth(page, "Letterpress");
    for (const name of ["Theme", "Contents", "Colours", "Counts", "Money", "Lists"]) {
      await stage(page, name);
      await expect(
        page.getByRole("region", {
          name: {
            Theme: "Theme",
            Contents: "Designs of the box",
            Colours: "Colour tray",
            Counts: "Counts",
            Money: "Cost",
            Lists: "Lists",
          }[name]!,
          exact: true,
        }),
      ).toBeVisible();
      await check(name);
      if (name === "Money") {
        for (const view of ["What if", "Price", "How many"]) {
          await page.getByRole("button", { name: view, exact: true }).click();
          await expect(page.getByRole("region", { name: view, exact: true })).toBeVisible();
          await check(view);
        }
      }
      if (name !== "Colours") continue;
      await page.locator("[data-cell]").first().click();
      await expect(page.locator("[cmdk-item]").first()).toBeVisible();
      await check("what fits a cell");
      await page.getByRole("button", { name: "Add this component" }).click();
      await expect(page.getByRole("form", { name: "The new component" })).toBeVisible();
      await check("a new component from its cell");
      await page.keyboard.press("Escape");
    }
    await page.getByRole("button", { name: "Commit the box" }).click();
    await expect(page.getByText("Something is still open")).toBeVisible();
    await check("committing");
    await page.keyboard.press("Escape");
    await openMonth(page, "Dye Garden");
    await expect(page.getByText("One thing is not covered")).toBeVisible();
    await check("a committed box");
  },
  "plans and designs": async (page, check) => {
    await page.goto("/ahead");
    await expect(page.getByTestId("ahead-DISC-BRASS")).toBeVisible();
    await check("ahead");
    await page.goto("/look-back");
    await expect(page.getByTestId("looked-back").first()).toBeVisible();
    await check("look back");
    for (const part of ["", "/money", "/people", "/spares", "/data"]) {
      await page.goto(`/workshop${part}`);
      await expect(page.getByRole("heading", { name: "Workshop", level: 1 })).toBeVisible();
      if (part === "/money") await expect(page.getByTestId("channel").first()).toBeVisible();
      await check(`workshop${part}`);
    }
    await page.goto("/tables/sales");
    await expect(page.getByRole("button", { name: "Ask the shop (simulated)" })).toBeVisible();
    await check("sales");
    await page.goto("/books");
    await expect(page.getByTestId("leading")).toHaveText("None");
    await check("books");
    await page.goto("/designs");
    await expect(page.getByRole("heading", { name: "Designs" })).toBeVisible();
    await check("library");
    await openDesign(page, "Press Bed Bracelet");
    await expect(rows(page)).toBeVisible();
    await check("bench");
    await page.getByRole("button", { name: /^More about C, / }).click();
    await page.getByText("Kind, looks and what it hangs by").click();
    await page.getByRole("button", { name: /^How rows are written/ }).click();
    await expect(page.getByTestId("construct-repeat")).toBeVisible();
    await check("bench with its card and a line of the key open");
    await page.goto("/lessons/charm-row");
    await expect(page.getByRole("region", { name: "Lesson" })).toBeVisible();
    await check("lesson");
    await page.goto("/help");
    await expect(page.getByTestId("construct-repeat")).toBeVisible();
    await check("help");
  },
  "jars, buying and packing": async (page, check) => {
    await page.goto("/jars");
    await page.getByRole("link", { name: "11/0 seed, honey" }).click();
    await expect(page.getByTestId("on-hand")).toBeVisible();
    await check("jar");
    await page.goto("/jars");
    await expect(page.getByRole("table", { name: "Components" })).toBeVisible();
    await page.getByLabel("Choose all").check();
    await check("jars, all of them chosen");
    await page.getByRole("button", { name: "Change …" }).click();
    await expect(page.getByRole("dialog", { name: /^Change / })).toBeVisible();
    await check("changing many jars");
    await page.goto("/j/R08-HONE");
    await expect(page.getByRole("heading", { name: "Count this jar" })).toBeVisible();
    await page.getByRole("button", { name: "Use the simulated scale" }).click();
    await check("count");
    await page.goto("/orders");
    await page.getByRole("link", { name: "LG-0412" }).click();
    await expect(page.getByRole("heading", { name: "Order LG-0412" })).toBeVisible();
    await check("order");
    await page.goto("/buy");
    await page.getByTestId("buy-R06-INK").getByRole("button", { name: "other offers" }).click();
    await check("buy");
    await page.getByRole("button", { name: "Write the orders" }).click();
    await expect(page.getByRole("dialog")).toBeVisible();
    await check("writing orders");
    for (const theme of ["Apiary", "Glaze Shelf"]) {
      await openMonth(page, theme);
      await stage(page, "Pack");
      await expect(page.getByTestId("packed-boxes")).toBeVisible();
      await check(`pack, ${theme}`);
    }
    await page.goto("/stocktakes");
    await page.getByRole("button", { name: "Begin a walk" }).click();
    await expect(page.getByTestId("walk-jar")).toBeVisible();
    await check("walk");
    await page.goto("/tables/counts");
    await expect(page.getByRole("heading", { name: "Tables in and out" })).toBeVisible();
    await check("tables");
  },
};

for (const theme of ["light", "dark"]) {
  for (const [group, visit] of Object.entries(VIEWS)) {
    test(`every main view keeps WCAG 2.2 AA: ${group}, ${theme}`, async ({ page }) => {
      await page.addInitScript(
        (t) =>
          localStorage.setItem("jar-count/settings", JSON.stringify({ state: { unit: "in", theme: t }, version: 0 })),
        theme,
      );
      await visit(page, async (what) => expect(await faults(page), what).toEqual([]));
    });
  }
}

test("a number opens to the places that make it, and a place leads to its row, lit", async ({ page }) => {
  await openMonth(page, "Glaze Shelf");
  await stage(page, "Counts");
  await page.getByRole("button", { name: /^Where .* a box of 11\/0 seed, celadon/ }).click();
  const parts = page.getByTestId("origin");
  await expect(parts.first()).toBeVisible();
  await expect(page.getByTestId("origin-total")).toBeVisible();
  const numbers = await parts.locator("td:last-child").allTextContents();
  const total = Number((await page.getByTestId("origin-total").textContent())!.replace(/,/g, ""));
  expect(numbers.length).toBeGreaterThan(4);
  expect(numbers.reduce((sum, n) => sum + Number(n.replace(/,/g, "")), 0)).toBe(total);

  await parts.filter({ hasText: "Drop, row 1" }).getByRole("link").click();
  await expect(page.getByLabel("Name of the design")).toHaveValue("Glaze Drip Necklace");
  await expect(
    page.getByRole("group", { name: "Parts" }).getByRole("button", { name: "Drop", exact: true }),
  ).toHaveAttribute("aria-pressed", "true");
  await expect(page.locator(".cm-lit")).toHaveText("7b");

  // On the bench the same: from the count to its place.
  await page.getByTestId("count-P-0").getByRole("button").click();
  await page.getByTestId("origin").filter({ hasText: "Strand, row 1" }).first().getByRole("button").click();
  await expect(page.locator(".cm-lit")).toHaveText("P");
});

test("what is typed without a connection is kept, told of, and sent when it is back", async ({ page, context }) => {
  await openMonth(page, "Dye Garden");
  await stage(page, "Theme");
  await expect(page.getByRole("textbox", { name: "Theme", exact: true })).toBeVisible();
  await expect(page.getByText("Bill no. 1, frozen")).toBeVisible();
  await context.setOffline(true);
  await page.getByRole("textbox", { name: "Theme", exact: true }).fill("Dye Garden at dusk");
  await expect(page.getByText("No connection. What you type is kept here")).toBeVisible();
  await expect(page.getByText("Kept here: the server can't be reached.")).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText("· saved")).toBeVisible({ timeout: 20_000 });
  await page.reload();
  await expect(page.getByRole("heading", { name: "Dye Garden at dusk" })).toBeVisible();
});

test("the whole workshop goes out, into an empty one, and comes out the same", async ({ page, browser }) => {
  // The carrier was asked just now: what it said is not old, and no page asks it anew meanwhile.
  await expect(async () => {
    expect(await (await page.request.get("/api/money/postage")).json()).toMatchObject({ fault: null });
  }).toPass();
  await page.goto("/workshop/data");
  const first = page.waitForEvent("download");
  await page.getByRole("link", { name: "Take everything out" }).click();
  const zip = readFileSync(await (await first).path());

  const server = await startServer(await makeDatabase(EMPTY));
  const other = await browser.newPage();
  await other.goto(`${server.url}/workshop/data`);
  const file = other.getByLabel("Archive file");
  await file.setInputFiles({ name: "broken.zip", mimeType: "application/zip", buffer: zip.subarray(0, 5000) });
  await expect(other.getByRole("alert")).toContainText("cut short");
  await file.setInputFiles({ name: "workshop.zip", mimeType: "application/zip", buffer: zip });
  await expect(other.getByText("Taken in: 122 components, 16 designs, 5 boxes, 2,630 movements.")).toBeVisible();
  const second = other.waitForEvent("download");
  await other.getByRole("link", { name: "Take everything out" }).click();
  expect(readFileSync(await (await second).path()).equals(zip)).toBe(true);
  await other.close();
  await server.stop();
});

test("the road by keyboard alone: find, write, save, look back, go to a room", async ({ page }) => {
  await page.goto("/jars");
  await expect(page.getByRole("heading", { name: "Jars" })).toBeVisible();
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.press("/");
  await expect(page.getByRole("dialog", { name: "Find" })).toBeVisible();
  await page.keyboard.type("swings");
  await expect(page.getByRole("option", { name: /Dye Vat Swings/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Name of the design")).toHaveValue("Dye Vat Swings");
  await page.getByLabel("Name of the design").focus();
  for (let i = 0; i < 40 && !(await rows(page).evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press("Tab");
  await expect(rows(page)).toBeFocused();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(", hang DG");
  await expect(page.getByTestId("count-HP-0")).toHaveText("8");
  await page.keyboard.press("Control+s");
  await expect(page.getByText(/^Revision 2, saved/)).toBeVisible();
  for (let i = 0; i < 40 && (await page.evaluate(() => document.activeElement?.textContent?.trim())) !== "More"; i++)
    await page.keyboard.press("Shift+Tab");
  await page.keyboard.press("Enter");
  await page.keyboard.type("earl");
  await expect(page.getByRole("menuitem", { name: "Earlier revisions" })).toBeFocused();
  await page.keyboard.press("Enter");
  const dialog = page.getByRole("dialog", { name: "Revisions" });
  await dialog.getByRole("button", { name: /Revision 1/ }).focus();
  await page.keyboard.press("Enter");
  await expect(dialog.getByRole("row", { name: /HP/ })).toContainText("68+2");
  await page.keyboard.press("Escape");
  await page.keyboard.press("g");
  await page.keyboard.press("j");
  await expect(page.getByRole("heading", { name: "Jars" })).toBeVisible();
  await page.keyboard.press("g");
  await page.keyboard.press("w");
  await expect(page.getByRole("heading", { name: "Workshop" })).toBeVisible();
});

test("tidying the rows changes how they are written and not what they count", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  const beads = await page.getByTestId("leading").textContent();
  await more(page, "Tidy the rows");
  await expect(rows(page)).toContainText("edge: (b D b >W a >W) x6");
  await expect(page.getByTestId("leading")).toHaveText(beads!);
  await save(page);
});
