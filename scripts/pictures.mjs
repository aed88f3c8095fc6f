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

const bench = (theme, tab) => `/pack/${named(boxes, "theme", theme)}?tab=${tab}`;
const [DESK, PHONE] = [
  { width: 1280, height: 800 },
  { width: 390, height: 844 },
];

/** Name, address, theme, what is done on the page before, and how large it is. */
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
  [
    "what-if",
    `${box("Letterpress")}/cost?view=what-if`,
    "light",
    async (page) => {
      const begin = page.getByRole("button", { name: "Try something", exact: true });
      if (await begin.isVisible()) {
        await begin.click();
        await page.getByLabel("Change").selectOption("a price");
        await page.getByLabel("Tried price", { exact: true }).fill("26.50");
        await page.getByLabel("Change").selectOption("how many boxes");
        await page.getByLabel("Tried boxes", { exact: true }).fill("150");
        await page.getByLabel("Name of the what-if").fill("Dearer, and fewer of them");
        await page.getByRole("button", { name: "Try something else" }).click();
        await page.getByLabel("Change").last().selectOption("how long work takes");
        await page.getByLabel("Tried seconds", { exact: true }).fill("1");
        await page.getByLabel("Name of the what-if").last().fill("Counted by weight");
        await page.getByText("· saved").waitFor();
      }
      await page.getByTestId("tried-Counted by weight").waitFor();
    },
  ],
  ["price", `${box("Apiary")}/cost?view=price`],
  [
    "how-many",
    `${box("Letterpress")}/cost?view=how-many`,
    "light",
    async (page) => void (await page.getByTestId("make").waitFor()),
  ],
  ["look-back", "/look-back", "light", async (page) => void (await page.getByTestId("looked-back").first().waitFor())],
  ["ahead", "/ahead"],
  ["jars", "/jars"],
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
  ["buy", `/buy?boxes=${named(boxes, "theme", "Letterpress")}`],
  ["pack-box", `${box("Apiary")}/pack`],
  ["pick-list", bench("Apiary", "pick"), "light", null, PHONE],
  [
    "packing",
    bench("Apiary", "bags"),
    "light",
    async (page) => {
      for (const name of [/11.0 seed, propolis/, /11.0 seed, wax/, /4 mm cube, honey/])
        await page.getByRole("checkbox", { name }).click();
    },
    PHONE,
  ],
  ["box-sent", `${box("Glaze Shelf")}/pack`],
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
for (const [name, path, theme = "light", act = null, viewport = DESK] of PICTURES) {
  if (only && only !== name) continue;
  const page = await browser.newPage({
    viewport,
    locale: "en-GB",
    timezoneId: "Europe/London",
  });
  await page.addInitScript(
    (t) => localStorage.setItem("jar-count/settings", JSON.stringify({ state: { unit: "in", theme: t }, version: 0 })),
    theme,
  );
  await page.goto(url + path);
  await page.locator("h1, main input").first().waitFor();
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => document.fonts.ready);
  await act?.(page);
  await page.screenshot({ path: join(root, `docs/screenshots/${name}.png`) });
  await page.close();
  console.log(`docs/screenshots/${name}.png`);
}
await browser.close();
