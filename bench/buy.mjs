/**
 * Buying for 24 open boxes of 14 variants and 60 roles over 5,000 components with 3 offers each, and packing: what a
 * tap takes to be acknowledged, and how long a phone waits for the bench screen. The opponent buys pack by pack: always
 * one more of the pack that is cheapest for a piece, at its price without steps, until the need is covered.
 */
import { randomUUID } from "node:crypto";
import { createRequire } from "node:module";
import { fill } from "./ahead.mjs";
import { putBox, putDesigns } from "./large.mjs";

const [BOXES, VARIANTS] = [24, 14];
const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];
const ms = async (work) => {
  const start = performance.now();
  const result = await work();
  return [performance.now() - start, result];
};

export async function buy(url, databaseUrl, executablePath, report) {
  const db = new (createRequire(import.meta.url)("pg").Client)(databaseUrl);
  db.on("error", () => {});
  await db.connect();
  const thread = await fill(db);
  const supplier = randomUUID();
  await db.query(`insert into suppliers (id, position, name, lead_days) values ($1, 99, 'Lowfold', 12)`, [supplier]);
  // A strand with price steps, a large pack, and one that goes by the dozen.
  await db.query(
    `insert into offers (component_id, position, supplier_id, pack, amount, unit, price, steps, minimum)
     select c.id, x.position, $1, x.pack, x.amount, 'piece', x.price, x.steps::jsonb, x.minimum
     from components c, (values
       (0, 'strand', 48, 2.80, '[{"from": 10, "price": "2.52"}, {"from": 25, "price": "2.24"}]', 1),
       (1, 'large', 500, 21.50, '[]', 1), (2, 'dozen', 576, 24.00, '[{"from": 4, "price": "21.00"}]', 2))
       as x(position, pack, amount, price, steps, minimum)
     where c.code like 'A%'`,
    [supplier],
  );
  await db.query("analyze");
  const { rows } = await db.query(`select id from components where code like 'A%' order by code`);
  const components = rows.map((r) => r.id);
  const json = async (path, init) => {
    const answer = await fetch(`${url}${path}`, init);
    const body = await answer.json();
    if (!answer.ok) throw new Error(`${path}: ${JSON.stringify(body).slice(0, 300)}`);
    return body;
  };
  const send = (method, path, body) =>
    json(path, { method, headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
  const designs = await putDesigns(url);
  for (let i = 0; i < BOXES; i++) {
    const month = `${2031 + Math.floor(i / 12)}-${String((i % 12) + 1).padStart(2, "0")}`;
    await putBox(url, designs, components, {
      month,
      theme: `Open ${i}`,
      colourways: VARIANTS,
      boxes: 2 + i,
      thread,
      from: i * 200,
    });
  }
  const [cold, list] = await ms(() => json("/api/buy"));
  const warm = [];
  for (let i = 0; i < 12; i++) warm.push((await ms(() => json("/api/buy")))[0]);
  report.line(
    "a buy list, 24 boxes over 5,000 components with 3 offers each",
    `${list.lines.length.toLocaleString("en")} lines, median ${at(warm, 0.5).toFixed(0)} ms, ` +
      `p95 ${at(warm, 0.95).toFixed(0)} ms; first time after a start, every box counted, ${cold.toFixed(0)} ms`,
    [[at(warm, 0.95), 1000]],
  );
  const [plain, theirs] = await ms(async () => packByPack(await json("/api/components"), list));
  report.note(
    `baseline, pack by pack without steps: ${plain.toFixed(0)} ms for the same needs; ` +
      `it pays ${theirs.toFixed(2)}, we pay ${list.total}: ` +
      `${(100 * (1 - Number(list.total) / theirs)).toFixed(1)} % less`,
  );

  // Packing: the demo's April, half packed.
  const april = (await json("/api/boxes")).find((b) => b.theme === "Apiary").id;
  const { of } = await json(`/api/boxes/${april}/packing`);
  const wax = of.variants.find((v) => v.name === "Wax").id;
  const taps = [];
  for (let no = 46; no <= 65; no++) {
    const tap = { requestKey: randomUUID(), variant: wax, no, packed: true };
    taps.push((await ms(() => send("POST", `/api/boxes/${april}/packed`, tap)))[0]);
  }
  report.line(
    "a packing tap, sent until acknowledged: 16 needs posted",
    `median ${at(taps, 0.5).toFixed(0)} ms, p95 ${at(taps, 0.95).toFixed(0)} ms`,
    [[at(taps, 0.95), 100]],
  );
  await phone(url, april, executablePath, report);
  await db.end();
}

/** One more pack of the cheapest a piece until the need is covered, without steps; minimums as they are. */
function packByPack({ components }, list) {
  const offers = new Map(components.map((c) => [c.id, c.offers]));
  let paid = 0;
  for (const { component, need } of list.lines) {
    const sold = offers.get(component) ?? [];
    if (sold.length === 0) continue;
    const cheapest = sold.reduce((a, b) => (b.price / b.amount < a.price / a.amount ? b : a));
    let [packs, got] = [0, 0];
    while (got < need || packs < cheapest.minimum) {
      packs++;
      got += cheapest.amount;
    }
    paid += packs * Number(cheapest.price);
  }
  return paid;
}

/** A phone of the middle kind: 1.6 Mbit/s, 150 ms there and back, a processor four times slower. */
const PHONE = { offline: false, latency: 150, downloadThroughput: 1.6e6 / 8, uploadThroughput: 750e3 / 8 };

async function phone(url, box, executablePath, report) {
  const { chromium } = await import("@playwright/test");
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const loads = [];
  const painted = [];
  let bytes = 0;
  for (let i = 0; i < 7; i++) {
    const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
    const page = await context.newPage();
    await page.goto("about:blank");
    const cdp = await context.newCDPSession(page);
    await cdp.send("Network.enable");
    await cdp.send("Network.emulateNetworkConditions", PHONE);
    await cdp.send("Emulation.setCPUThrottlingRate", { rate: 4 });
    let sent = 0;
    cdp.on("Network.loadingFinished", (e) => (sent += e.encodedDataLength));
    await page.addInitScript(() => {
      new MutationObserver(() => {
        if (window.seen || !document.querySelector("[role=checkbox]")) return;
        window.seen = true;
        requestAnimationFrame(() => setTimeout(() => (window.painted = performance.now())));
      }).observe(document, { subtree: true, childList: true });
    });
    await page.goto(`${url}/pack/${box}?tab=bags`, { waitUntil: "commit" });
    await page.waitForFunction(() => window.painted, null, { polling: 250 });
    loads.push(await page.evaluate(() => window.painted));
    bytes = sent;
    // A tap, key to paint, and until it is written down.
    const button = page.getByRole("button", { name: /^Box \d+ is packed$/ });
    if (i < 3) {
      await button.waitFor();
      painted.push(
        await page.evaluate(() => {
          const tap = [...document.querySelectorAll("button")].find((b) => /is packed$/.test(b.textContent));
          const counted = document.querySelector("[data-testid=packed]");
          const [before, start] = [counted.textContent, performance.now()];
          tap.click();
          return new Promise((done) => {
            const look = () =>
              counted.textContent === before
                ? requestAnimationFrame(look)
                : setTimeout(() => done(performance.now() - start));
            look();
          });
        }),
      );
    }
    await context.close();
  }
  await browser.close();
  report.line(
    "the bench screen on a throttled phone (390 px, 1.6 Mbit/s, 150 ms, CPU ÷ 4), address to first bag painted",
    `median ${at(loads, 0.5).toFixed(0)} ms, most ${Math.max(...loads).toFixed(0)} ms; ${(bytes / 1000).toFixed(0)} kB`,
    [[at(loads, 0.5), 2000]],
  );
  report.line(
    "a packing tap on that phone, to paint",
    `median ${at(painted, 0.5).toFixed(0)} ms, most ${Math.max(...painted).toFixed(0)} ms`,
    [[at(painted, 0.5), 100]],
  );
}
