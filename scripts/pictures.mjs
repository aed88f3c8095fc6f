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
const [boxes, designs, { components }] = await Promise.all(["/boxes", "/designs", "/components"].map(get));
const box = (theme) => `/months/${named(boxes, "theme", theme)}`;
const design = (name) => `/designs/${named(designs, "name", name)}`;
const jar = (code) => `/jars/${named(components, "code", code)}`;

/** Name, address, theme, and what is done on the page before. */
const PICTURES = [
  [
    "bench",
    design("Smoke and Honey Stretch Bracelet"),
    "light",
    async (page) => {
      const strand = page.getByRole("application");
      await strand.focus();
      for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowRight");
      for (let i = 0; i < 3; i++) await page.keyboard.press("Shift+ArrowRight");
    },
  ],
  ["worn-necklace", design("Sluice Gate Necklace")],
  ["worn-earrings", design("Weir Drops")],
  ["bench-dark", design("Kiln Door Earrings"), "dark"],
  [
    "bench-notation",
    design("Press Bed Bracelet"),
    "light",
    async (page) => {
      await page.getByRole("button", { name: /^How rows are written/ }).click();
      await page.getByLabel("Find in the notation").fill("length");
      await page.getByTestId("construct-length").waitFor();
    },
  ],
  ["designs", "/designs"],
  ["box-designs", `${box("Letterpress")}/designs`],
  ["colour-tray", `${box("Letterpress")}/colours`],
  [
    "counts",
    `${box("Type Drawer")}/counts`,
    "light",
    async (page) => {
      await page.getByRole("button", { name: /^Who takes 4 mm bicone, vermilion/ }).click();
      await page.getByTestId("origin-total").waitFor();
    },
  ],
  ["cost", `${box("Glaze Shelf")}/cost`],
  ["lists", `${box("Dye Garden")}/lists`],
  ["ahead", "/ahead"],
  ["jars", "/jars"],
  ["jar", jar("R04-CELA")],
  [
    "weighing",
    `${jar("R06-SMOK")}/count`,
    "light",
    async (page) => {
      await page.getByRole("button", { name: "Use the simulated scale" }).click();
      await page.getByLabel("Empty jar, grams").fill("24.6");
      for (const [grams, where] of [
        [5.4, "Counted pieces"],
        [38.2, "The full jar"],
      ]) {
        await page.getByLabel("Lies on the simulated scale, grams").fill(String(grams));
        await page.getByRole("button", { name: "Put on" }).click();
        await page
          .getByRole("region", { name: where })
          .getByRole("button", { name: new RegExp(`^Take ${grams}`) })
          .click();
      }
    },
  ],
  [
    "import-preview",
    "/tables/deliveries",
    "light",
    async (page) => {
      const lines = [
        "Item;Qty;Paid;Location",
        "R08-HONE;50;4.10;B",
        "R08-NONE;50;4.10;B",
        "B04-PRUS;many;6.00;B",
        "S11-CELA;25;3.60;A",
        "CRIMP-2;500;5.50;C",
      ];
      await page
        .getByLabel("Table file")
        .setInputFiles({ name: "spring delivery.csv", mimeType: "text/csv", buffer: Buffer.from(lines.join("\n")) });
      await page.getByTestId("preview").waitFor();
      await page.getByRole("button", { name: "All lines" }).click();
    },
  ],
  [
    "stocktake",
    "/stocktakes",
    "light",
    async (page) => {
      await page.getByRole("button", { name: "Begin a walk" }).click();
      await page.getByTestId("walk-jar").waitFor();
    },
  ],
  ["orders", "/orders"],
  [
    "workshop",
    "/workshop",
    "light",
    async (page) => {
      await page.getByRole("button", { name: "Back up now" }).click();
      await page.getByRole("cell", { name: "asked for" }).first().waitFor({ timeout: 60_000 });
    },
  ],
];

const browser = await chromium.launch({ executablePath: program(), args: ["--no-sandbox", "--disable-gpu"] });
const only = process.argv[2];
for (const [name, path, theme = "light", act] of PICTURES) {
  if (only && only !== name) continue;
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "Europe/London",
  });
  await page.addInitScript(
    (t) => localStorage.setItem("jar-count/settings", JSON.stringify({ state: { unit: "in", theme: t }, version: 0 })),
    theme,
  );
  await page.goto(url + path);
  await page.locator("main h1, main input").first().waitFor();
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => document.fonts.ready);
  await act?.(page);
  await page.screenshot({ path: join(root, `docs/screenshots/${name}.png`) });
  await page.close();
  console.log(`docs/screenshots/${name}.png`);
}
await browser.close();
