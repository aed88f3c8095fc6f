import { expect, openDesign, rows, test, writeRows } from "./fixtures.ts";

test("a real scale over the serial port: its lines are read, moving and at rest, and a pulled plug is told", async ({
  page,
}) => {
  // A port as the browser's serial API has it, under the test's hand.
  await page.addInitScript(() => {
    let send: ReadableStreamDefaultController<Uint8Array>;
    const port = {
      open: async () => {},
      close: async () => {},
      readable: new ReadableStream<Uint8Array>({ start: (c) => void (send = c) }),
    };
    Object.defineProperty(navigator, "serial", { value: { requestPort: async () => port } });
    Object.assign(window, {
      line: (text: string) => send.enqueue(new TextEncoder().encode(text)),
      unplug: () => send.error(new Error("gone")),
    });
  });
  const line = (text: string) =>
    page.evaluate((t) => (window as unknown as { line: (t: string) => void }).line(t), text);
  await page.goto("/j/R06-SMOK");
  await page.getByRole("button", { name: "Connect a scale" }).click();
  await expect(page.getByText("waiting for the first line")).toBeVisible();
  await line("US,GS,+   12.10 g\r\n");
  await expect(page.getByTestId("scale")).toHaveText("12.10 g");
  await expect(
    page.getByRole("region", { name: "The full jar" }).getByRole("button", { name: "Waiting for the scale to rest" }),
  ).toBeDisabled();
  // A line that comes in two halves is one line.
  await line("ST,GS,+   24.");
  await line("60 g\r\n");
  await page
    .getByRole("region", { name: "The full jar" })
    .getByRole("button", { name: "Take 24.60 g from the scale" })
    .click();
  await line("OL\r\n");
  await expect(page.getByTestId("scale")).toHaveText("too heavy");
  await line("      5.00 oz\r\n");
  await expect(page.getByTestId("scale")).toHaveText("141.75 g");
  await page.evaluate(() => (window as unknown as { unplug: () => void }).unplug());
  await expect(page.getByRole("alert")).toContainText("can't be read any more");
  await expect(page.getByText("24.6 g", { exact: true })).toBeVisible();
});

test("a stretch is dragged to another place, and hovering lights bead, key and text", async ({ page }) => {
  await openDesign(page, "Dye Vat Swings");
  await page
    .getByRole("group", { name: "Parts" })
    .getByRole("button", { name: "Chip bar", exact: true })
    .or(page.getByRole("group", { name: "Parts" }).getByRole("button", { name: /^Chip bar/ }))
    .first()
    .click();
  await writeRows(page, "t 4c t 3c");
  const canvas = page.getByTestId("strand");
  await expect(canvas).toHaveAttribute("data-beads", "9");
  const scale = Number(await canvas.getAttribute("data-scale"));
  const box = (await canvas.boundingBox())!;
  // t is 1.2 mm along, c 3.8 mm.
  // Where the strand begins: the loop of its pin stands before it.
  const zero = Number(await canvas.getAttribute("data-zero"));
  const at = (mm: number) => [box.x + zero + mm * scale, box.y + box.height / 2] as const;
  await page.mouse.move(...at(3));
  await expect(page.locator(".cm-lit")).toHaveText("4c");
  await page.mouse.down();
  await page.mouse.up();
  await page.keyboard.down("Shift");
  await page.mouse.move(...at(7));
  await page.mouse.down();
  await page.mouse.up();
  await page.keyboard.up("Shift");
  await expect(page.getByTestId("chosen")).toContainText("2 beads");
  // Over the last bead's far half, and let go: the two stand at the end.
  await page.mouse.move(...at(4));
  await page.mouse.down();
  await page.mouse.move(...at(20), { steps: 4 });
  await page.mouse.move(...at(1.2 + 4 * 3.8 + 1.2 + 3 * 3.8 - 0.6), { steps: 4 });
  await page.mouse.up();
  await expect(rows(page)).toHaveText("t 2c t 5c");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(rows(page)).toHaveText("t 4c t 3c");
});

test("a jar is counted on a phone: nothing runs off its side, and the answer is in reach", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/j/R06-SMOK");
  await page.getByRole("button", { name: "By hand" }).click();
  await page.getByLabel("How many are in the jar").fill("48");
  await expect(page.getByText("2 fewer than the book's 50.")).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.getByRole("button", { name: "Set the jar to what was counted" }).click();
  await expect(page.getByTestId("free")).toHaveText("48");
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.goto("/jars");
  await expect(page.getByRole("table", { name: "Components" })).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
});

test("what can't reach the server is told, kept in its fields and sent once it is back, once", async ({
  page,
  context,
}) => {
  await page.goto("/j/R08-HONE");
  await page.getByRole("link", { name: "8 mm glass round, honey" }).click();
  const free = await page.getByTestId("free").textContent();
  await page.getByLabel("How many", { exact: true }).fill("50");
  await context.setOffline(true);
  await page.getByRole("button", { name: "Write down what came" }).click();
  await expect(page.getByText("The server can't be reached.").first()).toBeVisible();
  await expect(page.getByLabel("How many", { exact: true })).toHaveValue("50");
  await context.setOffline(false);
  await page.getByRole("button", { name: "Write down what came" }).click();
  await expect(page.getByTestId("free")).not.toHaveText(free!);
  await expect(page.getByTestId("movement").filter({ hasText: "+50" })).toHaveCount(1);
});

test("an edit that would bring an error is not made, and its error is told", async ({ page }) => {
  await openDesign(page, "Smoke and Honey Stretch Bracelet");
  const strand = page.getByRole("application", { name: /^Beads on the strand/ });
  await strand.focus();
  await page.keyboard.press("Home");
  await page.keyboard.press("Shift+End");
  const before = await rows(page).textContent();
  // The stretch holds the part's “to length”, which may not stand inside a repeat.
  await page.keyboard.press("r");
  await expect(page.getByRole("group", { name: "Building" }).getByRole("alert")).toBeVisible();
  await expect(rows(page)).toHaveText(before!);
});

test("two people change a component at once: the second is told and loses nothing", async ({ page, context }) => {
  await page.goto("/jars");
  await page.getByRole("searchbox", { name: "Find a component" }).fill("R08-HONE");
  await page.getByRole("table", { name: "Components" }).getByRole("link").click();
  await expect(page.getByLabel("Name", { exact: true })).toBeVisible();
  const other = await context.newPage();
  await other.goto(page.url());
  await other.getByLabel("Name", { exact: true }).fill("8 mm round, honey, renamed");
  await other.getByRole("button", { name: "Save the component" }).click();
  await expect(other.getByText("Saved.")).toBeVisible();
  await page.getByLabel("Notes").fill("Holes vary");
  await page.getByRole("button", { name: "Save the component" }).click();
  await expect(page.getByText("was changed elsewhere since you opened it")).toBeVisible();
  await expect(page.getByLabel("Notes")).toHaveValue("Holes vary");
  await page.getByRole("button", { name: "Keep mine" }).click();
  await page.getByRole("button", { name: "Save the component" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await other.close();
});
