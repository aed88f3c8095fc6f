/** What one screen tells, another tells alike: read off the pages of every box of the demo, in every colourway. */
import type { Page } from "@playwright/test";
import type { BillAnswer, BoxDetail, BoxSummary, BuyList, ComponentList } from "../core/src/contract/index.ts";
import { countLineOf } from "../core/src/bom/index.ts";
import { expect, holdBack, test } from "./fixtures.ts";

const number = (text: string | null | undefined) => Number((text ?? "").replaceAll(",", "").replace(/[^\d.]/g, ""));
const tally = (page: Page) => page.getByRole("complementary", { name: "Tally" });
const row = (page: Page, label: string) =>
  tally(page)
    .locator("dt", { hasText: new RegExp(`^${label}`) })
    .locator("..")
    .locator("dd");

async function read(page: Page) {
  const get = async <T>(path: string) => (await (await page.request.get(`/api${path}`)).json()) as T;
  const { components } = await get<ComponentList>("/components");
  const boxes = await get<BoxSummary[]>("/boxes");
  return { get, boxes, of: new Map(components.map((c) => [c.id, c])) };
}

for (const theme of ["Glaze Shelf", "Apiary", "Dye Garden", "Letterpress", "Type Drawer"]) {
  test(`${theme}: counts, tally, designs, money and packing`, async ({ page }) => {
    const { get, boxes, of } = await read(page);
    const box = boxes.find((b) => b.theme === theme)!;
    const [bill, detail] = [await get<BillAnswer>(`/boxes/${box.id}/bill`), await get<BoxDetail>(`/boxes/${box.id}`)];

    await page.goto(`/months/${box.id}/counts`);
    for (const { id, name } of detail.box.colourways) {
      await page.getByRole("button", { name, exact: true }).click();
      const variants = bill.variants.filter((v) => v.first === id);
      await expect(page.getByText(`${variants.reduce((n, v) => n + v.boxes, 0)} boxes`, { exact: true })).toBeVisible();
      const runs = new Map<string, number>();
      for (const line of variants.flatMap((v) => v.lines))
        runs.set(line.component, (runs.get(line.component) ?? 0) + line.run);
      const short = new Map(variants.flatMap((v) => v.lines).map((l) => [l.component, l.short]));
      for (const [component, run] of runs) {
        const { code, baseUnit } = of.get(component)!;
        if (baseUnit !== "piece") continue;
        const cells = page.getByTestId(`need-${code}`).locator("td, th");
        await expect.poll(async () => number(await cells.nth(3).textContent()), `${name}, ${code}`).toBe(run);
        const lacking = (await cells.last().textContent()) ?? "";
        expect(lacking === "" ? 0 : number(lacking), `${name}, ${code}`).toBe(
          box.state === "sent" ? 0 : short.get(component),
        );
      }
    }
    // The tally tells how many things are short; so does the mark at the stage.
    const shortInAll = new Set(
      bill.variants.flatMap((v) => v.lines.flatMap((l) => (l.short > 0 ? [l.component] : []))),
    );
    if (box.state === "planned" || box.state === "committed")
      await expect(row(page, "Things short")).toHaveText(String(shortInAll.size));

    // What the run costs is the same beside every stage, and the sum of its colourways.
    const runCosts = await row(page, "The run costs").textContent();
    await page.goto(`/months/${box.id}/cost`);
    await expect(page.getByTestId("run-cost")).toHaveText(runCosts!);
    const each = await page
      .getByTestId("run-cost")
      .locator("xpath=ancestor::table")
      .locator("tbody tr td:last-child")
      .allTextContents();
    expect(each.reduce((sum, x) => sum + Math.round(number(x) * 100), 0)).toBe(Math.round(number(runCosts) * 100));
    await expect(row(page, "The run costs")).toHaveText(runCosts!);

    // Beads a box are those of the colourway that is shown.
    await page.goto(`/months/${box.id}/designs`);
    for (const { id, name } of detail.box.colourways) {
      const choice = page.getByRole("button", { name, exact: true });
      if ((await choice.count()) > 0) await choice.first().click();
      else if (id !== detail.box.colourways[0]!.id) continue;
      for (const line of detail.box.lines) {
        const { kit, pinned } = countLineOf(detail, { first: id, second: detail.box.seconds[0]?.id ?? null }, line.id)!;
        const beads = pinned.design.key.reduce(
          (n, e) => (["bead", "focal"].includes(e.kind) ? n + (kit.counts[e.key] ?? 0) * line.times : n),
          0,
        );
        const cells = page.getByRole("row", { name: new RegExp(pinned.design.name) }).first();
        await expect(cells, `${name}, ${pinned.design.name}`).toContainText(beads.toLocaleString("en-GB"));
      }
    }

    if (box.state === "committed") {
      const now = number(await page.getByTestId("leading").textContent());
      await page.goto(`/months/${box.id}/pack`);
      await expect(page.getByText(/can be packed with what is there now/)).toContainText(
        now === box.boxes ? "All that is left" : String(now),
      );
    }
  });
}

test("what Counts says is short, Buy has to buy and Ahead runs out of; a design's length is its sheet's", async ({
  page,
}) => {
  const { get, of } = await read(page);
  const list = await get<BuyList>("/buy");
  await page.goto("/buy");
  await expect(page.getByTestId(/^buy-/).first()).toBeVisible();
  // Of a long list only what is in sight is drawn.
  let seen = 0;
  for (const line of list.lines) {
    const { code, baseUnit } = of.get(line.component)!;
    const at = page.getByTestId(`buy-${code}`);
    if (baseUnit !== "piece" || (await at.count()) === 0) continue;
    seen++;
    await expect(at).toContainText(`${line.need.toLocaleString("en-GB")} lacking`);
  }
  expect(seen).toBeGreaterThan(4);
  await page.goto("/ahead");
  await expect(page.getByTestId("leading")).toHaveText(String(list.lines.length));
  for (const line of list.lines.slice(0, 3)) {
    const { code, baseUnit } = of.get(line.component)!;
    if (baseUnit !== "piece") continue;
    const at = page.getByTestId(`ahead-${code}`);
    await expect(at).toContainText(`${line.need.toLocaleString("en-GB")} lacking`);
    const [packs] = line.chosen;
    if (packs) await expect(at).toContainText(`${packs.packs} × ${packs.pack}`);
  }

  // Bench and sheet tell one finished length.
  const boxes = await get<BoxSummary[]>("/boxes");
  const box = boxes.find((b) => b.theme === "Dye Garden")!;
  const detail = await get<BoxDetail>(`/boxes/${box.id}`);
  // Until it is known that the box is committed, its plan is not shown for its frozen bill.
  const answer = await holdBack(page, `**/api/boxes/${box.id}/run`);
  await page.goto(`/months/${box.id}/lists?list=sheet`);
  await expect(page.getByRole("heading", { name: "Dye Garden", level: 1 })).toBeVisible();
  await expect(page.getByText("Fetching the list …")).toBeVisible();
  await expect(page.getByText(/^Comes out at/)).toHaveCount(0);
  await expect(page.getByTestId("leading")).toHaveText("…");
  answer();
  await expect(page.getByText(/^Comes out at/).first()).toBeVisible();
  const told = new Map<string, string>();
  for (const text of await page.getByText(/^Comes out at/).all()) {
    const part = (await text.locator("xpath=ancestor::section[1]").getAttribute("aria-label")) ?? "";
    told.set(part, ((await text.textContent()) ?? "").replace("Comes out at ", ""));
  }
  let compared = 0;
  // Of one size and option: else the sheet tells another than the bench opens with.
  const single = detail.designs.filter(({ design: { sizes, options } }) => !sizes?.length && !options?.length);
  for (const { designId, design } of single)
    for (const part of design.parts.filter((p) => told.has(p.name))) {
      await page.goto(`/designs/${designId}`);
      const tab = page.getByRole("group", { name: "Parts" }).getByRole("button", { name: part.name }).first();
      await tab.click();
      await expect(row(page, `${part.name} comes out`).first()).toHaveText(told.get(part.name)!);
      compared++;
    }
  expect(compared).toBeGreaterThan(0);
});
