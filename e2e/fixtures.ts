import { test as base, expect, type Page } from "@playwright/test";
import { type ChildProcess, fork } from "node:child_process";
import { randomUUID } from "node:crypto";
import { fileURLToPath } from "node:url";
import pg from "pg";

const root = fileURLToPath(new URL("../", import.meta.url));

const clusterUrl = () => {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set: run these tests with npm run test:browser.");
  return url;
};
const databaseUrl = (name: string) => clusterUrl().replace(/\/[^/]*$/, `/${name}`);

/** A new database, empty or a copy of a template. */
export async function makeDatabase(
  template = "template1",
  name = `e2e_${randomUUID().replaceAll("-", "")}`,
): Promise<string> {
  const admin = new pg.Client(clusterUrl());
  await admin.connect();
  await admin.query(`create database ${name} template ${template}`);
  await admin.end();
  return name;
}

export const DEMO = "e2e_demo_template";

/** Starts the built server, as the start script does, on a database. */
export async function startServer(database: string, demo = false): Promise<{ url: string; stop: () => Promise<void> }> {
  const child: ChildProcess = fork(`${root}server/dist/main.js`, demo ? ["--demo"] : [], {
    env: { ...process.env, DATABASE_URL: databaseUrl(database), PORT: "0" },
    stdio: ["ignore", "pipe", "inherit", "ipc"],
  });
  const port = await new Promise<string>((resolve, reject) => {
    child.once("exit", (code) => reject(new Error(`the server ended with ${code}`)));
    child.stdout!.on("data", (text: Buffer) => {
      const found = /^listening (\d+)$/m.exec(String(text));
      if (found) resolve(found[1]!);
    });
  });
  return {
    url: `http://127.0.0.1:${port}`,
    stop: async () => {
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

/** Every test has a workshop of its own: the demo's, or an empty one with `test.use({ demo: false })`. */
export const test = base.extend<{ demo: boolean; site: string; noErrors: void }>({
  demo: [true, { option: true }],
  site: async ({ demo }, use) => {
    const server = await startServer(await makeDatabase(demo ? DEMO : undefined));
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

export const openMonth = async (page: Page, theme: string) => {
  await page.goto("/designs");
  await page.getByRole("navigation", { name: "Months and rooms" }).getByRole("link", { name: theme }).click();
};

export const stage = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Stages of the box" }).getByRole("link", { name }).click();

export const save = async (page: Page) => {
  await page.getByRole("button", { name: /^Save revision/ }).click();
  await expect(page.getByText(/^Revision \d+, saved/)).toBeVisible();
};
