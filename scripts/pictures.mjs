/**
 * Takes the pictures of docs/screenshots from the running demo: start it with JAR_COUNT_TODAY=2027-03-16 npm run demo
 * -- --reset, then npm run pictures. Look at each before it is committed.
 */
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { chromium as program, dataFolder, root } from "./machine.mjs";

/** Pictures are of one day, so that a new one shows what changed and nothing else. */
const DAY = "2027-03-16";
const { url } = JSON.parse(readFileSync(join(dataFolder, "running.json"), "utf8"));
const get = async (path) => (await fetch(`${url}/api${path}`)).json();
const { today } = await get("/workshop");
if (today !== DAY) {
  console.error(`The demo lives on ${today}: start it with JAR_COUNT_TODAY=${DAY} npm run demo -- --reset`);
  process.exit(1);
}
const named = (list, key, name) => list.find((x) => x[key] === name).id;
const [boxes, designs] = await Promise.all(["/boxes", "/designs"].map(get));
const box = (theme) => `/months/${named(boxes, "theme", theme)}`;
const design = (name) => `/designs/${named(designs, "name", name)}`;

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
  [
    "fit",
    design("Sampler: what passes"),
    "light",
    async (page) => {
      await page.getByRole("button", { name: /^Ways out/ }).click();
      await page.getByRole("button", { name: "Fold the crimp instead of pressing it flat" }).waitFor();
    },
  ],
  [
    "length",
    design("Glaze Drip Necklace"),
    "light",
    async (page) => {
      await page.getByRole("button", { name: /^Length in all/ }).click();
      await page.getByRole("list", { name: "Ways to this length" }).locator("canvas").nth(3).waitFor();
    },
  ],
  [
    "methods",
    design("Sluice Gate Necklace"),
    "light",
    async (page) => {
      await page.getByRole("group", { name: "Parts" }).getByRole("button", { name: "Front" }).first().click();
      await page.getByRole("button", { name: "Choose another" }).click();
      await page.getByLabel("Method", { exact: true }).selectOption("crimp-rounded 1");
      await page.getByLabel("Wires in it").selectOption("single");
    },
  ],
  [
    "sheet",
    `${box("Glaze Shelf")}/lists?list=sheet`,
    "light",
    async (page) => {
      await page.getByAltText(/^Door after hang/).waitFor();
      await page.getByRole("region", { name: "Door" }).evaluate((part) => part.scrollIntoView());
    },
  ],
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
      await begin.or(page.getByTestId("tried-Counted by weight")).first().waitFor();
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
  [
    "how-many",
    `${box("Letterpress")}/cost?view=how-many`,
    "light",
    async (page) => void (await page.getByTestId("make").waitFor()),
  ],
  [
    "look-back",
    "/look-back",
    "light",
    async (page) => void (await page.getByTestId("looked-back").first().waitFor()),
    PHONE,
  ],
  ["ahead", "/ahead"],
  ["jars", "/jars", "light", null, PHONE],
  ["buy", `/buy?boxes=${named(boxes, "theme", "Letterpress")}`],
  ["pack-box", `${box("Apiary")}/pack`, "light", (page) => page.getByTestId("packed-boxes").waitFor(), PHONE],
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
  [
    "workshop",
    "/workshop/data",
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
