/**
 * What a person feels, against a running server: from a key to its paint, from a click to what it opens, bytes that are
 * really sent, and many readers at once from a process of their own. Each figure stands beside its aim and beside a
 * baseline of the same run. The waits between are a person's pace: a key is measured when the one before is done
 * with, and a page when it is idle.
 */
import { chromium as browserType } from "@playwright/test";
import { fork } from "node:child_process";
import { fileURLToPath } from "node:url";
import { fillLarge } from "./large.mjs";

const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];

/** Times from each key or press to the paint behind it, as the page itself sees them. */
const WATCH = `
  window.paints = [];
  for (const type of ["keydown", "click", "pointermove"]) addEventListener(type, (e) => {
    const began = e.timeStamp;
    requestAnimationFrame(() => {
      const { port1, port2 } = new MessageChannel();
      port1.onmessage = () => window.paints.push({ type, ms: performance.now() - began });
      port2.postMessage(0);
    });
  }, true);
`;

/** Until the page has painted and has nothing left to do. */
const idle = (page) =>
  page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestIdleCallback(() => done()))));

/** A key as a person presses it, and as long until the next one, ms: the one before is done with by then. */
const press = (page, key, delay) => page.keyboard.press(key, { delay });

/** Larger, larger, smaller, smaller, as a person presses: forty steps. */
async function zoom(page) {
  for (let i = 0; i < 40; i++)
    await page.getByRole("button", { name: i % 4 < 2 ? "Larger" : "Smaller", exact: true }).click({ delay: 100 });
}

/** Does something on the page, and returns the times from each event of a type to the paint behind it, ms. */
async function paintsOf(page, work, type = "keydown") {
  await page.evaluate(() => (window.paints.length = 0));
  await work();
  await idle(page);
  return page.evaluate((type) => window.paints.filter((p) => p.type === type).map((p) => p.ms), type);
}

/** From pressing something until a selector's content is painted. */
const opens = (page, press, selector) =>
  page.evaluate(
    ([press, selector]) =>
      new Promise((done) => {
        const began = performance.now();
        const look = () => {
          if (!document.querySelector(selector)) return;
          seen.disconnect();
          requestAnimationFrame(() => setTimeout(() => done(performance.now() - began)));
        };
        const seen = new MutationObserver(look);
        seen.observe(document.body, { childList: true, subtree: true });
        [...document.querySelectorAll("a, button")].find((x) => x.textContent.trim().endsWith(press)).click();
        look();
      }),
    [press, selector],
  );

export async function person(url, databaseUrl, executablePath, report) {
  const { box, components } = await fillLarge(url, databaseUrl);
  const browser = await browserType.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  await context.addInitScript(WATCH);
  const page = await context.newPage();

  // The baseline: a bare field in an empty page.
  await page.goto(`${url}/api/health`);
  await page.setContent("<input id=f>");
  await page.evaluate(WATCH);
  await page.locator("#f").click();
  const bare = await paintsOf(page, async () => {
    for (let i = 0; i < 60; i++) {
      await press(page, i % 2 ? "Backspace" : "7", 40);
    }
  });
  const base = { median: at(bare, 0.5), p95: at(bare, 0.95) };
  report.note(`baseline, a key in a bare field of an empty page: median ${base.median.toFixed(0)} ms`);
  const painted = (name, list, aimMedian, aimP95) => {
    const [median, p95] = [at(list, 0.5), at(list, 0.95)];
    const times = `${(median / base.median).toFixed(1)} times a bare field`;
    report.line(name, `median ${median.toFixed(0)} ms, p95 ${p95.toFixed(0)} ms (${times})`, [
      [median, aimMedian],
      [p95, aimP95],
    ]);
  };

  await firstPage(context, url, report);
  await page.goto(`${url}/months/${box}/theme`);
  await page.getByRole("navigation", { name: "Stages of the box" }).waitFor();
  await page.waitForLoadState("networkidle");
  for (const [stage, selector] of [
    ["Colours", "[data-cell]"],
    ["Counts", "[data-testid^=need-]"],
  ]) {
    const times = [];
    for (let i = 0; i < 5; i++) {
      await opens(page, "Theme", "input[type=month]");
      await idle(page);
      times.push(await opens(page, stage, selector));
      await idle(page);
    }
    // The first time its code comes as well: the cold case is the worst of these.
    report.line(`open ${stage}, large box`, `median ${at(times, 0.5).toFixed(0)} ms, cold ${times[0].toFixed(0)} ms`, [
      [at(times, 0.5), 200],
    ]);
  }

  await opens(page, "Colours", "[data-cell]");
  await idle(page);
  const saves = [];
  page.on("response", async (r) => {
    if (!/^(PUT|PATCH)$/.test(r.request().method()) || !r.url().includes("/api/boxes/")) return;
    const { responseBodySize, requestBodySize } = await r.request().sizes();
    const { requestStart, responseEnd } = r.request().timing();
    saves.push({ sent: requestBodySize, got: responseBodySize, ms: responseEnd - requestStart });
  });
  const field = page.getByLabel(/^Boxes of/).first();
  await field.click();
  painted(
    "a box number typed, key to paint",
    await paintsOf(page, async () => {
      await page.keyboard.press("End");
      for (let i = 0; i < 40; i++) {
        await press(page, i % 4 < 2 ? "5" : "Backspace", 120);
      }
    }),
    50,
    80,
  );
  const chosen = [];
  for (let i = 0; i < 8; i++) {
    await page.locator(`[data-cell="${i},2"]`).click();
    await page.keyboard.type(`tone ${100 + i}`);
    await idle(page);
    const saved = page.waitForResponse((r) => r.request().method() === "PATCH" && r.url().includes("/api/boxes/"));
    chosen.push(...(await paintsOf(page, () => page.keyboard.press("Enter"))));
    await saved;
  }
  painted("a component chosen in a cell", chosen, 80, 120);
  const worst = saves.reduce((a, b) => (a.ms > b.ms ? a : b));
  report.line(
    "an autosave",
    `sends ${(
      at(
        saves.map((s) => s.sent),
        0.5,
      ) / 1000
    ).toFixed(1)} kB, gets ` +
      `${(
        at(
          saves.map((s) => s.got),
          0.5,
        ) / 1000
      ).toFixed(1)} kB, median ${at(
        saves.map((s) => s.ms),
        0.5,
      ).toFixed(0)} ms ` +
      `(longest ${worst.ms.toFixed(0)})`,
    [
      [
        at(
          saves.map((s) => s.sent),
          0.5,
        ) / 1000,
        10,
      ],
      [
        at(
          saves.map((s) => s.ms),
          0.5,
        ),
        40,
      ],
    ],
  );

  await typing(page, url, painted);
  await strip(page, url, painted, report);
  await pieces(page, url, painted);
  await library(page, url, report);
  await jars(context, url, painted, report);
  await browser.close();
  await readers(url, box, components, report);
}

/** What is sent for the first page, as it comes over the wire. */
async function firstPage(context, url, report) {
  const page = await context.newPage();
  let sent = 0;
  const sizes = [];
  page.on("response", (r) => {
    if (/\.(js|css|html)$|\/$/.test(new URL(r.url()).pathname)) sizes.push(r.request().sizes());
  });
  await page.goto(url);
  await page.locator("main h1").waitFor();
  await page.waitForLoadState("networkidle");
  for (const { responseBodySize } of await Promise.all(sizes)) sent += responseBodySize;
  report.line("first page, scripts, styles and page as sent", `${(sent / 1000).toFixed(0)} kB`, [[sent / 1000, 250]]);
  await page.close();
}

const KEYS = ["A", "B", "C", "D", "E", "F"].map((key, i) => ({
  key,
  name: `bead ${key}`,
  kind: "bead",
  alongMm: [1.41, 1.95, 4, 6, 4, 3][i],
}));

async function typing(page, url, painted) {
  const rows = Array.from({ length: 60 }, (_, i) => `row ${i + 1}: 3A 2B (A C) x3 B D >C E F 2A`).join("\n");
  const part = { id: "p", name: "Piece", stringing: "TH" };
  const key = [...KEYS, { key: "TH", name: "thread", kind: "stringing" }];
  const file = { format: "jar-count/design", version: 1, key };
  const plain = { ...file, name: "Sixty rows", parts: [{ ...part, steps: rows }] };
  const fitted = {
    ...file,
    name: "Fitted",
    sizes: ["S", "M", "L"].map((s) => ({ key: s })),
    parts: [{ ...part, targetMm: { S: 1700, M: 1800, L: 1900 }, steps: "(100A 100D) to length fill (A B C F)\n2A" }],
  };
  for (const [name, design, aim] of [
    ["typing, 60 rows, caret anywhere", plain, [25, 40]],
    ["typing beside a fit with four fill keys and three sizes", fitted, [40, 60]],
  ]) {
    const id = crypto.randomUUID();
    await fetch(`${url}/api/designs/${id}`, {
      method: "PUT",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ revision: 0, reason: "", design }),
    });
    await page.goto(`${url}/designs/${id}`);
    await page.locator(".cm-content").click();
    const places = ["Control+Home", "Control+End", "ArrowUp", "ArrowDown"];
    painted(
      name,
      await paintsOf(page, async () => {
        for (let i = 0; i < 160; i++) {
          if (i % 40 === 0) {
            await page.keyboard.press(places[(i / 40) % places.length]);
            await page.keyboard.press("End");
          }
          await press(page, ["Space", "C", "Backspace", "Backspace"][i % 4], 60);
        }
      }),
      ...aim,
    );
  }
}

async function putDesign(url, design) {
  const id = crypto.randomUUID();
  await fetch(`${url}/api/designs/${id}`, {
    method: "PUT",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ revision: 0, reason: "", design: { format: "jar-count/design", version: 2, ...design } }),
  });
  return id;
}

/** A stitched ring of 5,000 beads in eight rounds, and a necklace of 12 parts and 600 beads as it is worn. */
async function pieces(page, url, painted) {
  const rounds = ["(A B) x312", "(C, >A) x312", "(2D, >C) x312", "(2E, >D) x312", "(3F, >E) x312", "(3A, >F) x312"];
  const ring = {
    name: "Five thousand in the round",
    key: KEYS,
    parts: [{ id: "p", name: "Piece", laid: "ring", steps: [...rounds, "(3B, >A) x312\nlast: >A"].join("\n") }],
  };
  const subs = Array.from({ length: 10 }, (_, i) => ({
    id: `s${i}`,
    name: `Side ${i}`,
    as: `S${i}`,
    stringing: "TH",
    steps: "(A B C D) x15",
  }));
  const front = "S0, join F, S1, S2, join F, S3, S4, hang (D | C | D), S5, S6, join F, S7, S8, join F, S9";
  const necklace = {
    name: "Twelve parts",
    about: { kind: "necklace" },
    key: [...KEYS, { key: "TH", name: "thread", kind: "stringing" }],
    parts: [
      { id: "whole", name: "Whole", steps: "join F, FR, join F" },
      { id: "front", name: "Front", as: "FR", steps: front },
      ...subs,
    ],
  };
  for (const [what, design, key, aim] of [
    ["stitched ring of 5,000", ring, [40, 80], [16, 33]],
    ["necklace of 12 parts and 600 beads as worn", necklace, [25, 40], [16, 24]],
  ]) {
    await page.goto(`${url}/designs/${await putDesign(url, design)}`);
    const drawn = page.getByTestId("strand");
    await drawn.waitFor();
    await idle(page);
    painted(`zoom step, ${what}`, await paintsOf(page, () => zoom(page), "click"), ...aim);
    await page.locator(".cm-content").click();
    await page.keyboard.press("Control+End");
    const type = async () => {
      for (let i = 0; i < 80; i++) {
        await press(page, ["Space", "C", "Backspace", "Backspace"][i % 4], 80);
      }
    };
    painted(`a key, ${what}`, await paintsOf(page, type), ...key);
    const box = await drawn.boundingBox();
    await page.mouse.move(box.x + box.width / 2, box.y + box.height - 12);
    await page.mouse.down();
    const drag = async () => {
      for (let i = 0; i < 60; i++) {
        await page.mouse.move(box.x + box.width / 2 + i * 3, box.y + box.height - 12 - i * 2);
        await idle(page);
      }
    };
    painted(`a step of a drag, ${what}`, await paintsOf(page, drag, "pointermove"), 16, 24);
    await page.mouse.up();
  }
}

/** A library of 200 cards, scrolled down and up: how long its frames take the first time, and when all are drawn. */
async function library(page, url, report) {
  for (let i = 0; i < 200; i++) {
    const steps = `(A ${1 + (i % 5)}B C) to ${170 + i}mm fill A`;
    const about = { kind: i % 2 === 0 ? "bracelet" : "necklace" };
    await putDesign(url, { name: `Card ${i}`, about, key: KEYS, parts: [{ id: "p", name: "Strand", steps }] });
  }
  await page.goto(`${url}/designs`);
  await page
    .getByRole("link", { name: /Card 0/ })
    .first()
    .waitFor();
  const frames = () =>
    page.evaluate(async () => {
      const times = [];
      let last = performance.now();
      const host =
        document.scrollingElement.scrollHeight > innerHeight + 10
          ? document.scrollingElement
          : (document.querySelector("main").closest("[class*=overflow]") ?? document.scrollingElement);
      const far = host.scrollHeight - host.clientHeight;
      for (let i = 0; i <= 240; i++) {
        host.scrollTop = (i < 120 ? i / 120 : (240 - i) / 120) * far;
        await new Promise((done) => requestAnimationFrame(done));
        const now = performance.now();
        times.push(now - last);
        last = now;
      }
      return times.slice(1);
    });
  for (const which of ["first time", "drawn and kept"]) {
    const times = await frames();
    const [middle, slow] = [at(times, 0.5), at(times, 0.95)];
    report.line(`scrolling 200 cards, ${which}, a frame`, `median ${middle.toFixed(1)}, p95 ${slow.toFixed(1)} ms`, [
      [middle, 17],
      [slow, which === "first time" ? 50 : 20],
    ]);
  }
}

/** A strip of 5,000 beads: looked at larger and smaller, chosen from by dragging, and opened from the library. */
async function strip(page, url, painted, report) {
  const id = crypto.randomUUID();
  const parts = [{ id: "p", name: "Piece", steps: "(A B C D E F) x833 A B" }];
  await fetch(`${url}/api/designs/${id}`, {
    method: "PUT",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      revision: 0,
      reason: "",
      design: { format: "jar-count/design", version: 1, name: "Five thousand", key: KEYS, parts },
    }),
  });
  await page.goto(`${url}/designs/${id}`);
  const drawn = page.getByTestId("strand");
  await drawn.waitFor();
  await idle(page);
  painted("zoom step, strip of 5,000", await paintsOf(page, () => zoom(page), "click"), 16, 24);
  const box = await drawn.boundingBox();
  await page.mouse.move(box.x + 40, box.y + box.height / 2);
  await page.mouse.down();
  painted(
    "a step of a drag over a strip of 5,000",
    await paintsOf(
      page,
      async () => {
        for (let i = 0; i < 60; i++) {
          await page.mouse.move(box.x + 44 + i * 10, box.y + box.height / 2);
          await idle(page);
        }
      },
      "pointermove",
    ),
    16,
    24,
  );
  await page.mouse.up();
  const redrawn = await page.evaluate(async () => {
    const host = document.body.appendChild(document.createElement("div"));
    const times = [];
    for (let turn = 0; turn < 12; turn++) {
      const start = performance.now();
      host.innerHTML = `<svg viewBox="0 0 20000 40">${Array.from(
        { length: 5000 },
        (_, i) => `<circle cx="${i * 4}" cy="20" r="2" fill="#a52" stroke="#333" stroke-width=".2"/>`,
      ).join("")}</svg>`;
      host.getBoundingClientRect();
      await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
      times.push(performance.now() - start);
    }
    host.remove();
    return times;
  });
  report.note(`baseline, an element for each of 5,000 beads made anew: median ${at(redrawn, 0.5).toFixed(0)} ms`);
  const opened = [];
  for (let i = 0; i < 5; i++) {
    await page.goto(`${url}/designs`);
    await page.getByRole("link", { name: /Five thousand/ }).waitFor();
    await page.waitForLoadState("networkidle");
    opened.push(
      await page.evaluate(
        () =>
          new Promise((done) => {
            const began = performance.now();
            const look = () => {
              if (!document.querySelector(".cm-content") || !document.querySelector('[role="application"] canvas'))
                return;
              seen.disconnect();
              requestAnimationFrame(() => setTimeout(() => done(performance.now() - began)));
            };
            const seen = new MutationObserver(look);
            seen.observe(document.body, { childList: true, subtree: true });
            [...document.querySelectorAll("main a")].find((a) => a.textContent.includes("Five thousand")).click();
          }),
      ),
    );
  }
  report.line(
    "open a strip of 5,000 from the library, to editor and picture",
    `median ${at(opened, 0.5).toFixed(0)} ms, cold ${opened[0].toFixed(0)} ms`,
    [[at(opened, 0.5), 300]],
  );
}

async function jars(context, url, painted, report) {
  const page = await context.newPage();
  const times = [];
  for (let i = 0; i < 3; i++) {
    const began = Date.now();
    await page.goto(`${url}/jars`);
    await page.getByRole("table", { name: "Components" }).getByRole("link").first().waitFor();
    times.push(Date.now() - began);
  }
  report.line("jars of 20,000: rows painted", `median ${at(times, 0.5)} ms`, [[at(times, 0.5), 1000]]);
  await idle(page);
  await page.getByRole("searchbox", { name: "Find a component" }).click();
  painted(
    "jars of 20,000: a letter of a search",
    await paintsOf(page, async () => {
      for (let turn = 0; turn < 4; turn++) {
        for (const letter of "round 12") await press(page, letter === " " ? "Space" : letter, 80);
        for (let i = 0; i < 8; i++) await press(page, "Backspace", 80);
      }
    }),
    30,
    50,
  );
  await page.close();
}

/** Readers in a process of their own, so that their work is not the server's. */
function readAt(url, paths, many, rounds) {
  return new Promise((resolve) => {
    const child = fork(fileURLToPath(new URL("readers.mjs", import.meta.url)), [url, String(many), String(rounds)]);
    child.send(paths);
    child.once("message", resolve);
  });
}

async function readers(url, box, components, report) {
  const alone = await readAt(url, ["/api/health"], 1, 40);
  report.note(`baseline, one reader of health (select 1): p95 ${at(alone.times, 0.95).toFixed(0)} ms`);
  // A file of the page's own, sent as it lies on the disk: what 50 readers cost before anything is worked out.
  const script = /src="(\/assets\/[^"]+\.js)"/.exec(await (await fetch(url)).text())[1];
  const still = await readAt(url, [script], 50, 4);
  report.note(
    `baseline, 50 readers of a static file of ${(still.bytes / 1000).toFixed(0)} kB: p95 ` +
      `${at(still.times, 0.95).toFixed(0)} ms`,
  );
  for (const [name, path, aim] of [
    ["50 readers of the boxes list", "/api/boxes", 150],
    ["50 readers of a large bill.csv", `/api/boxes/${box}/bill.csv`, 1000],
  ]) {
    const { times, errors } = await readAt(url, [path], 50, 4);
    const beside = `${(at(times, 0.95) / at(still.times, 0.95)).toFixed(1)} times the static file`;
    report.line(name, `p95 ${at(times, 0.95).toFixed(0)} ms with the cold one in it (${beside}), ${errors} errors`, [
      [at(times, 0.95), aim],
    ]);
  }
  // After one move of stock nobody holds the list any more.
  await fetch(`${url}/api/components/${components[0]}/stock`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ requestKey: crypto.randomUUID(), kind: "received", quantity: 5, note: "" }),
  });
  const [lists, health] = await Promise.all([
    readAt(url, ["/api/components"], 50, 1),
    readAt(url, ["/api/health"], 1, 60),
  ]);
  const [slow, meanwhile] = [at(lists.times, 0.95), at(health.times, 0.95)];
  report.line(
    "50 readers of 20,000 components after one move",
    `p95 ${slow.toFixed(0)} ms (${(slow / at(still.times, 0.95)).toFixed(1)} times the static file), ` +
      `${(lists.bytes / 1000).toFixed(0)} kB each; health meanwhile p95 ${meanwhile.toFixed(0)} ms`,
    [
      [slow, 2000],
      [meanwhile, 50],
    ],
  );
}
