/**
 * Stock ahead on a workshop of 24 open boxes of 14 variants and 60 roles over 5,000 components: what the server takes,
 * what a person waits for, and committing a box of 56 variants. The opponent shares no code with it: on hand comes from
 * the ledger's sums, what a box takes from its bill as CSV, counted anew, and both are netted by a plain loop. It must
 * come to the same numbers.
 */
import { randomUUID } from "node:crypto";
import { createRequire } from "node:module";
import Papa from "papaparse";
import { putBox, putDesigns } from "./large.mjs";

const [BOXES, VARIANTS, WIDE] = [24, 14, 56];
const COMPONENTS = 5000;

const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];
const ms = async (work) => {
  const start = performance.now();
  const result = await work();
  return [performance.now() - start, result];
};

export async function ahead(url, databaseUrl, executablePath, report) {
  const db = new (createRequire(import.meta.url)("pg").Client)(databaseUrl);
  db.on("error", () => {});
  await db.connect();
  const thread = await fill(db);
  const { rows } = await db.query(`select id from components where code like 'A%' order by code`);
  const components = rows.map((r) => r.id);
  const json = async (path, init) => {
    const answer = await fetch(`${url}${path}`, init);
    const body = await answer.json();
    if (!answer.ok) throw new Error(`${path}: ${JSON.stringify(body)}`);
    return body;
  };
  const send = (method, path, body) =>
    json(path, { method, headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
  const designs = await putDesigns(url);
  const boxes = [];
  for (let i = 0; i < BOXES; i++) {
    const month = `${2031 + Math.floor(i / 12)}-${String((i % 12) + 1).padStart(2, "0")}`;
    const of = { month, theme: `Open ${i}`, colourways: VARIANTS, boxes: 2, thread, from: i * 200 };
    boxes.push(await putBox(url, designs, components, of));
  }

  const [cold, first] = await ms(() => json("/api/ahead"));
  const warm = [];
  for (let i = 0; i < 20; i++) warm.push((await ms(() => json("/api/ahead")))[0]);
  report.line(
    "ahead, 24 boxes × 14 variants × 60 roles over 5,000 components",
    `median ${at(warm, 0.5).toFixed(0)} ms, p95 ` +
      `${at(warm, 0.95).toFixed(0)} ms; first time after a start, every box counted, ${cold.toFixed(0)} ms`,
    [[at(warm, 0.95), 300]],
  );

  // A box of which something changed is counted again; its neighbours see it when they look next.
  const changed = [];
  for (let i = 0; i < 8; i++) {
    const box = boxes[i];
    const { box: now } = await json(`/api/boxes/${box}`);
    const put = now.variants.slice(0, 1).map((v) => ({ ...v, boxes: v.boxes + 1 }));
    await send("PATCH", `/api/boxes/${box}`, {
      requestKey: randomUUID(),
      version: now.version,
      changes: { variants: { put } },
    });
    changed.push((await ms(() => json(`/api/boxes/${boxes[i + 1]}/shares`)))[0]);
  }
  report.line(
    "a neighbour's shares after a change in one box",
    `median ${at(changed, 0.5).toFixed(0)} ms, p95 ${at(changed, 0.95).toFixed(0)} ms`,
    [[at(changed, 0.95), 1000]],
  );

  const [plain, theirs] = await ms(() => recomputed(db, json, url, boxes));
  const ours = new Map((await json("/api/ahead")).components.map((c) => [c.component, c.steps.at(-1).left]));
  let compared = 0;
  for (const [component, left] of theirs) {
    if (component === thread) continue; // cuts are laid on pieces here, sums there
    if (Math.abs(ours.get(component) - left) > 1e-6)
      throw new Error(`${component}: ${ours.get(component)} and ${left}`);
    compared++;
  }
  report.note(
    `baseline, netting recomputed from the ledger and every box's bill as CSV: ${plain.toFixed(0)} ms; ` +
      `the same left of ` +
      `${compared.toLocaleString("en")} components, ${first.components.length.toLocaleString("en")} ahead`,
  );

  const { chromium } = await import("@playwright/test");
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/jars`);
  await page.getByRole("link", { name: /^Ahead/ }).waitFor();
  const shown = [];
  for (let i = 0; i < 6; i++) {
    const [time] = await ms(async () => {
      await page.getByRole("link", { name: /^Ahead/ }).click();
      await page.locator("[data-testid^=ahead-]").first().waitFor();
    });
    shown.push(time);
    await page.getByRole("link", { name: /^Designs/ }).click();
    await page.getByRole("heading", { name: "Designs" }).waitFor();
  }
  await browser.close();
  report.line(
    "Ahead opened, click to the first component",
    `median ${at(shown, 0.5).toFixed(0)} ms, first ${shown[0].toFixed(0)} ms`,
    [[at(shown, 0.5), 1000]],
  );

  const commits = [];
  for (let i = 0; i < 4; i++) {
    const of = {
      month: `2030-0${i + 1}`,
      theme: `Wide ${i}`,
      colourways: WIDE > 50 ? 50 : WIDE,
      boxes: 1,
      thread,
      from: i * 300,
    };
    const wide = await putBox(url, designs, components, of);
    // Colourways go to 50; a second choice brings the variants to 56.
    const { box: now } = await json(`/api/boxes/${wide}`);
    const second = randomUUID();
    const put = now.variants.slice(0, WIDE - now.variants.length).map((v) => ({ ...v, second }));
    const changes = { seconds: { put: [{ id: second, name: "gold" }] }, variants: { put } };
    await send("PATCH", `/api/boxes/${wide}`, { requestKey: randomUUID(), version: now.version, changes });
    const plan = await json(`/api/boxes/${wide}/commit`);
    const asked = { requestKey: randomUUID(), version: plan.version, lacking: plan.lacking };
    const [time, run] = await ms(() => send("POST", `/api/boxes/${wide}/commit`, asked));
    if (run.state !== "committed") throw new Error(JSON.stringify(run).slice(0, 300));
    commits.push(time);
  }
  report.line(
    "a box of 56 variants committed",
    `median ${at(commits, 0.5).toFixed(0)} ms, most ${Math.max(...commits).toFixed(0)} ms`,
    [[at(commits, 0.5), 1000]],
  );
  await db.end();
}

/** 5,000 beads with 100 pieces each in one movement, and a thread in spools. */
export async function fill(db) {
  const thread = randomUUID();
  await db.query(
    `insert into components (id, code, name, kind, form, colour, finish, base_unit, along_mm)
     select gen_random_uuid(), 'A' || lpad(n::text, 5, '0'), 'bead ' || n, 'bead', 'round', '#336699', 'matt', 'piece',
       2 + n % 5 from generate_series(1, $1::int) n`,
    [COMPONENTS],
  );
  await db.query(
    `insert into components (id, code, name, kind, form, colour, finish, base_unit)
     values ($1, 'BENCH-THREAD', 'thread', 'stringing', 'thread', '#222222', 'matt', 'mm')`,
    [thread],
  );
  await db.query(
    `with e as (insert into entries (kind, request_key) values ('received', gen_random_uuid()) returning id),
       p as (select id from places order by position limit 1)
     insert into movements (entry_id, component_id, place_id, quantity, balance, stretch_mm)
     select e.id, c.id, p.id, x.n, x.sum, x.mm from e, p, components c, lateral (values
       (case when c.base_unit = 'mm' then 400 else 100 end, case when c.base_unit = 'mm' then 400 * 100000 else 100 end,
        case when c.base_unit = 'mm' then 100000 else 0 end)) as x(n, sum, mm)
     where c.code ~ '^A[0-9]+$' or c.id = $1`,
    [thread],
  );
  await db.query("analyze");
  return thread;
}

/** What is left of each component in the end: the ledger's sums less every open box's bill. */
async function recomputed(db, json, url, boxes) {
  const left = new Map();
  const { rows } = await db.query(
    `select component_id as id, sum(quantity * case when stretch_mm > 0 then stretch_mm else 1 end)::float8 as n
     from movements group by 1`,
  );
  for (const { id, n } of rows) left.set(id, n);
  const { rows: known } = await db.query(`select id, code from components`);
  const idOf = new Map(known.map((c) => [c.code, c.id]));
  const taken = new Set();
  for (const box of boxes) {
    const csv = await (await fetch(`${url}/api/boxes/${box}/bill.csv`)).text();
    for (const row of Papa.parse(csv, { header: true, skipEmptyLines: true }).data) {
      const id = idOf.get(row.code);
      if (!id) continue;
      taken.add(id);
      left.set(id, (left.get(id) ?? 0) - Number(row["the run"]));
    }
  }
  return new Map([...left].filter(([id]) => taken.has(id)));
}
