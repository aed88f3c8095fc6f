import { expect, openDesign, openMonth, rows, save, stage, test, toggleKey, writeRows } from "./fixtures.ts";

test("an unknown key is marked in its place, told of with the way out, and the rest is counted", async ({ page }) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  await writeRows(page, "2H Zz 3e\nsecond: (r");
  const tally = page.getByRole("complementary", { name: "Tally" });
  await expect(tally).toContainText("There is no Zz in the bead key");
  await expect(tally).toContainText("never closed");
  await expect(page.locator(".cm-lintRange-error").first()).toHaveText("Zz");
  await expect(page.getByTestId("leading")).toHaveText("6");
  await tally.getByRole("button", { name: "Band, row 2" }).click();
  await expect(rows(page)).toBeFocused();
});

test("absurd numbers and a name of 10,000 characters get a message and lose nothing", async ({ page }) => {
  await openDesign(page, "Dye Vat Swings");
  await page.getByRole("group", { name: "Parts" }).getByRole("button", { name: "Chip bar" }).click();
  await page.getByRole("button", { name: "mm", exact: true }).click();
  await toggleKey(page, "t");
  const along = page.getByLabel("Along the thread, t");
  const [name, mm] = [await page.getByLabel("Name of the design").inputValue(), await along.inputValue()];
  await writeRows(page, "(7c) x1000000000 t");
  await expect(page.getByRole("complementary", { name: "Tally" })).toContainText("at most 100,000");
  await page.getByLabel("Name of the design").fill("N".repeat(10_000));
  await expect(page.getByText("A name has at most 200 characters; this has 10,000.")).toBeVisible();
  await expect(page.getByLabel("Name of the design")).toHaveValue("N".repeat(10_000));
  await page.getByLabel("Along the thread, t").fill("-4");
  await expect(page.getByText("Write a length such as 6 or 1/4in.")).toBeVisible();
  await page.getByLabel("Along the thread, t").fill("999999");
  await expect(page.getByText("A length is at most 100 m.")).toBeVisible();
  // What was typed stands as it was typed, and what it was typed over is still the design's: it is there again later.
  await expect(rows(page)).toHaveText("(7c) x1000000000 t");
  await expect(along).toHaveValue("999999");
  await page.reload();
  await page.getByRole("group", { name: "Parts" }).getByRole("button", { name: "Chip bar" }).click();
  await expect(rows(page)).toHaveText("(7c) x1000000000 t");
  await expect(page.getByLabel("Name of the design")).toHaveValue(name);
  await toggleKey(page, "t");
  await expect(along).toHaveValue(mm);
});

test("a broken or foreign file is refused with the reason, and nothing is changed", async ({ page }) => {
  await page.goto("/designs");
  const file = page.getByLabel("Design file", { exact: true });
  const put = (text: string) =>
    file.setInputFiles({ name: "strange.json", mimeType: "application/json", buffer: Buffer.from(text) });
  const alert = page.getByRole("alert");
  await put('{"format": "jar-count/design", "ver');
  await expect(alert).toContainText("cut short");
  await put('{"type":"FeatureCollection","features":[]}');
  await expect(alert).toContainText("not a Jar Count design file");
  await put(JSON.stringify({ format: "jar-count/design", version: 3, name: "Later", key: [], parts: [] }));
  await expect(alert).toContainText("versions 1 and 2");
  await put(
    JSON.stringify({
      format: "jar-count/design",
      version: 1,
      name: "Twice",
      key: [
        { key: "A", name: "a", kind: "bead" },
        { key: "A", name: "b", kind: "bead" },
      ],
      parts: [],
    }),
  );
  await expect(alert).toContainText("Key A is there twice");
  await expect(page.getByText("16 in the library")).toBeVisible();
});

test("two tabs on one design: the later save is told, both are shown, and the choice is the person's", async ({
  page,
  context,
}) => {
  await openDesign(page, "Warp Rope Bracelet");
  const other = await context.newPage();
  // The other tab stands for another person: its own drafts, the same server.
  await other.goto(page.url());
  await other.getByLabel("Name of the design").fill("Warp Rope, theirs");
  await save(other);

  await page.getByLabel("Name of the design").fill("Warp Rope, mine");
  await page.getByRole("button", { name: /^Save revision/ }).click();
  await expect(page.getByText("This design was changed elsewhere since you opened it.")).toBeVisible();
  await page.getByRole("button", { name: "Compare the two" }).click();
  const compared = page.getByRole("dialog", { name: "Yours and theirs" });
  await expect(compared.getByRole("row", { name: /name/ })).toContainText("Warp Rope, mineWarp Rope, theirs");
  await compared.getByRole("button", { name: "Close" }).click();
  await page.getByRole("button", { name: "Keep mine" }).click();
  await expect(page.getByText(/^Revision 3, saved/)).toBeVisible();
  await expect(page.getByLabel("Name of the design")).toHaveValue("Warp Rope, mine");
});

test("two tabs on one box: theirs can be taken", async ({ page, context, site }) => {
  await openMonth(page, "Dye Garden");
  await stage(page, "Theme");
  const id = new URL(page.url()).pathname.split("/")[2]!;
  // Somebody else saves the box by the API.
  const { box } = (await (await context.request.get(`${site}/api/boxes/${id}`)).json()) as {
    box: { id: string; version: number };
  };
  const { id: _id, version, ...input } = box;
  expect(
    (
      await context.request.put(`${site}/api/boxes/${id}`, {
        data: { version, box: { ...input, theme: "Dye Garden, theirs" } },
      })
    ).status(),
  ).toBe(200);
  await page.getByRole("textbox", { name: "Theme", exact: true }).fill("Dye Garden, mine");
  await expect(page.getByText("This box was changed elsewhere since you opened it.")).toBeVisible();
  await page.getByRole("button", { name: "Take theirs" }).click();
  await expect(page.getByRole("heading", { name: "Dye Garden, theirs" })).toBeVisible();
});

test("what is pointed at stays where it is while a box is saved", async ({ page }) => {
  await openMonth(page, "Type Drawer");
  await stage(page, "Theme");
  const saving = page.getByRole("main").getByRole("status").first();
  await expect(saving).toHaveText("saved");
  // In every frame from here on: what is said of the saving, and where the stages stand.
  await page.evaluate(() => {
    const seen = new Map<string, number>();
    const stages = document.querySelector("nav[aria-label='Stages of the box']")!;
    const look = () => {
      const { top } = stages.getBoundingClientRect();
      seen.set(`${document.querySelector("main [role=status]")!.textContent} ${top}`, top);
      requestAnimationFrame(look);
    };
    look();
    Object.assign(window, { seen });
  });
  await page.getByRole("textbox", { name: "Theme", exact: true }).fill("Type Tray");
  await expect(page.getByRole("heading", { name: "Type Tray", level: 1 })).toBeVisible();
  await expect(saving).toHaveText("saved");
  const seen = await page.evaluate(() => [...(window as unknown as { seen: Map<string, number> }).seen]);
  expect(seen.map(([said]) => said).join()).toContain("Not saved yet");
  expect(new Set(seen.map(([, top]) => top)).size).toBe(1);
});

test("what is typed survives a reload, and undo takes it back", async ({ page }) => {
  await openDesign(page, "Kiln Door Earrings");
  const before = await rows(page).innerText();
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" 7R");
  await expect(page.getByTestId("count-R-0")).toHaveText("26");
  await page.reload();
  await expect(page.getByTestId("count-R-0")).toHaveText("26");
  await expect(page.getByText("Not saved yet")).toBeVisible();
  await expect(rows(page)).toContainText("7R");
  await page.keyboard.press("Escape");
  await rows(page).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" D");
  await expect(page.getByTestId("count-D-0")).toHaveText("14");
  await page.keyboard.press("Control+z");
  await expect(page.getByTestId("count-D-0")).toHaveText("12");
  await page.keyboard.press("Control+Shift+z");
  await expect(page.getByTestId("count-D-0")).toHaveText("14");
  expect(before).toContain("ring");
});

test("counted stock sets the jar, shows its movements and mends the shortage", async ({ page }) => {
  await openMonth(page, "Letterpress");
  await stage(page, "Counts");
  const row = page.getByTestId("need-B04-SEPI");
  await expect(row).toContainText("short by");
  await row.getByRole("link").first().click();
  await page.getByLabel("What happened").selectOption("Counted");
  await page.getByLabel("How many are in it").fill("12.5");
  await expect(page.getByText("Write a whole number.")).toBeVisible();
  await page.getByLabel("How many are in it").fill("5,000");
  await page.getByRole("button", { name: "Set to what was counted" }).click();
  await expect(page.getByTestId("on-hand")).toHaveText("5,000");
  await expect(page.getByRole("region", { name: "Movements", exact: true }).getByRole("row").nth(1)).toContainText(
    "counted",
  );
  await page.goBack();
  await expect(row).not.toContainText("short by");
});
