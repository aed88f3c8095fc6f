/**
 * Proof of the ledger: two server processes on one database, ten clients, mixed movements with repeated request keys,
 * each process killed (-9) and started again and again. At the end balances equal the ledger, nothing is below zero,
 * and every acknowledged request was counted exactly once. `npm run torture -- 20000 40`: movements, and kills.
 */
import { fork } from "node:child_process";
import { rmSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { clusterFolder, freePort, startCluster } from "../scripts/cluster.mjs";
import { ensureBuild, ensureDependencies, ensurePostgres, root } from "../scripts/machine.mjs";

const [movements = 20_000, kills = 40] = process.argv.slice(2).map(Number);
const CLIENTS = 10;
await ensureDependencies();
await ensureBuild();
const pg = createRequire(import.meta.url)("pg");
const folder = clusterFolder(`torture-${process.pid}`);
const cluster = await startCluster({ programs: await ensurePostgres(), folder, fresh: true });

const servers = await Promise.all(
  [0, 1].map(async () => {
    const port = await freePort();
    return { port, url: `http://127.0.0.1:${port}`, child: null };
  }),
);
const start = (server) =>
  new Promise((resolve) => {
    server.child = fork(join(root, "server/dist/main.js"), [], {
      env: { ...process.env, DATABASE_URL: cluster.url, PORT: String(server.port) },
      stdio: ["ignore", "pipe", "inherit", "ipc"],
    });
    server.child.stdout.once("data", () => resolve());
  });
await start(servers[0]);
await start(servers[1]);

const call = async (url, method, path, body) => {
  const res = await fetch(url + path, {
    method,
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  return { status: res.status, body: await res.json() };
};
const place = (n) => `00000000-0000-4000-8000-00000000000${n}`;
await call(servers[0].url, "PUT", "/api/rooms", {
  people: [],
  suppliers: [],
  places: [
    { id: place(1), code: "A", name: "A" },
    { id: place(2), code: "B", name: "B" },
  ],
});
const components = await Promise.all(
  Array.from({ length: 12 }, async (_, i) => {
    const id = crypto.randomUUID();
    const linear = i % 4 === 3;
    await call(servers[0].url, "PUT", `/api/components/${id}`, {
      version: 0,
      component: {
        code: `T${i}`,
        name: `thing ${i}`,
        kind: linear ? "stringing" : "bead",
        colour: "#888888",
        finish: "matt",
        baseUnit: linear ? "mm" : "piece",
      },
    });
    return { id, linear };
  }),
);

const below = (n) => Math.floor(Math.random() * n);
const entry = ({ linear }) => {
  const requestKey = crypto.randomUUID();
  const at = { place: place(1 + below(2)), lot: ["", "7"][below(2)] };
  if (linear) {
    return [
      { requestKey, kind: "received", ...at, quantity: 1 + below(3), stretchMm: [1000, 9144][below(2)], cost: "4.20" },
      { requestKey, kind: "cut", ...at, cutMm: 100 + below(900), count: 1 + below(3) },
    ][below(2)];
  }
  return [
    { requestKey, kind: "received", ...at, quantity: 1 + below(200), cost: `${below(20)}.${10 + below(89)}` },
    { requestKey, kind: "used", ...at, quantity: 1 + below(120) },
    { requestKey, kind: "counted", ...at, quantity: below(300), u: below(5) },
    { requestKey, kind: "broken", ...at, quantity: 1 + below(9), countFirst: below(2) === 1 },
    { requestKey, kind: "moved", ...at, place: place(1), to: place(2), quantity: 1 + below(50) },
  ][below(5)];
};

const acknowledged = new Set();
const refused = new Set();
let [sent, repeats, lost, made] = [0, 0, 0, 0];
let over = false;
async function client() {
  while (made < movements) {
    made++;
    const component = components[below(components.length)];
    const body = entry(component);
    // Sent until it is answered, to either server; and now and then again although it was.
    for (let again = 0; ;) {
      sent++;
      try {
        const { status } = await call(servers[below(2)].url, "POST", `/api/components/${component.id}/stock`, body);
        if (status === 201) acknowledged.add(body.requestKey);
        else if (status === 422) refused.add(body.requestKey);
        else throw new Error(`status ${status}`);
        if (again++ > 0 || below(5) > 0) break;
        repeats++;
      } catch {
        lost++;
        await new Promise((r) => setTimeout(r, 20));
      }
    }
  }
}
let killed = 0;
async function reaper() {
  while (!over && killed < kills) {
    const every = Math.max(1, Math.floor(movements / (kills + 1)));
    const goal = (killed + 1) * every;
    while (!over && made < goal) await new Promise((r) => setTimeout(r, 5));
    const server = servers[killed % 2];
    server.child.kill("SIGKILL");
    killed++;
    await new Promise((r) => server.child.once("exit", r));
    await start(server);
  }
}
const started = performance.now();
const reaping = reaper();
await Promise.all(Array.from({ length: CLIENTS }, client));
over = true;
await reaping;
const seconds = (performance.now() - started) / 1000;

const db = new pg.Client(cluster.url);
await db.connect();
const one = async (sql, ...args) => Object.values((await db.query(sql, args)).rows[0])[0];
const differ = await one(`select count(*)::int from (select component_id, place_id, lot, stretch_mm, sum(quantity) as q
    from movements group by 1, 2, 3, 4) m
  full join balances b using (component_id, place_id, lot, stretch_mm)
  where coalesce(m.q, 0) <> coalesce(b.quantity, 0)`);
const totals = await one(
  `select count(*)::int from component_totals t join (select component_id, sum(quantity * case
    when stretch_mm > 0 then stretch_mm else 1 end) as q from movements group by 1) m using (component_id)
    where m.q <> t.on_hand`,
);
const negative = await one(
  `select (select count(*) from balances where quantity < 0)::int + (select count(*) from movements
    where balance < 0)::int`,
);
const twice = await one(`select count(*)::int from (select request_key from entries group by 1 having count(*) > 1) x`);
const missing = await one(
  `select count(*)::int from unnest($1::uuid[]) as k where not exists (select from entries where request_key = k)`,
  [...acknowledged],
);
const phantom = await one(`select count(*)::int from entries where not (request_key = any($1::uuid[]))`, [
  ...acknowledged,
]);
const wrongly = await one(
  `select count(*)::int from entries where request_key = any($1::uuid[])`,
  [...refused].filter((k) => !acknowledged.has(k)),
);
const lines = await one("select count(*)::int from movements");
await db.end();

for (const { child } of servers) {
  const ended = new Promise((r) => child.once("exit", r));
  child.kill("SIGTERM");
  await ended;
}
await cluster.stop();
rmSync(folder, { recursive: true, force: true });
console.log(
  `${made.toLocaleString("en")} movements by ${CLIENTS} clients on two servers in ${seconds.toFixed(0)} s
    (${(made / seconds).toFixed(0)} a second), ${killed} kills (-9): ${sent.toLocaleString("en")} requests,
    ${repeats.toLocaleString("en")} repeated after their answer, ${lost} lost on the way and sent again.`,
);
console.log(
  `${acknowledged.size.toLocaleString("en")} acknowledged, ${refused.size.toLocaleString("en")} refused,
    ${lines.toLocaleString("en")} lines in the ledger.`,
);
console.log(
  `balances that differ from the ledger: ${differ}; totals: ${totals}; below zero: ${negative}; counted twice:
    ${twice}; acknowledged but missing: ${missing}; in the ledger though never acknowledged: ${phantom}; refused but
    counted: ${wrongly}`,
);
process.exitCode = differ + totals + negative + twice + missing + phantom + wrongly === 0 ? 0 : 1;
