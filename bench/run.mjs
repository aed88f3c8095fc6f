/** `npm run bench`: counting, typing in Chromium, the first page's weight and many readers, each with its baseline. `npm run bench -- typing` runs one. */
import { fork, spawnSync } from "node:child_process";
import { readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { clusterFolder, startCluster } from "../scripts/cluster.mjs";
import { ensureBuild, ensureChromium, ensureDependencies, ensurePostgres, root } from "../scripts/machine.mjs";

await ensureDependencies();
await ensureBuild();
const executablePath = await ensureChromium();
const { chromium } = await import("@playwright/test");
const programs = await ensurePostgres();

const asked = process.argv[2];
const wanted = (name) => asked === undefined || asked === name;

if (wanted("counting")) {
  console.log("\nCounting, one Node thread");
  spawnSync("npx", ["--no-install", "vite", "build", "bench", "--logLevel", "error"], { cwd: root, stdio: "inherit" });
  spawnSync("node", ["bench/dist/counting.js"], { cwd: root, stdio: "inherit" });
}

const folder = clusterFolder(`bench-${process.pid}`);
const cluster = await startCluster({ programs, folder });
const server = fork(join(root, "server/dist/main.js"), ["--demo"], { env: { ...process.env, DATABASE_URL: cluster.url, PORT: "0" }, stdio: ["ignore", "pipe", "inherit", "ipc"] });
const port = await new Promise((resolve) => server.stdout.on("data", (text) => resolve(/listening (\d+)/.exec(String(text))?.[1])));
const url = `http://127.0.0.1:${port}`;
const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];

try {
  if (wanted("typing")) await typing();
  if (wanted("readers")) await readers();
} finally {
  const ended = new Promise((resolve) => server.once("exit", resolve));
  server.kill("SIGTERM");
  await ended;
  await cluster.stop();
  rmSync(folder, { recursive: true, force: true });
}

/** Time covered by events, overlaps counted once, ms. */
function covered(events, from, to) {
  let sum = 0;
  let end = from;
  for (const { ts, dur } of events.filter((e) => e.ts < to && e.ts + e.dur > from).sort((a, b) => a.ts - b.ts)) {
    const [a, b] = [Math.max(ts, end), Math.min(ts + dur, to)];
    if (b > a) sum += b - a;
    end = Math.max(end, b);
  }
  return sum / 1000;
}

async function typing() {
  const keys = [["A", "seed", 1.41], ["B", "seed", 1.95], ["C", "round", 4], ["D", "bicone", 6], ["E", "cube", 4], ["F", "rondelle", 3]];
  const design = {
    format: "jar-count/design", version: 1, name: "Sixty rows",
    key: [...keys.map(([key, shape, alongMm]) => ({ key, name: `bead ${key}`, kind: "bead", shape, alongMm })), { key: "TH", name: "thread", kind: "stringing" }],
    parts: [{ id: "p", name: "Piece", stringing: "TH", steps: Array.from({ length: 60 }, (_, i) => `row ${i + 1}: 3A 2B (A C) x3 B D >C E F 2A`).join("\n") }],
  };
  const id = crypto.randomUUID();
  await fetch(`${url}/api/designs/${id}`, { method: "PUT", headers: { "content-type": "application/json" }, body: JSON.stringify({ revision: 0, reason: "", design }) });
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

  // The first page's scripts, before any editor opens.
  const scripts = [];
  page.on("response", (r) => r.url().endsWith(".js") && scripts.push(new URL(r.url()).pathname));
  await page.goto(url);
  await page.locator("main h1").waitFor();
  await page.waitForLoadState("networkidle");
  const size = (path) => gzipSync(readFileSync(join(root, "web/dist", path))).length;
  const kb = (list) => (list.reduce((sum, path) => sum + size(path), 0) / 1000).toFixed(0);
  const first = [...scripts];
  await page.goto(`${url}/designs/${id}`);
  const rows = page.getByRole("textbox", { name: /^Rows of/ });
  await rows.waitFor();
  console.log(`\nFirst page: ${kb(first)} kB of JavaScript, gzipped (with the bench and its editor: ${kb([...new Set([...first, ...scripts])])} kB; aim: under 250 kB)`);

  await rows.click();
  await page.keyboard.press("Control+End");
  const beads = await page.getByTestId("leading").innerText();
  const settle = () => page.evaluate(() => new Promise((done) => setTimeout(() => requestAnimationFrame(() => requestAnimationFrame(done)), 250)));
  const press = async (n) => {
    for (let i = 0; i < n; i++) {
      await page.keyboard.press(i % 4 < 2 ? ["Space", "C"][i % 4] : "Backspace");
      await settle();
    }
  };
  await press(20);
  await browser.startTracing(page, { categories: ["devtools.timeline", "disabled-by-default-devtools.timeline"] });
  await press(60);
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString());
  await browser.close();
  const main = traceEvents.find((e) => e.name === "EventDispatch" && e.args?.data?.type === "beforeinput");
  const mine = traceEvents.filter((e) => e.ph === "X" && e.pid === main.pid && e.tid === main.tid);
  const inputs = mine.filter((e) => e.name === "EventDispatch" && e.args?.data?.type === "beforeinput");
  const paints = mine.filter((e) => e.name === "Paint" || e.name === "PrePaint").map((e) => e.ts).sort((a, b) => a - b);
  const script = mine.filter((e) => ["FunctionCall", "EvaluateScript", "RunMicrotasks", "EventDispatch", "TimerFire", "FireAnimationFrame"].includes(e.name));
  const layout = mine.filter((e) => ["Layout", "UpdateLayoutTree", "RecalculateStyles"].includes(e.name));
  const own = [];
  const forced = [];
  for (const input of inputs) {
    const end = paints.find((ts) => ts > input.ts) ?? input.ts;
    const both = covered(script, input.ts, end);
    // Layout that a script asks for in its course is the page's, not the script's.
    const within = layout.filter((l) => script.some((s) => l.ts >= s.ts && l.ts + l.dur <= s.ts + s.dur));
    forced.push(both);
    own.push(both - covered(within, input.ts, end));
  }
  console.log(`Typing in 60 rows, ${beads} beads, from beforeinput to the painted tally and picture, ${inputs.length} keystrokes:`);
  console.log(`  script: median ${at(own, 0.5).toFixed(1)} ms, p95 ${at(own, 0.95).toFixed(1)} ms; with the layout that scripts force: p95 ${at(forced, 0.95).toFixed(1)} ms (aim: p95 16 ms)`);
  console.log("  baseline: one frame at 60 a second is 16.7 ms");
}

async function readers() {
  const boxes = await (await fetch(`${url}/api/boxes`)).json();
  const box = boxes.find((b) => b.theme === "Letterpress");
  const times = [];
  let errors = 0;
  // What opening a counts page reads: the box, the designs, the components.
  const read = async (path) => {
    const start = performance.now();
    const res = await fetch(url + path);
    await res.arrayBuffer();
    times.push(performance.now() - start);
    if (!res.ok) errors++;
  };
  const one = [];
  for (let i = 0; i < 20; i++) {
    const start = performance.now();
    await (await fetch(`${url}/api/boxes/${box.id}`)).arrayBuffer();
    one.push(performance.now() - start);
  }
  const start = performance.now();
  await Promise.all(Array.from({ length: 200 }, async () => {
    for (let i = 0; i < 3; i++) await Promise.all([`/api/boxes/${box.id}`, "/api/designs", "/api/components"].map(read));
  }));
  const seconds = (performance.now() - start) / 1000;
  console.log(`\n200 simultaneous readers of a counts page, 3 times each: ${times.length} answers, ${errors} errors, p95 ${at(times, 0.95).toFixed(0)} ms, ${(times.length / seconds).toFixed(0)} a second (one reader alone: median ${at(one, 0.5).toFixed(0)} ms)`);
}
