import type { Page } from "@playwright/test";
import { expect, faults, openDesign, rows, save, startCare, test, writeRows } from "./fixtures.ts";
import { inDemo } from "../core/test/demoDay.ts";

/** Tabs of one browser beside each other, a browser without room, what is seen and what is written. */
const packed = (page: Page) => page.getByTestId("packed");
const written = (page: Page) => expect(page.getByTestId("sent")).toContainText("all written down");
const colourway = (page: Page, name: RegExp) =>
  page.getByRole("group", { name: "Colourway" }).getByRole("button", { name }).click();
const boxOf = async (page: Page, theme: string) => {
  const boxes = (await (await page.request.get("/api/boxes")).json()) as { id: string; theme: string }[];
  return boxes.find((b) => b.theme === theme)!.id;
};

test.describe("packing, on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 } });

  test("two tabs pack without a connection: every tap of both is sent, once", async ({ page, context }) => {
    const id = await boxOf(page, "Apiary");
    const other = await context.newPage();
    for (const p of [page, other]) {
      await p.goto(`/pack/${id}?tab=bags`);
      await expect(packed(p)).toHaveText("140");
      await colourway(p, /^Wax/);
    }
    await context.setOffline(true);
    for (const no of [46, 47]) await page.getByRole("button", { name: `Box ${no} is packed` }).click();
    // What the one tab tapped stands in the other one too.
    await expect(packed(other)).toHaveText("142");
    for (const no of [48, 49]) await other.getByRole("button", { name: `Box ${no} is packed` }).click();
    await expect(page.getByTestId("sent")).toContainText("4 taps wait for a connection: kept here, sent once.");
    await other.close();
    await page.reload({ waitUntil: "commit" }).catch(() => {});
    await context.setOffline(false);
    await page.goto(`/pack/${id}?tab=bags`);
    await written(page);
    await expect(packed(page)).toHaveText("144");
    const now = (await (await page.request.get(`/api/boxes/${id}/packing`)).json()) as { packed: { no: number }[] };
    expect(now.packed).toHaveLength(144);
  });

  test("a browser that can keep nothing sends each tap at once, and a double click packs one box", async ({ page }) => {
    const id = await boxOf(page, "Apiary");
    await page.addInitScript(() => {
      indexedDB.open = () => {
        throw new DOMException("no room", "QuotaExceededError");
      };
    });
    await page.goto(`/pack/${id}?tab=bags`);
    await colourway(page, /^Wax/);
    await page.getByRole("button", { name: "Box 46 is packed" }).dblclick();
    await written(page);
    await expect(packed(page)).toHaveText("141");
    await expect(page.getByRole("heading", { name: /^Box 47 of 70/ })).toBeVisible();
  });

  test("a swap is taken back where it was made, by its own name", async ({ page }) => {
    const id = await boxOf(page, "Apiary");
    await page.goto(`/pack/${id}?tab=bags`);
    await colourway(page, /^Wax/);
    const wrong = page.getByRole("button", { name: "Something is wrong with 8 mm glass round, wax" });
    await wrong.click();
    await page.getByRole("button", { name: "Put another in its place" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("Find").fill("8 mm glass round");
    await dialog.getByRole("button").filter({ hasText: "free" }).first().click();
    await written(page);
    await page.getByRole("button", { name: "Box 46 is packed" }).click();
    await written(page);
    await wrong.click();
    await page.getByRole("button", { name: /^Take back: 1 × .* in place of 8 mm glass round, wax/ }).click();
    await written(page);
    await wrong.click();
    await expect(page.getByRole("button", { name: /^Take back:/ })).toHaveCount(0);
  });
});

test("what is typed in one tab is there after another tab saved the same, and both are shown", async ({
  page,
  context,
}) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await writeRows(page, "12H");
  const other = await context.newPage();
  await other.goto(page.url());
  await writeRows(other, "24H");
  await save(other);
  await page.reload();
  await expect(rows(page)).toHaveText("12H");
  await expect(page.getByText("This design was changed elsewhere since you opened it.")).toBeVisible();
  await page.getByRole("button", { name: "Compare the two" }).click();
  await expect(page.getByRole("dialog", { name: "Yours and theirs" })).toContainText("24H");
});

test("a backup that failed is told of on the first page, until one is made", async ({ page, database }) => {
  const broken = await startCare(database, "/dev/full/backups");
  await page.goto("/");
  const alert = page.getByRole("alert").filter({ hasText: "The last backup failed." });
  await expect(async () => {
    await page.reload();
    await expect(alert).toBeVisible({ timeout: 1000 });
  }).toPass();
  await expect(alert).toContainText("The backup folder can't be written");
  expect(await faults(page)).toEqual([]);
  await alert.getByRole("link", { name: "See to it" }).click();
  await expect(page.getByRole("region", { name: "Backup and books" })).toContainText("failed: The backup folder");
  await broken.stop();
});

test("numbers that can be read in two ways are asked about before a line is looked at", async ({ page }) => {
  await page.goto("/tables/deliveries");
  const put = (text: string) =>
    page.getByLabel("Table file").setInputFiles({ name: "came.csv", mimeType: "text/csv", buffer: Buffer.from(text) });
  await put('code,quantity\nS11-HONEY,"1,250"\n');
  await expect(page.getByRole("alert")).toContainText("can be read in two ways");
  await expect(page.getByTestId("preview")).toBeHidden();
  expect(await faults(page)).toEqual([]);
  await page.getByLabel("Decimal mark").selectOption({ label: "a comma: 1.250,5" });
  await expect(page.getByTestId("preview")).toBeVisible();
  // Where it can be known, it is told and nobody is asked.
  await put('code,quantity\nS11-HONEY,"0,125"\n');
  await expect(page.getByLabel("Decimal mark")).toHaveValue(",");
  await put(`code,quantity\n${"S11-HONEY,1\n".repeat(50_001)}`);
  await expect(page.getByRole("status")).toContainText("at most 50,000 are taken at a time");
});

test("an order is written as it was shown, or not at all: a price that changed meanwhile is told", async ({ page }) => {
  await page.goto("/buy");
  await page.getByRole("button", { name: "Write the orders" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("Lowfold Glass Merchants");
  const { components } = (await (await page.request.get("/api/components")).json()) as {
    components: { id: string; code: string }[];
  };
  const ink = components.find((c) => c.code === "R06-INK")!;
  const read = await page.request.get(`/api/components/${ink.id}`);
  const { component } = (await read.json()) as { component: Record<string, unknown> & { offers: object[] } };
  const stock = ["id", "onHand", "u", "spokenFor", "onTheWay", "averageCost", "lastCost", "moved", "version"];
  const input = Object.fromEntries(Object.entries(component).filter(([name]) => !stock.includes(name)));
  const dearer = { ...input, offers: component.offers.map((o) => ({ ...o, price: "9.99", steps: [] })) };
  const saved = await page.request.put(`/api/components/${ink.id}`, {
    data: { version: component.version, component: dearer },
  });
  expect(saved.status()).toBe(200);
  await dialog.getByRole("button", { name: /^Write \d orders$/ }).click();
  await expect(dialog.getByRole("alert")).toContainText("were shown to bring");
  await expect(dialog.getByRole("alert")).toContainText("Nothing was ordered");
  const orders = (await (await page.request.get("/api/orders")).json()) as { placedOn: string }[];
  expect(orders.filter((o) => o.placedOn >= inDemo("2027-03-04"))).toEqual([]);
});
