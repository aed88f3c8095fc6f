import type { Page } from "@playwright/test";
import { expect, test } from "./fixtures.ts";

interface Named {
  id: string;
  theme: string;
  name: string;
  code: string;
  number: string;
}

/** The addresses of every main view in groups, of the demo's fullest boxes, designs, jars and orders. */
const GROUPS: Record<string, (page: Page) => Promise<string[]>> = {
  "a box that is planned": async (page) => ofBox(page, "Type Drawer", STAGES),
  "a box that is packed": async (page) => ofBox(page, "Apiary", [...STAGES, ...MONEY]),
  "designs and help": async (page) => {
    const design = (await get<Named[]>(page, "/api/designs")).find((d) => d.name === "Press Bed Bracelet")!.id;
    return [
      "/months/new",
      "/designs",
      `/designs/${design}`,
      "/designs/new",
      "/lessons/charm-row",
      "/help?find=earring",
    ];
  },
  "jars and buying": async (page) => {
    const { components } = await get<{ components: Named[] }>(page, "/api/components");
    const jar = components.find((c) => c.code === "R06-INK")!.id;
    const order = (await get<Named[]>(page, "/api/orders"))[0]!.id;
    return [
      ...["/jars", `/jars/${jar}`, `/jars/${jar}/count`, "/jars/new", "/tables/components", "/tables/sales"],
      ...["/ahead", "/ahead?show=all", "/buy", "/orders", `/orders/${order}`, "/orders/new", "/stocktakes"],
    ];
  },
  "the workshop": async () => [
    ...["/look-back", "/books", "/workshop", "/workshop/money", "/workshop/people", "/workshop/spares"],
    "/workshop/data",
  ],
};

const STAGES = ["theme", "designs", "colours", "counts", "cost", "lists", "lists?list=sheet", "pack"];
const MONEY = ["cost?view=what-if", "cost?view=price", "cost?view=how-many"];

const get = async <T>(page: Page, path: string) => (await (await page.request.get(path)).json()) as T;

async function ofBox(page: Page, theme: string, stages: readonly string[]): Promise<string[]> {
  const { id } = (await get<Named[]>(page, "/api/boxes")).find((b) => b.theme === theme)!;
  return stages.map((s) => `/months/${id}/${s}`);
}

/** What is wrong with a view: it scrolls sideways, one scroll is inside another, or a word is one letter a line. */
const look = (page: Page) =>
  page.evaluate(() => {
    const { clientWidth, scrollWidth } = document.documentElement;
    const shown = [...document.querySelectorAll<HTMLElement>("main *, aside *")].filter(
      (e) => e.offsetWidth > 1 && e.offsetHeight > 0,
    );
    const scrolls = (e: HTMLElement) =>
      /auto|scroll/.test(getComputedStyle(e).overflowY) && e.scrollHeight > e.clientHeight + 16;
    const words = (e: HTMLElement) =>
      [...e.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && n.textContent!.trim().length > 8);
    return [
      ...(scrollWidth > clientWidth ? [`${scrollWidth} px wide`] : []),
      ...shown.filter(scrolls).map((e) => `a scroll in the page: ${e.getAttribute("aria-label") ?? e.className}`),
      ...shown
        .filter((e) => words(e) && e.offsetWidth < 28 && e.offsetHeight > 60)
        .map((e) => `one letter a line: ${e.textContent!.slice(0, 30)}`),
    ];
  });

for (const [width, height] of [
  [390, 844],
  [768, 1024],
] as const) {
  test.describe(`${width} px wide`, () => {
    test.use({ viewport: { width, height } });

    for (const [group, addresses] of Object.entries(GROUPS)) {
      test(`every main view fits, with one scroll, and nothing reads one letter a line: ${group}`, async ({ page }) => {
        const wrong: Record<string, string[]> = {};
        for (const path of await addresses(page)) {
          await page.goto(path);
          await page.waitForLoadState("networkidle");
          await expect(page.locator("main h1, main input").first()).toBeVisible();
          const found = await look(page);
          if (found.length > 0) wrong[path.replace(/[0-9a-f-]{36}/, "…")] = found;
        }
        expect(wrong).toEqual({});
      });
    }
  });
}

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 } });

  test("the head is one line, and the menu leads to months and rooms", async ({ page }) => {
    await page.goto("/jars");
    const head = page.getByRole("banner").first();
    await expect(head).toContainText("Jar Count");
    expect((await head.boundingBox())!.height).toBeLessThanOrEqual(48);
    await page.getByRole("button", { name: "Menu", exact: true }).click();
    const menu = page.getByRole("navigation", { name: "Months and rooms" });
    await expect(menu.getByRole("link", { name: /Apiary/ })).toBeVisible();
    await menu.getByRole("link", { name: /^Buy/ }).click();
    await expect(page.getByRole("heading", { name: "Buy", level: 1 })).toBeVisible();
    await expect(menu).toBeHidden();
    await expect(head).toContainText("Buy");
    // By keyboard: it opens, takes the focus, and gives it back.
    await page.getByRole("button", { name: "Menu", exact: true }).focus();
    await page.keyboard.press("Enter");
    await expect(menu).toBeVisible();
    await page.keyboard.press("Escape");
    await expect(page.getByRole("button", { name: "Menu", exact: true })).toBeFocused();
  });
});
