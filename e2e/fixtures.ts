import { test as base, expect, type Page } from "@playwright/test";
import { randomUUID } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pg from "pg";
import { end, startJobs, startServer as start } from "../scripts/serve.mjs";

const addressOf = (variable: "TEST_DATABASE_URL" | "TEST_OWNER_URL", name: string) => {
  const url = process.env[variable];
  if (!url) throw new Error(`${variable} is not set: run these tests with npm run test:browser.`);
  return url.replace(/\/[^/]*$/, `/${name}`);
};
const urlsOf = (name: string) => ({
  url: addressOf("TEST_DATABASE_URL", name),
  ownerUrl: addressOf("TEST_OWNER_URL", name),
});

/** A new database, empty or a copy of a template. */
export async function makeDatabase(
  template = "template1",
  name = `e2e_${randomUUID().replaceAll("-", "")}`,
): Promise<string> {
  const admin = new pg.Client(addressOf("TEST_OWNER_URL", "postgres"));
  await admin.connect();
  await admin.query(`create database ${name} template ${template}`);
  await admin.end();
  return name;
}

export const EMPTY = "e2e_empty_template";
export const DEMO = "e2e_demo_template";

/** Lets a job process look after a database, until it is stopped. */
export async function startCare(database: string, backups: string): Promise<{ stop: () => Promise<void> }> {
  const child = await startJobs({ ...urlsOf(database), backups });
  return { stop: () => end(child) };
}

/** Brings a database up to date. */
export async function bringUpToDate(database: string): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), "jar-count-backups-"));
  const care = await startCare(database, folder);
  await care.stop();
  rmSync(folder, { recursive: true });
}

/** Starts the built server, as the start script does, on a database. */
export async function startServer(
  database: string,
  demo = false,
  port: string | number = 0,
): Promise<{ url: string; stop: () => Promise<void> }> {
  const { child, url } = await start({ url: urlsOf(database).url, demo, port });
  return { url, stop: () => end(child) };
}

/** Every test has a workshop of its own: the demo's, or an empty one with `test.use({ demo: false })`. */
export const test = base.extend<{ demo: boolean; database: string; site: string; noErrors: void }>({
  demo: [true, { option: true }],
  database: async ({ demo }, use) => {
    await use(await makeDatabase(demo ? DEMO : EMPTY));
  },
  site: async ({ database }, use) => {
    const server = await startServer(database);
    await use(server.url);
    await server.stop();
  },
  baseURL: async ({ site }, use) => use(site),
  noErrors: [
    async ({ page }, use) => {
      const errors: string[] = [];
      page.on("pageerror", (error) => errors.push(error.message));
      await use();
      expect(errors, "errors thrown in the page").toEqual([]);
    },
    { auto: true },
  ],
});
export { expect };

export const rows = (page: Page) => page.getByRole("textbox", { name: /^Rows of/ });

/** Replaces a part's text by typing it. */
export async function writeRows(page: Page, text: string) {
  await rows(page).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Delete");
  // Inserted as from the clipboard: brackets are not closed by themselves, as a paste isn't.
  await page.keyboard.insertText(text);
}

export const openDesign = async (page: Page, name: string) => {
  await page.goto("/designs");
  await page.getByRole("link", { name }).click();
  await expect(page.getByLabel("Name of the design")).toHaveValue(name);
};

/** Begins a design; its name is typed over the one that a new one has. */
export async function newDesign(page: Page, name?: string) {
  await page.goto("/designs");
  await page.getByRole("link", { name: "New design", exact: true }).click();
  await expect(rows(page)).toBeVisible();
  if (name !== undefined) await page.getByLabel("Name of the design").fill(name);
}

/** Adds to the bead key as a person says it; returns when its line is there. */
export async function addToKey(page: Page, words: string) {
  const field = page.getByRole("combobox", { name: "Add to the bead key" });
  await field.fill(words);
  await page.locator("[cmdk-item][data-value=new]").click();
  await expect(field).toHaveValue("");
}

/** Says a bead, and takes what Enter takes: a jar that is just that, else a new bead. */
export async function sayToKey(page: Page, words: string) {
  const field = page.getByRole("combobox", { name: "Add to the bead key" });
  await field.fill(words);
  await expect(page.locator("[cmdk-item][data-value=new]")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(field).toHaveValue("");
}

/** Opens a line of the bead key, or shuts it. */
export const toggleKey = (page: Page, key: string) =>
  page.getByRole("button", { name: new RegExp(`^More about ${key}, `) }).click();

/** The less used fields of the part at hand, and of the whole item. */
export const partFold = (page: Page) => page.getByText("This part’s strands, thread, cuts");
export const wholeFold = (page: Page) => page.getByText("The whole item: what it takes");

/** Chooses from what a design's head offers under “More”. */
export async function more(page: Page, what: string) {
  await page.getByRole("button", { name: "More", exact: true }).click();
  await page.getByRole("menuitem", { name: what }).click();
}

/** Holds the answers of some addresses back; returns how to let them go. */
export async function holdBack(page: Page, addresses: string | RegExp): Promise<() => void> {
  let letGo = () => {};
  const released = new Promise<void>((done) => (letGo = done));
  await page.route(addresses, async (route) => {
    await released;
    await route.fallback();
  });
  return letGo;
}

/** A new workshop's first page: what it is called and what it is written in. */
export async function setUp(page: Page) {
  await page.goto("/");
  await page.getByRole("button", { name: "Open the workshop" }).click();
  await expect(page.getByRole("heading", { name: "An empty workshop" })).toBeVisible();
}

export const openMonth = async (page: Page, theme: string) => {
  await page.goto("/designs");
  const menu = page.getByRole("button", { name: "Menu", exact: true });
  await expect(menu.or(page.getByRole("navigation", { name: "Months and rooms" }))).toBeVisible();
  if (await menu.isVisible()) await menu.click();
  await page.getByRole("navigation", { name: "Months and rooms" }).getByRole("link", { name: theme }).click();
};

export const stage = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Stages of the box" }).getByRole("link", { name }).click();

export const save = async (page: Page) => {
  await page.getByRole("button", { name: /^Save (revision|the design)/ }).click();
  await expect(page.getByText(/^Revision \d+, saved/)).toBeVisible();
};

const axe = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** What axe-core finds against WCAG 2.2 AA on the page as it stands. */
export async function faults(page: Page): Promise<string[]> {
  await page.evaluate(axe);
  return page.evaluate(async () => {
    const run = (
      window as unknown as {
        axe: { run: (c: Document, o: object) => Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
      }
    ).axe.run;
    const { violations } = await run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"] });
    return violations.map(
      (v) =>
        `${v.id}: ${v.nodes
          .slice(0, 3)
          .map((n) => n.html.slice(0, 160))
          .join(" | ")}`,
    );
  });
}
