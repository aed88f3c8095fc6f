/**
 * What-ifs and how many, on a box of 56 variants of 60 roles: from a key to the numbers on screen. The opponents share
 * no code with it: the same run as a spreadsheet of lines and sums, in a general formula engine, where one cell
 * changes; and the number to make by plain enumeration. The spreadsheet must come to the same cost.
 */
import { randomUUID } from "node:crypto";
import { createRequire } from "node:module";
import { HyperFormula } from "hyperformula";
import { fill } from "./ahead.mjs";
import { putBox, putDesigns } from "./large.mjs";

const [VARIANTS, BOXES] = [56, 40];
const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];

export async function money(url, databaseUrl, executablePath, report) {
  const db = new (createRequire(import.meta.url)("pg").Client)(databaseUrl);
  db.on("error", () => {});
  await db.connect();
  const thread = await fill(db);
  await db.query(
    `insert into offers (component_id, position, pack, amount, unit, price)
     select id, 0, 'strand of 50', 50, 'piece', 2 + (substr(code, 2)::int % 97) / 100.0 from components
     where code ~ '^A[0-9]+$'`,
  );
  const { rows } = await db.query(`select id from components where code ~ '^A[0-9]+$' order by code`);
  await db.end();
  const json = async (path, method = "GET", body = undefined) => {
    const sent = body && { headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
    const answer = await fetch(`${url}${path}`, { method, ...sent });
    const text = await answer.json();
    if (!answer.ok) throw new Error(`${path}: ${JSON.stringify(text)}`);
    return text;
  };
  const channel = randomUUID();
  const { version, made: _made, ...terms } = await json("/api/money");
  const own = { id: channel, name: "shop", feeRate: 0.02, feeFixed: "0.20", taxRate: 0.2, discounts: [], gift: null };
  await json("/api/money", "PUT", { version, money: { ...terms, wage: "14.40", channels: [own] } });
  const { version: on, today: _today, ...workshop } = await json("/api/workshop");
  const everyBead = { id: "bench", name: "one more of every bead", kinds: ["bead"], add: 1 };
  await json("/api/workshop", "PUT", { version: on, workshop: { ...workshop, spares: [everyBead] } });
  const components = rows.map((r) => r.id);
  const of = { month: "2031-05", theme: "Wide", colourways: 50, boxes: BOXES, thread };
  const designs = await putDesigns(url);
  const box = await putBox(url, designs, components, of);
  const { box: now } = await json(`/api/boxes/${box}`);
  const second = randomUUID();
  const put = now.variants.slice(0, VARIANTS - now.variants.length).map((v) => ({ ...v, second, id: undefined }));
  await json(`/api/boxes/${box}`, "PATCH", {
    version: now.version,
    changes: {
      seconds: { put: [{ id: second, name: "gold" }] },
      variants: { put },
      prices: { put: [{ channel, single: "400" }] },
    },
  });
  const usual = await putBox(url, designs, components, { ...of, month: "2031-06", theme: "Usual", colourways: 8 });
  await json(`/api/boxes/${usual}`, "PATCH", {
    version: 1,
    changes: { prices: { put: [{ channel, single: "400" }] } },
  });
  await sell(json);

  const { chromium } = await import("@playwright/test");
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/months/${box}/cost?view=what-if`);
  await page.getByRole("button", { name: "Try something" }).click();
  await page.getByTestId("tried-What if 1").waitFor();
  const change = page.getByLabel("Change");
  for (const [what, field, texts] of [
    ["price", "Tried price", ["410.00", "420.00", "431.00", "442.00"]],
    ["boxes", "Tried boxes", ["2300", "2400", "2500", "2600"]],
    ["wage", "Tried wage", ["15.00", "16.00", "17.00", "18.00"]],
    ["rate", "Tried seconds", ["2", "3", "4", "5"]],
    ["spare", "Tried spares", ["21", "22", "23", "24"]],
  ]) {
    await change.selectOption(what);
    const times = [];
    for (const text of [...texts, ...texts]) times.push(await keyToNumbers(page, field, text, "tried-What if 1"));
    report.line(
      `a what-if on 56 variants × 60 roles, ${what}: key to all numbers painted`,
      `median ${at(times, 0.5).toFixed(0)} ms, p95 ${at(times, 0.95).toFixed(0)} ms`,
      [[at(times, 0.95), 100]],
    );
  }
  const shown = await page.getByTestId("tried-As it is").getByRole("cell").nth(1).textContent();

  const howMany = async (of) => {
    await page.goto(`${url}/months/${of}/cost?view=how-many`);
    await page.getByLabel("One too many costs").fill("30");
    await page.getByTestId("make").waitFor();
    const times = [];
    for (const text of ["300", "100", "50", "20", "300", "100", "50", "20"]) {
      times.push(await keyToNumbers(page, "One too many costs", text, "how-many-words"));
    }
    return times;
  };
  const eight = await howMany(usual);
  report.line(
    "how many to make, 10,000 resamples of 8 colourways, about 2,200 buyers: key to the sentence painted",
    `median ${at(eight, 0.5).toFixed(0)} ms, p95 ${at(eight, 0.95).toFixed(0)} ms`,
    [[at(eight, 0.95), 300]],
  );
  const times = await howMany(box);
  await browser.close();
  report.line(
    "how many to make, 10,000 resamples of 56 variants, about 2,200 buyers: key to the sentence painted",
    `median ${at(times, 0.5).toFixed(0)} ms, p95 ${at(times, 0.95).toFixed(0)} ms`,
    [[at(times, 0.95), 300]],
  );

  const { variants } = await json(`/api/boxes/${box}/bill`);
  const { components: known } = await json("/api/components");
  spreadsheet(variants, known, shown, report);
  enumeration(report);
}

/** Eight months of sales, as a table. */
async function sell(json) {
  const rows = Array.from({ length: 8 }, (_, m) => ({
    order: `B${m}`,
    day: `2030-0${m + 1}-10`,
    month: `2030-0${m + 1}`,
    box: `Sold ${m}`,
    quantity: String(1800 + 97 * ((m * 5) % 8)),
  }));
  await json("/api/imports/sales", "POST", { requestKey: randomUUID(), name: "sales.csv", rows });
}

/** From the key that completes a field's text until another text is painted in a place of the page, ms. */
const keyToNumbers = (page, label, text, place) =>
  page.evaluate(
    async ([label, text, place]) => {
      const field = document.querySelector(`input[type=text][aria-label="${label}"]`);
      const shown = () => document.querySelector(`[data-testid="${place}"]`).textContent;
      const before = shown();
      const setter = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
      const start = performance.now();
      setter.call(field, text);
      field.dispatchEvent(new Event("input", { bubbles: true }));
      while (shown() === before) {
        if (performance.now() - start > 10_000) throw new Error(`${label} ${text} changes nothing in ${place}`);
        await new Promise((frame) => requestAnimationFrame(frame));
      }
      await new Promise((frame) => requestAnimationFrame(() => setTimeout(frame)));
      return performance.now() - start;
    },
    [label, text, place],
  );

/** The run's lines as a sheet: so many of each at so much, rounded and added up; the price of one bead changes. */
function spreadsheet(variants, known, shown, report) {
  const costOf = new Map(known.map((c) => [c.id, c.offers[0] ? Number(c.offers[0].price) / c.offers[0].amount : 0]));
  const ids = [...new Set(variants.flatMap((v) => v.lines.map((l) => l.component)))];
  const rowOf = new Map(ids.map((id, i) => [id, i + 1]));
  const costs = ids.map((id) => [costOf.get(id)]);
  const lines = variants.map((v) => [
    v.boxes,
    `=(${v.lines.map((l) => `ROUND(${l.run}*Costs!A${rowOf.get(l.component)},2)`).join("+")})/${v.boxes}`,
  ]);
  const foot = [null, `=SUMPRODUCT(A1:A${lines.length},B1:B${lines.length})/SUM(A1:A${lines.length})`];
  const sheets = { Costs: costs, Box: [...lines, foot] };
  const engine = HyperFormula.buildFromSheets(sheets, { licenseKey: "gpl-v3" });
  const total = () => engine.getCellValue({ sheet: 1, row: lines.length, col: 1 });
  const material = total();
  // Ours holds the work and the fees as well: the spreadsheet's parts are most of it.
  const ours = Number(shown.replace(/[£,]/g, ""));
  if (!(material > 0.5 * ours && material < ours)) throw new Error(`the sheet says ${material}, the page ${ours}`);
  const times = Array.from({ length: 20 }, (_, i) => {
    const start = performance.now();
    engine.setCellContents({ sheet: 0, row: i, col: 0 }, 0.07 + i / 100);
    for (let row = 0; row < lines.length; row++) engine.getCellValue({ sheet: 1, row, col: 1 });
    total();
    return performance.now() - start;
  });
  report.note(
    `baseline, the parts alone in a spreadsheet engine, one bead's price changed, without page or paint: median ` +
      `${at(times, 0.5).toFixed(1)} ms`,
  );
}

/** Ten thousand times: months drawn with replacement, and the number that earns most found by trying all of them. */
function enumeration(report) {
  const months = Array.from({ length: 8 }, (_, m) => 1800 + 97 * ((m * 5) % 8));
  const [over, under] = [20, 60];
  const start = performance.now();
  let sum = 0;
  for (let t = 0; t < 10_000; t++) {
    const drawn = months.map(() => months[Math.floor(Math.random() * months.length)]);
    let [best, most] = [0, -Infinity];
    for (let n = 0; n <= 2500; n++) {
      let profit = 0;
      for (const d of drawn) profit += under * Math.min(d, n) - over * Math.max(0, n - d);
      if (profit > most) [best, most] = [n, profit];
    }
    sum += best;
  }
  report.note(
    `baseline, 10,000 resamples by plain enumeration of every number, without colourways: ` +
      `${(performance.now() - start).toFixed(0)} ms (mean ${(sum / 10_000).toFixed(0)})`,
  );
}
