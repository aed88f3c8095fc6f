import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { expect, makeDatabase, startCare, startServer, test } from "./fixtures.ts";

/** Where people would be hurt: two at once, a server that is gone, an archive in the place of everything. */
const person = (page: Page, n: number) => page.getByLabel(`Person ${n}`, { exact: true });
const rooms = (page: Page) => page.getByRole("form", { name: "People, suppliers and places" });
const saveRooms = (page: Page) => page.getByRole("button", { name: "Save people, suppliers and places" });

test("two people change the lists at once: what does not clash is merged, what does is shown", async ({
  page,
  browser,
  site,
}) => {
  const other = await (await browser.newContext()).newPage();
  await other.goto(`${site}/workshop/people`);
  await page.goto("/workshop/people");
  const [first, second] = [await person(page, 1).inputValue(), await person(page, 2).inputValue()];

  await person(other, 2).fill("Odile Renamed");
  await saveRooms(other).click();
  await expect(saveRooms(other)).toBeDisabled();
  // Typed meanwhile, and still there.
  await person(page, 1).fill(`${first} the First`);
  await saveRooms(page).click();
  await expect(saveRooms(page)).toBeDisabled();
  await expect(person(page, 1)).toHaveValue(`${first} the First`);
  await expect(person(page, 2)).toHaveValue("Odile Renamed");
  await page.reload();
  await expect(person(page, 1)).toHaveValue(`${first} the First`);

  // The other page still has the first name as it was.
  await person(other, 1).fill("Somebody Else");
  await saveRooms(other).click();
  const notice = rooms(other).getByRole("alert");
  await expect(notice).toContainText("Somebody else changed the same meanwhile");
  await expect(notice.getByRole("row").nth(1)).toContainText(`${first} the First`);
  await notice.getByRole("button", { name: "Take theirs" }).click();
  await expect(notice).toBeHidden();
  await expect(person(other, 1)).toHaveValue(`${first} the First`);
  expect(second).not.toBe("");
  await other.context().close();
});

test("two people change the workshop at once: each keeps what the other did not touch", async ({
  page,
  browser,
  site,
}) => {
  const other = await (await browser.newContext()).newPage();
  for (const [p, url] of [
    [page, "/workshop"],
    [other, `${site}/workshop`],
  ] as const)
    await p.goto(url);
  const form = (p: Page) => p.getByRole("form", { name: "The workshop" });
  await form(other).getByLabel("Address on labels").fill("http://192.168.1.20:4321");
  await form(other).getByRole("button", { name: "Save" }).click();
  await expect(form(other).getByRole("button", { name: "Save" })).toBeDisabled();
  await form(page).getByLabel("Name of the workshop").fill("Quarry Lane, both");
  await form(page).getByRole("button", { name: "Save" }).click();
  await expect(form(page).getByLabel("Address on labels")).toHaveValue("http://192.168.1.20:4321");
  await expect(form(page).getByLabel("Name of the workshop")).toHaveValue("Quarry Lane, both");
  await other.context().close();
});

test("while the server is gone the page says that it waits, keeps what is typed, and goes on by itself", async ({
  page,
  database,
}) => {
  const first = await startServer(database);
  await page.goto(`${first.url}/jars`);
  await page
    .getByRole("link", { name: /11\/0 seed, honey/ })
    .first()
    .click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("11/0 seed, honey");
  const title = await page.getByRole("heading", { level: 1 }).textContent();
  await first.stop();
  await page.getByRole("link", { name: "Workshop" }).click();
  await expect(page.getByText("Waiting for the workshop’s server")).toBeVisible();
  const again = await startServer(database, false, new URL(first.url).port);
  await expect(page.getByText("Waiting for the workshop’s server")).toBeHidden({ timeout: 15_000 });
  await expect(page.getByLabel("Name of the workshop")).toHaveValue("Quarry Lane Bead Post");
  expect(title).not.toBe("");
  await again.stop();
});

test.describe("with a job process", () => {
  test("a backup is made and proved when asked; an archive takes the place of everything once both are shown", async ({
    page,
    database,
    site,
  }) => {
    const folder = mkdtempSync(join(tmpdir(), "jar-count-backups-"));
    const care = await startCare(database, folder);
    await page.goto("/workshop/data");
    const backups = page.getByRole("region", { name: "Backups, scrolls sideways" });
    // One at the start, since there was none; and one for the asking.
    await expect(backups.getByRole("row").nth(1)).toContainText("yes", { timeout: 60_000 });
    await page.getByRole("button", { name: "Back up now" }).click();
    await expect(backups).toContainText("asked for", { timeout: 60_000 });
    await expect(page.getByText("every count is what its movements add up to")).toBeVisible();

    const empty = await startServer(await makeDatabase("e2e_empty_template"));
    const zip = Buffer.from(await (await fetch(`${empty.url}/api/archive`)).arrayBuffer());
    const mine = Buffer.from(await (await fetch(`${site}/api/archive`)).arrayBuffer());
    await empty.stop();
    await page
      .getByLabel("Archive file")
      .setInputFiles({ name: "empty.zip", mimeType: "application/zip", buffer: zip });
    const dialog = page.getByRole("dialog", { name: "Put this archive in the place of everything?" });
    await expect(dialog.getByRole("row", { name: /Components/ })).toContainText(/122\s*0/);
    await expect(dialog.getByRole("row", { name: /Workshop/ })).toContainText("Quarry Lane Bead Post");
    await dialog.getByRole("button", { name: "Leave everything as it is" }).click();
    expect(Buffer.from(await (await fetch(`${site}/api/archive`)).arrayBuffer()).equals(mine)).toBe(true);

    await page
      .getByLabel("Archive file")
      .setInputFiles({ name: "empty.zip", mimeType: "application/zip", buffer: zip });
    await dialog.getByRole("button", { name: "Replace everything" }).click();
    await expect(page.getByText(/^Restored\. What was here is kept in/)).toBeVisible({ timeout: 60_000 });
    await expect(page.getByRole("main").getByText("My workshop").first()).toBeVisible();
    const kept = readdirSync(folder).filter((f) => f.includes("before-a-restore"));
    expect(kept).toHaveLength(1);
    expect(readFileSync(join(folder, kept[0]!)).equals(mine)).toBe(true);
    await care.stop();
    rmSync(folder, { recursive: true });
  });
});

test("without a job process the page says whose the backups are", async ({ page }) => {
  await page.goto("/workshop/data");
  await expect(page.getByText("No job process looks after this database")).toBeVisible();
  await expect(page.getByRole("button", { name: "Back up now" })).toBeHidden();
});

test("two people change an order at once: lines and note of both are kept", async ({ page, browser, site }) => {
  const other = await (await browser.newContext()).newPage();
  const order = async (p: Page, base: string) => {
    await p.goto(`${base}/orders`);
    await p.getByRole("link", { name: "LG-0412" }).click();
    await expect(p.getByRole("form", { name: "The order" })).toBeVisible();
  };
  await order(page, "");
  await order(other, site);
  const save = (p: Page) => p.getByRole("button", { name: "Save the order" });
  await other.getByLabel("Note").fill("by post");
  await save(other).click();
  await expect(save(other)).toBeDisabled();
  await page.getByLabel("Number", { exact: true }).fill("LG-0412-B");
  await save(page).click();
  await expect(save(page)).toBeDisabled();
  await expect(page.getByLabel("Number", { exact: true })).toHaveValue("LG-0412-B");
  await expect(page.getByLabel("Note")).toHaveValue("by post");
  await other.context().close();
});
