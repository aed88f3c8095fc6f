import type { Page } from "@playwright/test";
import { expect, rows, save, sayToKey, stage, test } from "./fixtures.ts";
import { inDemo } from "../core/test/demoDay.ts";

/** The most clicks that a month may take from empty to sent; tried by hand it was 327. */
const MOST_CLICKS = 220;

/** Counts what a person does with the pointer: presses, and choosing from a list as two. */
async function countClicks(page: Page): Promise<() => Promise<number>> {
  await page.addInitScript(() => {
    const add = (n: number) =>
      sessionStorage.setItem("clicks", String(Number(sessionStorage.getItem("clicks") ?? "0") + n));
    addEventListener("click", (e) => e.isTrusted && e.detail > 0 && add(1), true);
    addEventListener("change", (e) => e.target instanceof HTMLSelectElement && add(2), true);
  });
  return () => page.evaluate(() => Number(sessionStorage.getItem("clicks")));
}

/** Adds the component that a cell asks for: nothing of it is there yet, and a pack of it can be bought. */
async function add(page: Page, cell: RegExp, holds: string, costs: string) {
  await page.getByRole("button", { name: cell }).click();
  await page.getByRole("button", { name: "Add this component" }).click();
  const form = page.getByRole("form", { name: "The new component" });
  await expect(form.getByLabel("Name", { exact: true })).toBeFocused();
  await form.getByLabel(/^A pack holds/).fill(holds);
  await form.getByLabel("A pack costs").fill(costs);
  await page.keyboard.press("Enter");
  await expect(form).toBeHidden();
}

test.describe("an empty workshop", () => {
  test.use({ demo: false });

  test("a month from empty to sent, without a detour and in few clicks", async ({ page }) => {
    const clicks = await countClicks(page);
    await page.goto("/");

    // What everything is written in is asked first.
    const setUp = page.getByRole("form", { name: "A new workshop" });
    await expect(setUp.getByLabel("Name of the workshop")).toBeFocused();
    await page.keyboard.type("Kiln Yard");
    await setUp.getByLabel("Currency").selectOption("EUR");
    await setUp.getByLabel("Lengths are measured in").selectOption("in");
    await page.getByRole("button", { name: "Open the workshop" }).click();

    // A design: rounds, a charm that hangs by a ring, strung on cord.
    await page.getByRole("link", { name: "Write the first design" }).click();
    await page.getByLabel("Name of the design").fill("Yard Gate Bracelet");
    for (const words of ["8 mm round", "12 mm charm", "5 mm jump ring", "1 mm cord"]) await sayToKey(page, words);
    await page.getByLabel("Strung on").selectOption({ label: "D · 1 mm cord" });
    await page.getByLabel("Each tail").fill("2 1/2");
    await page.getByRole("button", { name: /^More about B, / }).click();
    await page.getByText("Kind, looks and what it hangs by").click();
    await page.getByRole("button", { name: "Add what it hangs by" }).click();
    await page.getByLabel("What, b hangs by").selectOption({ label: "C · 5 mm jump ring" });
    await rows(page).click();
    await page.keyboard.type("10A hang B 11A");
    await expect(page.getByTestId("count-A-0")).toHaveText("21");
    await save(page);

    // Its month: ten boxes of one colourway, whose beads are added from the cells.
    await page.getByRole("link", { name: "Plan a month" }).click();
    await page.getByLabel("Month", { exact: true }).fill(inDemo("2027-09"));
    await page.getByLabel("Theme", { exact: true }).fill("Yard Gate");
    await page.getByRole("button", { name: "Plan it" }).click();
    await page.getByRole("button", { name: "Add a design" }).click();
    await page.keyboard.press("Enter");
    await expect(page.getByRole("link", { name: "Yard Gate Bracelet" })).toBeVisible();
    await stage(page, "Colours");
    await page.getByRole("button", { name: "Add a colourway" }).click();
    await expect(page.getByLabel("Name of the colourway Colourway 1")).toBeFocused();
    await page.keyboard.type("Deep leaf");
    await page.getByLabel("Boxes of Deep leaf").fill("10");
    await add(page, /^8 mm round, Deep leaf/, "250", "22");
    await add(page, /^12 mm charm, Deep leaf/, "12", "15");
    await add(page, /^5 mm jump ring, every colourway/, "100", "2.50");
    await add(page, /^1 mm cord, every colourway/, "10 m", "9");

    // What it lacks is bought of one supplier, named in one step.
    await page.getByRole("link", { name: "Buy g b" }).click();
    await page.getByLabel("Who sells them").fill("Marl and Tin");
    await page.getByRole("button", { name: "Sells all 4" }).click();
    await expect(page.getByRole("heading", { name: "To Marl and Tin" })).toBeVisible();
    await page.getByRole("button", { name: "Write the orders" }).click();
    await page.getByRole("button", { name: "Write it", exact: true }).click();
    await page.getByRole("dialog").getByRole("listitem").getByRole("link").click();
    await page.getByRole("button", { name: "Receive it" }).click();
    await expect(page.getByRole("form", { name: "Receive" })).toBeHidden();

    // Committed, packed, sent.
    await page.getByRole("link", { name: /Yard Gate/ }).click();
    await page.getByRole("button", { name: "Commit the box" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Commit", exact: true }).click();
    await expect(page.getByTestId("box-state")).toHaveText("Committed");
    await stage(page, "Pack");
    await page.getByRole("link", { name: "Pack at the bench" }).click();
    await page.getByRole("button", { name: "Bags", exact: true }).click();
    for (let no = 1; no <= 10; no++) {
      await page.getByRole("button", { name: `Box ${no} is packed` }).click();
      await expect(page.getByTestId("packed")).toHaveText(String(no));
    }
    await expect(page.getByText("all written down")).toBeVisible();
    await page.getByRole("link", { name: /^Yard Gate, / }).click();
    await page.getByRole("button", { name: "It goes out" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Send it" }).click();
    await expect(page.getByTestId("box-state")).toHaveText("Sent");
    expect(await clicks()).toBeLessThan(MOST_CLICKS);
  });
});
