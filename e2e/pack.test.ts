import type { Page } from "@playwright/test";
import { readFileSync } from "node:fs";
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";
import { expect, faults, openMonth, stage, test } from "./fixtures.ts";

const packed = (page: Page) => page.getByTestId("packed");
const written = (page: Page) => expect(page.getByTestId("sent")).toContainText("all written down");
const tab = (page: Page, name: string) =>
  page.getByRole("navigation", { name: "Lists" }).getByRole("button", { name }).click();
const colourway = (page: Page, name: RegExp) =>
  page.getByRole("group", { name: "Colourway" }).getByRole("button", { name }).click();
/** Opens the bench screen from the box. */
async function toBench(page: Page, theme: string) {
  await openMonth(page, theme);
  await stage(page, "Pack");
  await page.getByRole("link", { name: "Pack at the bench" }).click();
  await expect(packed(page)).toBeVisible();
}

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 } });

  test("boxes are packed while the connection is lost: kept, sent once, told", async ({ page, context, request }) => {
    const boxes = (await (await request.get("/api/boxes")).json()) as { id: string; theme: string }[];
    const { id } = boxes.find((b) => b.theme === "Apiary")!;
    await page.goto(`/pack/${id}`);
    await expect(packed(page)).toHaveText("140");
    // What to bring, in the order of the walk; a tap says that it is on the bench.
    const jar = page.getByRole("region", { name: "A, Seed bead drawers" }).getByRole("checkbox").first();
    await jar.click();
    await expect(jar).toBeChecked();
    expect((await jar.boundingBox())!.height).toBeGreaterThanOrEqual(44);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    for (const name of ["Pick", "Cut", "Bags"]) {
      await tab(page, name);
      expect(await faults(page), name).toEqual([]);
    }
    await page.getByLabel("Who packs").selectOption({ label: "Wren" });
    await colourway(page, /^Wax/);
    await expect(page.getByRole("heading", { name: /^Box 46 of 70/ })).toBeVisible();
    const row = page.getByRole("checkbox", { name: /8 mm glass round, wax/ });
    await row.click();
    await expect(row).toBeChecked();
    expect((await row.boundingBox())!.height).toBeGreaterThanOrEqual(44);

    await context.setOffline(true);
    await page.getByRole("button", { name: "Box 46 is packed" }).click();
    await page.getByRole("button", { name: "Box 47 is packed" }).click();
    await page.getByRole("button", { name: "Box 48 is packed" }).click();
    await expect(packed(page)).toHaveText("143");
    await expect(page.getByTestId("sent")).toContainText("3 taps wait for a connection: kept here, sent once.");
    // What was tapped by mistake is taken out again by the next tap.
    await page.getByRole("button", { name: "The box before" }).click();
    await page.getByRole("button", { name: "Take box 48 out again" }).click();
    await expect(packed(page)).toHaveText("142");
    await context.setOffline(false);
    await written(page);
    await expect(packed(page)).toHaveText("142");
    const now = (await (await request.get(`/api/boxes/${id}/packing`)).json()) as {
      packed: { no: number; person: string }[];
    };
    expect(now.packed).toHaveLength(142);
    expect(now.packed.filter((p) => p.person === "Wren").map((p) => p.no)).toEqual(expect.arrayContaining([46, 47]));
    await page.reload();
    await expect(packed(page)).toHaveText("142");
  });

  test("broken and swapped while packing are a tap; an empty jar asks for a count", async ({ page, request }) => {
    const boxes = (await (await request.get("/api/boxes")).json()) as { id: string; theme: string }[];
    const { id } = boxes.find((b) => b.theme === "Apiary")!;
    await page.goto(`/pack/${id}?tab=bags`);
    await colourway(page, /^Wax/);
    const name = "8 mm glass round, wax";
    await page.getByRole("button", { name: `Something is wrong with ${name}` }).click();
    await page.getByRole("button", { name: "Broke one" }).click();
    await written(page);
    await expect(page.getByRole("button", { name: "Broken: take it back" })).toBeVisible();
    await page.getByRole("button", { name: `Something is wrong with ${name}` }).click();
    await page.getByRole("button", { name: "Put another in its place" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("Find").fill("8 mm glass round");
    await dialog.getByRole("button").filter({ hasText: "free" }).first().click();
    await expect(page.getByRole("button", { name: "Swapped: take it back" })).toBeVisible();
    await page.getByRole("button", { name: "Swapped: take it back" }).click();
    await written(page);

    // By the book the jar is empty: its count is asked for, and the box is packed with it.
    const packing = (await (await request.get(`/api/boxes/${id}/packing`)).json()) as {
      stands: { component: string; place: string; quantity: number; lot: string }[];
      of: { components: { id: string; name: string }[] };
    };
    const wax = packing.of.components.find((c) => c.name === name)!.id;
    for (const s of packing.stands.filter((x) => x.component === wax)) {
      const counted = await request.post(`/api/components/${wax}/stock`, {
        data: {
          requestKey: crypto.randomUUID(),
          kind: "counted",
          place: s.place,
          lot: s.lot,
          quantity: 3,
          entered: "",
        },
      });
      expect(counted.status()).toBe(201);
    }
    await page.getByRole("button", { name: "Box 46 is packed" }).click();
    const asking = page.getByRole("alert", { name: /is not packed/ });
    await expect(asking).toContainText("by the book only 3 is there. Count the jar.");
    await expect(packed(page)).toHaveText("140");
    await asking.getByLabel(/^How many are in/).fill("600");
    await asking.getByRole("button", { name: "Set the jar, and pack it" }).click();
    await written(page);
    await expect(packed(page)).toHaveText("141");
    await expect(asking).toHaveCount(0);
  });

  test("a cut posts itself, and a bag is checked by weight", async ({ page, request }) => {
    const boxes = (await (await request.get("/api/boxes")).json()) as { id: string; theme: string }[];
    const { id } = boxes.find((b) => b.theme === "Apiary")!;
    await page.goto(`/pack/${id}?tab=cut`);
    const cord = page.getByRole("region", { name: "Stretch cord 0.8 mm" });
    const cuts = cord.getByRole("button", { name: "Cut" });
    await expect(cuts).toHaveCount(3);
    await cuts.first().click();
    await expect(cuts).toHaveCount(2);
    await written(page);
    await expect(page.getByRole("button", { name: "Cut: take it back" })).toBeVisible();

    await tab(page, "Bags");
    await colourway(page, /^Honey/);
    await page.getByRole("button", { name: "Check by weight" }).click();
    const check = page.getByRole("region", { name: "Check by weight" });
    const should = Number((await check.getByTestId("should-weigh").textContent())!.replace(" g", ""));
    expect(should).toBeGreaterThan(15);
    await expect(check).toContainText("Leave off the scale");
    await check.getByLabel("It weighs, g").fill(String(should));
    await expect(check.getByTestId("verdict")).toContainText("It fits");
    // Three rounds of 0.67 g less.
    await check.getByLabel("It weighs, g").fill((should - 3 * 0.672).toFixed(2));
    await expect(check.getByTestId("verdict")).toContainText("too light");
    await expect(check.getByTestId("verdict")).toContainText("3 × 8 mm glass round, honey");
    await check.getByRole("button", { name: "Use the simulated scale" }).click();
    await check.getByLabel("Lies on the simulated scale, grams").fill(should.toFixed(2));
    await check.getByRole("button", { name: "Put on" }).click();
    await expect(check.getByTestId("verdict")).toContainText("It fits");
  });
});

test("a label's code opens the list of its bag", async ({ page }) => {
  await openMonth(page, "Apiary");
  await stage(page, "Pack");
  await page.getByLabel("Labels for").selectOption("bags");
  await page.getByLabel("Colourway").selectOption({ label: "Smoke" });
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Labels, A4" }).click();
  const file = readFileSync(await (await waiting).path());
  const doc = await getDocument({ data: new Uint8Array(file), verbosity: 0 }).promise;
  expect(doc.numPages).toBe(Math.ceil(140 / 24));
  const { of, box } = await page.evaluate(async () => {
    const id = location.pathname.split("/")[2];
    return (await fetch(`/api/boxes/${id}/packing`)).json() as Promise<{
      box: string;
      of: { variants: { id: string; name: string }[] };
    }>;
  });
  const smoke = of.variants.find((v) => v.name === "Smoke")!.id;
  await page.goto(`/pack/${box}?v=${smoke.slice(0, 8)}&no=33&bag=2`);
  await expect(page.getByRole("heading", { name: "Box 33 of 70" })).toBeVisible();
  await expect(page.getByRole("group", { name: "Bag" }).getByRole("button", { pressed: true })).toContainText("Beside");
});

test("stopped at what is packed: the rest is given back, the box goes out, and is looked back on", async ({ page }) => {
  await openMonth(page, "Apiary");
  await stage(page, "Pack");
  await expect(page.getByTestId("packed-boxes")).toHaveText("140 of 280");
  await expect(page.getByTestId("packed-Smoke")).toContainText("8/0 seed, smoke, 66.6 g short");
  await expect(page.getByTestId("packed-Smoke")).toContainText(/LG-0412 was due .+, late/);
  await expect(page.getByRole("region", { name: "Told while packing" })).toContainText("Dagger 3 x 11 mm, honey");
  await expect(page.getByRole("button", { name: "Take it back" })).toHaveCount(0);
  const shelf = page.getByRole("link", { name: /Apiary/ });
  await expect(shelf).toContainText("140 of 280 packed");

  await page.getByRole("button", { name: "Stop at 140" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("What the other 140 speak for is free again at once");
  await dialog.getByRole("button", { name: "Stop at 140" }).click();
  await expect(page.getByText("Stopped there; what the rest spoke for is free again.")).toBeVisible();
  await page.getByRole("button", { name: "It goes out" }).click();
  await dialog.getByRole("button", { name: "Send it" }).click();
  await expect(page.getByTestId("box-state")).toHaveText("Sent");
  await expect(shelf).toContainText("sent");
  await expect(page.getByTestId("packed-boxes")).toHaveText("140 of 280");
  // What differs from the bill is shown first: what broke.
  const row = page.getByTestId("settled-R08-HONE");
  await expect(row).toContainText("1");
  await expect(page.getByText(/things were not used just as the bill said/)).toBeVisible();
  await page.getByRole("button", { name: /^All \d+ things$/ }).click();
  await expect(page.getByTestId("settled-S08-WAX")).toBeVisible();
  expect(await faults(page)).toEqual([]);
  // Nothing of it is spoken for any more.
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("R08-HONE");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await page.getByRole("button", { name: /are spoken for$/ }).click();
  await expect(page.getByTestId("origin")).toHaveCount(1);
  await expect(page.getByTestId("origin")).toContainText("Replacements for Apiary");
  await page.keyboard.press("Escape");
  // The bench screen says so, and packs nothing more.
  await page.goBack();
  await openMonth(page, "Apiary");
  await page.goto(
    page
      .url()
      .replace("/months/", "/pack/")
      .replace(/\/pack$/, "") + "?tab=bags",
  );
  await expect(page.getByText("This box is sent.")).toBeVisible();
});

test("a box that is not committed can't be packed, and says what comes first", async ({ page, request }) => {
  await openMonth(page, "Letterpress");
  await stage(page, "Pack");
  await expect(page.getByText("Not committed yet")).toBeVisible();
  const boxes = (await (await request.get("/api/boxes")).json()) as { id: string; theme: string }[];
  await page.goto(`/pack/${boxes.find((b) => b.theme === "Letterpress")!.id}`);
  await expect(page.getByRole("alert")).toContainText("its bill must be frozen first");
  await toBench(page, "Dye Garden");
  await expect(packed(page)).toHaveText("0");
});
