import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import type { APIRequestContext, Page } from "@playwright/test";
import { EMPTY_BOX } from "../core/src/box/index.ts";
import { expect, openMonth, stage, test } from "./fixtures.ts";
import { inDemo, later, monthInDemo } from "../core/test/demoDay.ts";

const state = (page: Page) => page.getByTestId("box-state");
const need = (page: Page, code: string) => page.getByTestId(`need-${code}`);
const saved = (page: Page) => expect(page.getByText("· saved")).toBeVisible();
const dialog = (page: Page) => page.getByRole("dialog");

test("a box goes from counted to committed, with contents and spares, and back", async ({ page }) => {
  await openMonth(page, "Type Drawer");
  await expect(state(page)).toHaveText("Planned");
  await stage(page, "Contents");
  const beside = page.getByRole("region", { name: "Beside the designs" });
  await beside.getByRole("button", { name: "Add a component" }).click();
  await page.getByPlaceholder("Find a component").fill("slate round");
  await page.locator("[cmdk-item]").first().click();
  const gift = page.getByTestId("content-R06-SLAT");
  await gift.getByLabel(/^How .* lies in the box/).selectOption({ label: "whole strand of 50" });
  await expect(gift).toContainText("50");
  await gift.getByLabel(/^Which colourway/).selectOption({ label: "Proof black" });
  // A whole strand for each of 24 boxes, and nothing to spare for a pack.
  await stage(page, "Counts");
  await expect(need(page, "R06-SLAT")).toContainText("1,200");
  await expect(need(page, "R06-SLAT")).toContainText("none");

  // Spares: by a rule, which says its name; then said for this box.
  await need(page, "BAR2-SLAT")
    .getByRole("button", { name: /to spare: which rule/ })
    .click();
  await expect(page.getByTestId("origin")).toContainText("one more of up to 25");
  await page.getByLabel("Two-hole bar, slate to spare in each bag").fill("3");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await expect(need(page, "BAR2-SLAT").getByRole("button", { name: /^3 of/ })).toBeVisible();
  await expect(need(page, "BAR2-SLAT")).toContainText("288"); // (9 + 3) × 24
  await saved(page);

  await page.getByRole("button", { name: "Commit the box" }).click();
  await expect(dialog(page).getByTestId("lacking").filter({ hasText: "Small box, kraft" })).toContainText("32");
  await expect(dialog(page).getByTestId("lacking").filter({ hasText: "slate" })).toContainText("950");
  await expect(dialog(page)).toContainText(
    `It takes what planned boxes want that are packed before it: ${monthInDemo("2027-06")}`,
  );
  const commit = dialog(page).getByRole("button", { name: "Commit short" });
  await expect(commit).toBeDisabled();
  await dialog(page)
    .getByLabel(/I know what is missing/)
    .check();
  await commit.click();
  await expect(state(page)).toHaveText("Committed");
  await expect(page.getByText("Bill no. 1, frozen")).toBeVisible();
  await expect(page.getByRole("status").filter({ hasText: "not covered" })).toContainText("Small box, kraft: 32 short");
  await expect(page.getByRole("link", { name: /Type Drawer/ })).toContainText("committed");

  // The jar says which box speaks for what, and that June only plans it.
  await need(page, "B04-VERM").getByRole("link", { name: "4 mm bicone, vermilion" }).click();
  await page.getByRole("button", { name: /are spoken for$/ }).click();
  await expect(page.getByTestId("origin").filter({ hasText: `${monthInDemo("2027-07")}, Type Drawer` })).toContainText(
    "768",
  );
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^Which planned boxes take/ }).click();
  await expect(page.getByTestId("origin")).toContainText(`${monthInDemo("2027-06")}, Letterpress`);
  await page.keyboard.press("Escape");

  await openMonth(page, "Type Drawer");
  await page.getByRole("button", { name: "Take it back" }).click();
  await dialog(page).getByRole("button", { name: "Take it back" }).click();
  await expect(state(page)).toHaveText("Planned");
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("B04-VERM");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await expect(page.getByText("spoken for")).toBeVisible();
  await expect(page.getByRole("button", { name: /are spoken for$/ })).toHaveCount(0);
});

test("July is short because of June, who is named; moved before June, it has what it needs", async ({ page }) => {
  await openMonth(page, "Type Drawer");
  await stage(page, "Counts");
  await need(page, "Q06-VERM")
    .getByRole("button", { name: /^Who takes/ })
    .click();
  const june = page.getByTestId("origin").filter({ hasText: `${monthInDemo("2027-06")}, Letterpress` });
  await expect(june).toContainText("120");
  await expect(june).toContainText("planned, packed before");
  await page.keyboard.press("Escape");
  await stage(page, "Theme");
  await page.getByLabel("Packed by").fill(inDemo("2027-05-10"));
  await saved(page);
  await stage(page, "Counts");
  await expect(need(page, "Q06-VERM")).not.toContainText("short by");
  // June has less from here on, and says to whom.
  await openMonth(page, "Letterpress");
  await stage(page, "Counts");
  await need(page, "Q06-VERM")
    .getByRole("button", { name: /^Who takes/ })
    .click();
  await expect(page.getByTestId("origin").filter({ hasText: `${monthInDemo("2027-07")}, Type Drawer` })).toContainText(
    "96",
  );
});

test("a rule of the workshop changes what every box holds to spare", async ({ page }) => {
  await page.goto("/workshop/spares");
  await page.getByLabel("More by one more of up to 25").fill("2");
  await page.keyboard.press("Tab");
  await page.getByRole("button", { name: "Save the rules" }).click();
  await expect(page.getByRole("button", { name: "Save the rules" })).toBeDisabled();
  await openMonth(page, "Type Drawer");
  await stage(page, "Counts");
  await expect(need(page, "BAR2-SLAT").getByRole("button", { name: /^2 of/ })).toBeVisible();
  await expect(need(page, "BAR2-SLAT")).toContainText("264"); // (9 + 2) × 24
});

test("an order that comes too late marks the box it covers, and Ahead says what runs out", async ({ page }) => {
  await openMonth(page, "Apiary");
  await expect(state(page)).toHaveText("Packing");
  await expect(page.getByText("not covered")).toHaveCount(0);
  await page.goto("/orders");
  await page.getByRole("link", { name: "LG-0412" }).click();
  const line = page.getByRole("row", { name: /8\/0 seed, smoke/ }).first();
  await expect(line.getByRole("link", { name: /^Apiary/ })).toBeVisible();
  await expect(line.getByRole("button", { name: /^Take .* out$/ })).toBeDisabled();
  await page.getByLabel("Due date of 8/0 seed, smoke").fill(inDemo("2027-04-02"));
  await expect(line).toContainText("too late");
  await page.getByRole("button", { name: "Save the order" }).click();
  await expect(page.getByRole("button", { name: "Save the order" })).toBeDisabled();
  await openMonth(page, "Apiary");
  const notice = page.getByRole("status").filter({ hasText: "not covered" });
  await expect(notice).toContainText("8/0 seed, smoke");
  await expect(notice).toContainText("LG-0412 comes too late");
  await page.goto("/ahead");
  const row = page.getByTestId("ahead-S08-SMOK");
  await expect(row).toContainText("Runs out");
  await expect(row).toContainText(`${monthInDemo("2027-04")}, Apiary (committed)`);
  await expect(row.getByRole("link", { name: "Order LG-0412" })).toBeVisible();
});

test("a change after committing stays a plan until what it does is seen and taken over", async ({ page }) => {
  await openMonth(page, "Dye Garden");
  await stage(page, "Colours");
  await page.getByLabel("Boxes of Weld").fill("35");
  await page.keyboard.press("Tab");
  await saved(page);
  await expect(page.getByText("Changed since it was committed")).toBeVisible();
  await page.getByRole("button", { name: "See and take over" }).click();
  await expect(dialog(page).getByTestId("bill-change").filter({ hasText: "Stone chip, weld" })).toContainText(
    "1,260980",
  );
  await dialog(page).getByRole("button", { name: "Take over" }).click();
  await expect(page.getByText("Bill no. 2, frozen")).toBeVisible();
  await expect(page.getByText("Changed since it was committed")).toHaveCount(0);
});

/** Two planned boxes that each want the last strand. */
async function twoBoxes(request: APIRequestContext, component: string) {
  const boxes = [randomUUID(), randomUUID()];
  for (const [i, id] of boxes.entries()) {
    const colourway = randomUUID();
    const answer = await request.put(`/api/boxes/${id}`, {
      data: {
        version: 0,
        box: {
          ...EMPTY_BOX,
          month: later("2030-05"),
          theme: `Last strand ${i + 1}`,
          colourways: [{ id: colourway, name: "Only" }],
          variants: [{ first: colourway, second: null, boxes: 1 }],
          contents: [{ id: randomUUID(), component, first: null, quantity: 250, pack: null, spare: 0 }],
        },
      },
    });
    expect(answer.status()).toBe(201);
  }
  return boxes;
}

test("two people commit boxes that want the last strand: one gets it, the other sees what changed", async ({
  page,
  context,
  request,
}) => {
  const card = (await (await request.get("/api/components/by-code/CARD-EAR")).json()) as { component: { id: string } };
  const [one, two] = await twoBoxes(request, card.component.id);
  const other = await context.newPage();
  for (const [at, id] of [
    [page, one],
    [other, two],
  ] as const) {
    await at.goto(`/months/${id}/counts`);
    await at.getByRole("button", { name: "Commit the box" }).click();
  }
  // Of 250 cards May speaks for 180 already, so both lack some, and both know how much.
  for (const at of [page, other]) {
    await expect(dialog(at).getByTestId("lacking")).toContainText("180");
    await dialog(at)
      .getByLabel(/I know what is missing/)
      .check();
  }
  await dialog(page).getByRole("button", { name: "Commit short" }).click();
  await expect(state(page)).toHaveText("Committed");
  await dialog(other).getByRole("button", { name: "Commit short" }).click();
  await expect(dialog(other).getByRole("alert")).toContainText("This changed meanwhile");
  await expect(dialog(other).getByTestId("lacking")).toContainText("250");
  await expect(dialog(other).getByRole("button", { name: "Commit short" })).toBeDisabled();
  await dialog(other).getByRole("button", { name: "Not now" }).click();
  await expect(state(other)).toHaveText("Planned");
});

test("the contents list goes out as PDF and text, and says what the bag holds", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await openMonth(page, "Dye Garden");
  await stage(page, "Lists");
  await page.getByRole("button", { name: "Weld", exact: true }).click();
  const list = page.getByRole("article", { name: "Contents list" });
  await expect(list.getByTestId("list-DISC-BRASS")).toContainText("10 and 1 to spare");
  await expect(list).toContainText("Bead key: Dye Vat Swings");
  await expect(list).toContainText("Small parts: not for children under 3.");
  await page.getByRole("button", { name: "Copy as text" }).click();
  await expect(page.getByText("The list is copied.")).toBeAttached();
  const text = await page.evaluate(() => navigator.clipboard.readText());
  expect(text).toContain("Dye Garden, Weld");
  expect(text).toContain("- Brass disc spacer: 10 and 1 to spare");

  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "PDF, A4" }).click();
  const file = await (await waiting).path();
  const { getDocument } = await import("pdfjs-dist/legacy/build/pdf.mjs");
  const pdf = await getDocument({ data: new Uint8Array(readFileSync(file)), useSystemFonts: true }).promise;
  const { items } = await (await pdf.getPage(1)).getTextContent();
  const read = items
    .map((i) => ("str" in i ? i.str : ""))
    .join(" ")
    .replace(/\s+/g, " ");
  expect(read).toContain("Dye Garden Weld");
  expect(read).toContain("Brass disc spacer 10 and 1 to spare");
  for (const row of await list.locator("[data-testid^=list-]").all()) {
    const name = (await row.locator("th").textContent())!.trim();
    expect(`${read} `).toContain(name);
  }
  await page.getByText("not told").click();
  await expect(list.getByTestId("list-DISC-BRASS")).not.toContainText("to spare");
});

test("Ahead shows what reaches its reorder point, everything that moves, and an empty workshop's nothing", async ({
  page,
}) => {
  await page.goto("/ahead");
  await expect(page.getByTestId("leading")).toHaveText(/^\d+$/);
  await page.getByText(/^everything that moves/).click();
  await expect(page.getByTestId("ahead-DISC-BRASS")).toContainText(`${monthInDemo("2027-05")}, Dye Garden, committed`);
  await page.getByText(/^reorder point/).click();
  await expect(page.getByText("Does not run out").first()).toBeVisible();
  await page.keyboard.press("g");
  await page.keyboard.press("a");
  await expect(page).toHaveURL(/\/ahead$/);
});
