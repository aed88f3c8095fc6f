/**
 * Takes the pictures of docs/screenshots from the running demo: start it with npm run demo -- --reset, then npm run
 * pictures. Look at each before it is committed.
 */
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { chromium as program, dataFolder, root } from "./machine.mjs";

const { url } = JSON.parse(readFileSync(join(dataFolder, "running.json"), "utf8"));
const get = async (path) => (await fetch(`${url}/api${path}`)).json();
const named = (list, key, name) => list.find((x) => x[key] === name).id;
const [boxes, designs, components] = await Promise.all(["/boxes", "/designs", "/components"].map(get));
const box = (theme) => `/months/${named(boxes, "theme", theme)}`;
const design = (name) => `/designs/${named(designs, "name", name)}`;

const PICTURES = [
  ["bench", design("Smoke and Honey Stretch Bracelet")],
  ["bench-dark", design("Kiln Door Earrings"), "dark"],
  ["designs", "/designs"],
  ["box-designs", `${box("Letterpress")}/designs`],
  ["colour-tray", `${box("Letterpress")}/colours`],
  ["counts", `${box("Apiary")}/counts`],
  ["counts-dark", `${box("Apiary")}/counts`, "dark"],
  ["cost", `${box("Glaze Shelf")}/cost`],
  ["jars", "/jars"],
  ["jar", `/jars/${named(components, "code", "S08-SMOK")}`],
];

const browser = await chromium.launch({ executablePath: program(), args: ["--no-sandbox", "--disable-gpu"] });
for (const [name, path, theme = "light"] of PICTURES) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: "en-GB", timezoneId: "Europe/London" });
  await page.addInitScript((t) => localStorage.setItem("jar-count/settings", JSON.stringify({ state: { unit: "in", theme: t }, version: 0 })), theme);
  await page.goto(url + path);
  await page.locator("main h1, main input").first().waitFor();
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(root, `docs/screenshots/${name}.png`) });
  await page.close();
  console.log(`docs/screenshots/${name}.png`);
}
await browser.close();
