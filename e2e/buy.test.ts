import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { expect, faults, holdBack, openMonth, stage, test } from "./fixtures.ts";
import { inDemo, monthInDemo } from "../core/test/demoDay.ts";

test("what June lacks becomes orders at a price step, which come in two parts and are spoken for by it", async ({
  page,
}) => {
  await page.goto("/");
  await page.getByRole("link", { name: /^Buy/ }).click();
  const boxes = page.getByRole("group", { name: "For which boxes" });
  for (const other of [
    `${monthInDemo("2027-04")}, Apiary`,
    `${monthInDemo("2027-05")}, Dye Garden`,
    `${monthInDemo("2027-07")}, Type Drawer`,
  ]) {
    await boxes.getByRole("button", { name: other }).click();
    await expect(boxes.getByRole("button", { name: other })).toHaveAttribute("aria-pressed", "false");
  }
  const line = page.getByTestId("buy-R06-INK");
  await expect(line).toContainText(`620 lacking, for ${monthInDemo("2027-06")}`);
  // 13 strands at 2.58 are 33.54; from 14 on a strand is 2.38, so one more costs less.
  await expect(line.getByLabel("Packs of strand of 50, 6 mm glass round, ink black")).toHaveValue("14");
  await expect(line).toContainText("£33.32");
  await expect(line).toContainText("stepped up: £33.54 without the lower price of more packs");
  await expect(line).toContainText("80 left over, worth £3.81");
  expect(await faults(page)).toEqual([]);

  // Another offer is a click away; by hand it is more or less; and back.
  await line.getByRole("button", { name: "other offers" }).click();
  const dozen = line.getByRole("listitem").filter({ hasText: "by the dozen" });
  await expect(dozen).toContainText("580 left over");
  await dozen.getByRole("button", { name: "Take this one" }).click();
  const taken = page.getByTestId("buy-R06-INK");
  await expect(taken).toContainText("£50.96");
  await taken.getByRole("button", { name: /back to the least/ }).click();
  await page
    .getByTestId("buy-R06-INK")
    .getByLabel(/^Packs of strand of 50/)
    .fill("12");
  await expect(page.getByTestId("buy-R06-INK")).toContainText("20 of what is needed");
  await page.reload();
  await expect(page.getByTestId("buy-R06-INK").getByLabel(/^Packs of strand of 50/)).toHaveValue("12");
  await page
    .getByTestId("buy-R06-INK")
    .getByRole("button", { name: /back to the least/ })
    .click();

  await page.getByRole("button", { name: "Write the orders" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Number of the order to Lowfold Glass Merchants").fill("LG-JUNE");
  await dialog.getByRole("button", { name: /^Write \d orders$/ }).click();
  await expect(dialog).toContainText("spoken for by the boxes that lack it");
  await dialog.getByRole("link", { name: "LG-JUNE" }).click();

  // The order as the supplier gets it.
  await expect(page.getByRole("heading", { name: "Order LG-JUNE" })).toBeVisible();
  const row = page.getByRole("row", { name: /6 mm glass round, ink black/ }).first();
  await expect(row.getByRole("link", { name: "Letterpress: 620" })).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "CSV" }).click();
  const csv = readFileSync(await (await waiting).path(), "utf8");
  expect(csv).toContain("R06-INK");
  expect(csv).toMatch(/strand of 50,14,700,piece,33\.32,GBP/);
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.getByRole("button", { name: "Copy as text" }).click();
  await expect(page.getByText("The order is copied")).toBeVisible();
  const mail = await page.evaluate(() => navigator.clipboard.readText());
  expect(mail).toContain("14 × strand of 50  6 mm glass round, ink black (R06-INK)  33.32 GBP");

  // Nothing of it lacks any more.
  await page.goto("/buy");
  await expect(page.getByRole("heading", { name: "Buy" })).toBeVisible();
  await expect(page.getByTestId("buy-R06-INK")).not.toContainText(`lacking, for ${monthInDemo("2027-06")}`);

  // In two parts: the first 300, then the rest.
  await page.goto("/orders");
  await page.getByRole("link", { name: "LG-JUNE" }).click();
  const receive = page.getByRole("form", { name: "Receive" });
  const glass = receive.getByLabel("Came now of 6 mm glass round, ink black");
  await expect(glass).toHaveValue("700");
  for (const field of await receive.getByLabel(/^Came now of/).all()) await field.fill("");
  await glass.fill("300");
  await receive.getByRole("button", { name: /^Receive 1 of/ }).click();
  await expect(row).toContainText("Letterpress: 320");
  await page.getByRole("link", { name: "6 mm glass round, ink black" }).click();
  await page.getByRole("button", { name: /are spoken for$/ }).click();
  await expect(page.getByTestId("origin").filter({ hasText: `${monthInDemo("2027-06")}, Letterpress` })).toContainText(
    "300",
  );
  await page.keyboard.press("Escape");
  await page.goBack();
  await expect(glass).toHaveValue("400");
  for (const field of await receive.getByLabel(/^Came now of/).all()) {
    if ((await field.getAttribute("aria-label")) !== "Came now of 6 mm glass round, ink black") await field.fill("");
  }
  await receive.getByRole("button", { name: /^Receive 1 of/ }).click();
  await expect(glass).toHaveCount(0);
  await openMonth(page, "Letterpress");
  await stage(page, "Counts");
  await expect(page.getByTestId("need-R06-INK")).not.toContainText("short by");
  await expect(page.getByText(/things were ordered for this box/)).toBeVisible();
});

test("what somebody ordered meanwhile is not ordered again", async ({ page, browser, site }) => {
  await page.goto("/buy");
  await page.getByRole("button", { name: "Write the orders" }).click();
  const other = await browser.newPage({ baseURL: site });
  await other.goto("/buy");
  await other.getByRole("button", { name: "Write the orders" }).click();
  await other
    .getByRole("dialog")
    .getByRole("button", { name: /^Write \d orders$/ })
    .click();
  await expect(other.getByRole("dialog")).toContainText("The orders are written");
  await other.close();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: /^Write \d orders$/ }).click();
  await expect(dialog.getByRole("alert")).toContainText("Less is lacking now than was shown");
  await dialog.getByRole("button", { name: "Not yet" }).click();
});

test("the list is read anew while the orders are still being written: they are told all the same", async ({ page }) => {
  await page.goto("/buy");
  await page.getByRole("button", { name: "Write the orders" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("Lowfold Glass Merchants");
  // The new list is here before the new stock, and nothing is lacking in it any more.
  const release = await holdBack(page, /\/api\/components(\?|$)/);
  await dialog.getByRole("button", { name: /^Write \d orders$/ }).click();
  await expect(page.getByText("Nothing to buy")).toBeVisible();
  await expect(dialog.getByRole("heading", { name: "Write the orders" })).toBeVisible();
  release();
  await expect(dialog).toContainText("The orders are written");
  await expect(dialog.getByRole("listitem").filter({ hasText: "Lowfold Glass Merchants, 16 lines" })).toBeVisible();
});

test("what somebody just wrote down and ordered is received once it is known what it is", async ({ page, request }) => {
  await page.goto("/jars");
  await expect(page.getByRole("heading", { name: "Jars", level: 1 })).toBeVisible();
  const answered = async <T>(path: string) => (await (await request.get(path)).json()) as T;
  const { suppliers } = await answered<{ suppliers: { id: string }[] }>("/api/rooms");
  const [component, order, line] = [randomUUID(), randomUUID(), randomUUID()];
  const bead = { code: "MOSS-1", name: "Moss cube", kind: "bead", colour: "#556b2f", finish: "matt" };
  const made = { version: 0, component: { ...bead, baseUnit: "piece" } };
  expect((await request.put(`/api/components/${component}`, { data: made })).status()).toBe(201);
  const lines = [{ id: line, component, pack: "bag", packs: 2, quantity: 80, price: "6.40" }];
  const placed = {
    supplier: suppliers[0]!.id,
    number: "MOSS",
    placedOn: inDemo("2027-03-01"),
    currency: "GBP",
    rate: "1",
  };
  const written = await request.put(`/api/orders/${order}`, { data: { version: 0, order: { ...placed, lines } } });
  expect(written.status()).toBe(201);
  // The list of what there is comes late.
  const release = await holdBack(page, /\/api\/components\?/);
  await page.getByRole("link", { name: /^Buy/ }).click();
  await page.getByRole("link", { name: "Orders", exact: true }).click();
  await page.getByRole("link", { name: "MOSS" }).click();
  await expect(page.getByRole("heading", { name: "Order MOSS" })).toBeVisible();
  await expect(page.getByRole("form", { name: "Receive" })).toBeHidden();
  release();
  const came = page.getByRole("form", { name: "Receive" }).getByLabel("Came now of Moss cube");
  await expect(came).toHaveValue("80");
});

test("until a day; nothing to buy; an offer that nobody has", async ({ page, request }) => {
  await page.goto("/buy");
  await page.getByLabel("or all packed until").fill(inDemo("2027-03-20"));
  await expect(page.getByText("Nothing to buy")).toBeVisible();
  await page.getByLabel("or all packed until").fill(inDemo("2027-04-20"));
  await expect(page.getByTestId("buy-SPC-BRASS").or(page.getByText("Brass disc spacer"))).toBeVisible();
  // Nobody offers it any more: it stands under what is not bought, with the way out.
  const components = ((await (await request.get("/api/components")).json()) as { components: never[] }).components;
  const found = (components as { id: string; name: string; offers: unknown[] }[]).find(
    (c) => c.name === "Brass disc spacer",
  )!;
  const detail = (await (await request.get(`/api/components/${found.id}`)).json()) as {
    component: Record<string, unknown> & { version: number };
  };
  const { version, component } = { version: detail.component.version, component: { ...detail.component, offers: [] } };
  for (const field of ["id", "version", "onHand", "u", "spokenFor", "onTheWay", "averageCost", "lastCost", "moved"]) {
    delete (component as Record<string, unknown>)[field];
  }
  const saved = await request.put(`/api/components/${found.id}`, { data: { version, component } });
  expect(saved.status()).toBe(200);
  await page.reload();
  await page.getByLabel("or all packed until").fill(inDemo("2027-04-20"));
  await expect(page.getByRole("heading", { name: "Not bought" })).toBeVisible();
  await expect(page.getByRole("link", { name: "Give it a pack to buy" })).toBeVisible();
});
