/**
 * Proof of the books under hard use: two servers and a job process on one database, ten clients, mixed movements with
 * repeated request keys and ids in mixed case, stocktakes posted at once, deliveries in split lots and their reversal,
 * components edited and tables brought in beside them, boxes that want the same jars committed, taken back, bought for,
 * packed by two at once, stopped and sent, heavy requests given up in their midst, a carrier and a shop that never stop
 * sending, while each process is killed (-9) and started again and again. Where the machine allows it, a backup then
 * meets a full disk.
 * At the end balances, totals, values and order states are held against the movements, every acknowledged request must
 * have counted exactly once, and an archive of that very workshop goes out, into another database, and out again.
 * `npm run torture -- 20000 40`: pieces of work, and kills.
 */
import { createHash } from "node:crypto";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { createRequire } from "node:module";
import { clusterFolder, freePort, startCluster } from "../scripts/cluster.mjs";
import { ensureBuild, ensureDependencies, ensurePostgres } from "../scripts/machine.mjs";
import { end, startJobs, startServer } from "../scripts/serve.mjs";

const [movements = 20_000, kills = 40] = process.argv.slice(2).map(Number);
const CLIENTS = 10;
await ensureDependencies();
await ensureBuild();
const pg = createRequire(import.meta.url)("pg");
const programs = await ensurePostgres();
const folder = clusterFolder(`torture-${process.pid}`);
const backups = `${folder}-backups`;
const cluster = await startCluster({ programs, folder, fresh: true });

/** A second database of the same cluster, for the archive to come into. */
const otherUrl = (url) => url.replace(/\/postgres$/, "/torture_copy");
const looking = { url: cluster.url, ownerUrl: cluster.ownerUrl, backups, programs };
let jobs = await startJobs(looking);
const servers = await Promise.all([0, 1].map(async () => ({ port: await freePort(), child: null, url: "" })));
const start = async (server) => Object.assign(server, await startServer({ url: cluster.url, port: server.port }));
await Promise.all(servers.map(start));

/** How long anything may take to be answered, or to be told that the connection broke, ms. */
const LIMIT = 60_000;
const unanswered = [];
/** What comes of it within the limit; where nothing does, that is found, and it counts as lost. */
const inTime = (what, asked) => {
  let over;
  const late = new Promise((_, reject) => {
    over = setTimeout(() => reject(new Error(`no end to ${unanswered.push(what) && what}`)), LIMIT);
  });
  return Promise.race([asked, late]).finally(() => clearTimeout(over));
};
const call = (url, method, path, body) => inTime(`${method} ${path}`, answerTo(url, method, path, body));
async function answerTo(url, method, path, body) {
  const res = await fetch(url + path, {
    method,
    headers: { "content-type": "application/json" },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  return { status: res.status, body: await res.json() };
}
const place = (n) => `0000000a-0000-4000-8000-00000000000${n}`;
const offer = (i) => `0000000c-0000-4000-8000-${String(i + 1).padStart(12, "0")}`;
const SUPPLIER = "0000000b-0000-4000-8000-000000000001";
await call(servers[0].url, "PUT", "/api/rooms", {
  version: 1,
  rooms: {
    people: [],
    suppliers: [{ id: SUPPLIER, name: "Lowfold Glass Merchants" }],
    places: [
      { id: place(1), code: "A", name: "A" },
      { id: place(2), code: "B", name: "B" },
      { id: place(3), code: "H", name: "Held back", held: true },
    ],
  },
});
const input = (i, linear, notes = "") => ({
  code: `T${i}`,
  name: `thing ${i}`,
  kind: linear ? "stringing" : "bead",
  colour: "#888888",
  finish: "matt",
  baseUnit: linear ? "mm" : "piece",
  notes,
  offers: [
    {
      id: offer(i),
      supplier: SUPPLIER,
      pack: "pack",
      amount: linear ? 2000 : 50,
      unit: linear ? "mm" : "piece",
      price: "4.00",
      steps: [{ from: 3, price: "3.20" }],
      minimum: 1,
      leadDays: 5,
    },
  ],
});
const components = await Promise.all(
  Array.from({ length: 12 }, async (_, i) => {
    const id = crypto.randomUUID();
    const linear = i % 4 === 3;
    await call(servers[0].url, "PUT", `/api/components/${id}`, { version: 0, component: input(i, linear) });
    return { id, linear, i };
  }),
);

const below = (n) => Math.floor(Math.random() * n);
/** Now and then in capitals: the same id. */
const mixed = (id) => (below(4) === 0 ? id.toUpperCase() : id);
const count = {};
const note = (what) => (count[what] = (count[what] ?? 0) + 1);
const acknowledged = new Set();
const refused = new Set();
const statuses = new Map();
let [sent, repeats, lost, faults, made] = [0, 0, 0, 0, 0];

/** Sends until it is answered, to either server; and now and then again although it was. */
async function persist(method, path, body, { once = false } = {}) {
  for (let again = 0; ;) {
    sent++;
    try {
      const answer = await call(servers[below(2)].url, method, path, body);
      statuses.set(answer.status, (statuses.get(answer.status) ?? 0) + 1);
      if (answer.status === 500) faults++;
      if (answer.status >= 500) throw new Error(`status ${answer.status}`);
      if (body?.requestKey && method === "POST") {
        if (answer.status === 201) acknowledged.add(body.requestKey.toLowerCase());
        else if (answer.status === 422) refused.add(body.requestKey.toLowerCase());
      }
      if (once || again++ > 0 || below(5) > 0) return answer;
      repeats++;
    } catch {
      lost++;
      await new Promise((r) => setTimeout(r, 20));
    }
  }
}

/** Boxes that share the jars: each holds something of four components, some of it cut to length. */
const boxes = await Promise.all(Array.from({ length: 8 }, (_, i) => makeBox(i)));
async function makeBox(i) {
  const [id, first] = [crypto.randomUUID(), crypto.randomUUID()];
  const contents = [0, 1, 2, 3].map((j) => {
    const { id: component, linear } = components[(3 * i + j) % components.length];
    const quantity = linear ? 150 + 90 * i : 12 * (2 + i);
    return { id: crypto.randomUUID(), component, first: null, quantity, pack: null };
  });
  const box = {
    month: `2031-0${1 + i}`,
    theme: `Box ${i}`,
    lines: [],
    contents,
    colourways: [{ id: first, name: "Only" }],
    seconds: [],
    variants: [{ first, second: null, boxes: 5 }],
    roles: [],
    bindings: [],
    picks: [],
  };
  await persist("PUT", `/api/boxes/${id}`, { requestKey: crypto.randomUUID(), version: 0, box }, { once: true });
  return id;
}

const entry = ({ linear }) => {
  const requestKey = mixed(crypto.randomUUID());
  const at = { place: mixed(place(1 + below(3))), lot: ["", "7"][below(2)] };
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
const move = async (component) => {
  note("movement");
  await persist("POST", `/api/components/${mixed(component.id)}/stock`, entry(component));
};
/** The same walk, posted by three at once with keys of their own. */
async function stocktake(component) {
  if (component.linear) return move(component);
  note("stocktake posted by three at once");
  const walk = crypto.randomUUID();
  await persist("PUT", `/api/stocktakes/${walk}`, undefined, { once: true });
  const at = { component: component.id, place: place(1), lot: "" };
  const line = { ...at, how: "counted", counted: below(300), u: 0 };
  await persist("PUT", `/api/stocktakes/${mixed(walk)}/line`, line, { once: true });
  const post = () =>
    persist("POST", `/api/stocktakes/${mixed(walk)}/post`, { requestKey: crypto.randomUUID(), lines: [at] });
  const answers = await Promise.all([post(), post(), post()]);
  if (answers.filter((a) => a.status === 201).length !== 1) note("A STOCKTAKE THAT WAS NOT POSTED ONCE");
}
/** An order whose line comes in two lots, and is taken back now and then. */
async function delivery(component) {
  note("delivery in two lots");
  const [id, line] = [crypto.randomUUID(), crypto.randomUUID()];
  const quantity = component.linear ? 2000 : 100;
  const of = { id: line, component: component.id, pack: "pack", packs: 2, quantity, price: "5.60", due: "2030-06-01" };
  const order = { supplier: SUPPLIER, number: id.slice(0, 6), placedOn: "2027-02-01", currency: "GBP", rate: "1" };
  const body = { requestKey: crypto.randomUUID(), version: 0, order: { ...order, lines: [of] } };
  await persist("PUT", `/api/orders/${id}`, body, { once: true });
  // Somebody may commit on it before it comes.
  if (below(2) === 0) await commitment();
  const part = (lot) => ({ line: mixed(line), quantity: quantity / 2, lot });
  const lots = { requestKey: crypto.randomUUID(), place: place(1), lines: [part("7"), part("8")] };
  await persist("POST", `/api/orders/${mixed(id)}/receive`, lots);
  if (below(2) === 0) return;
  note("delivery taken back");
  const jar = await persist("GET", `/api/components/${component.id}`, undefined, { once: true });
  const back = jar.body.movements.find((m) => m.kind === "received" && m.reversible);
  if (back) await persist("POST", `/api/entries/${back.entry}/reverse`, { requestKey: crypto.randomUUID() });
}
async function edit(component) {
  note("component edited");
  const jar = await persist("GET", `/api/components/${component.id}`, undefined, { once: true });
  const body = { requestKey: crypto.randomUUID(), version: jar.body.component.version };
  const change = { ...body, component: input(component.i, component.linear, `edit ${made}`) };
  await persist("PUT", `/api/components/${mixed(component.id)}`, change);
}
/** A box is committed, whatever it lacks, or taken back; others want the same. */
async function commitment() {
  const box = boxes[below(boxes.length)];
  if (below(3) === 0) {
    note("box taken back");
    await persist("POST", `/api/boxes/${mixed(box)}/take-back`, { requestKey: crypto.randomUUID() });
    return;
  }
  const { body: plan } = await persist("GET", `/api/boxes/${mixed(box)}/commit`, undefined, { once: true });
  const { version, lacking, seen } = plan;
  const asked = { requestKey: crypto.randomUUID(), version, lacking, seen };
  const { status } = await persist("POST", `/api/boxes/${mixed(box)}/commit`, asked);
  note(status === 201 ? "box committed" : "commit told that something changed");
}
/** What some boxes lack is ordered, by two at once now and then: it is ordered once. */
async function purchase() {
  const some = [...new Set([boxes[below(8)], boxes[below(8)]])];
  const { status, body: list } = await persist("GET", `/api/buy?boxes=${some.join(",")}`, undefined, { once: true });
  const lines = status === 200 ? list.lines.filter((l) => l.chosen.length > 0) : [];
  if (lines.length === 0) return;
  const write = () =>
    persist("POST", "/api/orders", {
      requestKey: crypto.randomUUID(),
      placedOn: list.today,
      orders: [
        {
          id: crypto.randomUUID(),
          supplier: SUPPLIER,
          number: `B-${made}`,
          lines: lines.flatMap((l) =>
            l.chosen.map((c) => ({
              id: crypto.randomUUID(),
              component: l.component,
              offer: c.offer,
              packs: c.packs,
              amount: c.amount,
              price: c.price,
            })),
          ),
        },
      ],
      lacks: lines.map((l) => ({
        component: l.component,
        boxes: l.boxes.map(({ box, quantity }) => ({ box, quantity })),
      })),
    });
  const answers = await Promise.all(below(3) === 0 ? [write(), write()] : [write()]);
  note(
    answers.some((a) => a.status === 201) ? "orders written for what boxes lack" : "orders told that less is lacking",
  );
  if (answers.filter((a) => a.status === 201).length > 1) note("ORDERED TWICE");
  const order = answers.find((a) => a.status === 201)?.body.orders[0];
  if (!order || below(3) === 0) return;
  note("what was ordered for boxes came");
  const came = order.lines.map((l) => ({ line: l.id, quantity: below(2) === 0 ? l.quantity : l.quantity / 2 }));
  await persist("POST", `/api/orders/${order.id}/receive`, {
    requestKey: crypto.randomUUID(),
    place: place(1 + below(2)),
    lines: came,
  });
}
/** A box is packed by two at once or taken out again, something breaks or is swapped; now and then it goes out. */
async function packing() {
  const at = below(boxes.length);
  const id = boxes[at];
  const { status, body } = await persist("GET", `/api/boxes/${mixed(id)}/packing`, undefined, { once: true });
  if (status !== 200) return commitment();
  const variant = body.of.variants[0].id;
  const tap = (packed, no) =>
    persist("POST", `/api/boxes/${mixed(id)}/packed`, { requestKey: crypto.randomUUID(), variant, no, packed });
  const tell = (told) => persist("POST", `/api/boxes/${mixed(id)}/told`, { requestKey: crypto.randomUUID(), ...told });
  const no = 1 + below(5);
  const need = body.needs[below(body.needs.length)];
  const what = below(12);
  if (what < 6) {
    note("box packed by two at once");
    await Promise.all([tap(true, no), tap(true, no)]);
  } else if (what < 8) {
    note("box taken out again");
    await tap(false, no);
  } else if (what === 8) {
    note("broken while packing");
    const { component, cutMm } = need;
    const { status: done, body: told } = await tell({ kind: "broken", variant, component, cutMm, quantity: 1 });
    if (done === 201 && below(2) === 0) {
      await persist("POST", `/api/boxes/${id}/told/${told.entry}/take-back`, { requestKey: crypto.randomUUID() });
    }
  } else if (what === 9) {
    note("put in its place while packing");
    const instead = components[below(components.length)].id;
    const { component, cutMm } = need;
    await tell({ kind: "swapped", variant, component, cutMm, quantity: 1, with: instead });
  } else if (what === 10) {
    const stand = body.stands.find((s) => s.component === need.component && s.stretchMm > need.cutMm);
    if (need.cutMm === null || !stand) return;
    note("cut while packing");
    const { component, place: from, lot, stretchMm } = stand;
    const cuts = [{ mm: need.cutMm, count: 1 }];
    await persist("POST", `/api/boxes/${id}/cuts`, {
      requestKey: crypto.randomUUID(),
      component,
      place: from,
      lot,
      fromMm: stretchMm,
      cuts,
    });
  } else {
    const key = () => ({ requestKey: crypto.randomUUID() });
    if (below(2) === 0) await persist("POST", `/api/boxes/${id}/stop`, key());
    const closed = await persist("POST", `/api/boxes/${id}/close`, key());
    if (closed.status !== 201) return;
    note("box sent");
    boxes[at] = await makeBox(at);
  }
}
async function table() {
  note("table brought in");
  const rows = Array.from({ length: 40 }, (_, i) => ({ code: `T${i % 12}`, quantity: String(1 + below(9)), lot: "7" }));
  const pieces = rows.filter((_, i) => i % 4 !== 3);
  await persist("POST", "/api/imports/deliveries", { requestKey: crypto.randomUUID(), name: "by table", rows: pieces });
}
/** Outside parties at their worst: one never stops, one unpacks to hundreds of megabytes. */
const bomb = gzipSync(Buffer.alloc(300_000_000, "a,b\n"));
const outside = createServer((request, response) => {
  if (request.url.startsWith("/carrier")) {
    response.writeHead(200, { "content-type": "application/json" });
    const on = () =>
      response.destroyed || (response.write("[1,".repeat(20_000)) ? setImmediate(on) : response.once("drain", on));
    return on();
  }
  response.writeHead(200, { "content-type": "text/csv", "content-encoding": "gzip" }).end(bomb);
});
await new Promise((up) => outside.listen(0, "127.0.0.1", up));
const at = `http://127.0.0.1:${outside.address().port}`;
{
  const { version, made: _made, ...now } = (await call(servers[0].url, "GET", "/api/money")).body;
  const money = { ...now, carrier: `${at}/carrier`, shop: `${at}/shop` };
  await call(servers[0].url, "PUT", "/api/money", { version, money });
}
/** Something heavy is asked for, and nobody waits for it; or somebody outside is asked who never ends. */
async function gone() {
  note("given up in its midst, or asked of who never ends");
  const id = boxes[below(boxes.length)];
  const paths = [`/api/boxes/${id}/commit`, `/api/boxes/${id}/contents.pdf`, `/api/boxes/${id}/cost`, "/api/archive"];
  const path = [...paths, "/api/buy", "/api/money/postage", "/api/sales/from-shop"][below(7)];
  const asked = fetch(servers[below(2)].url + path, { signal: AbortSignal.timeout(1 + below(80)) });
  await inTime(
    `${path}, given up`,
    asked.then((answer) => answer.arrayBuffer()),
  ).catch(() => {});
}
/** What is done, each so often of a hundred. */
const WORK = [
  [4, stocktake],
  [4, delivery],
  [6, edit],
  [1, table],
  [10, commitment],
  [12, packing],
  [3, purchase],
  [3, gone],
];
async function client() {
  while (made < movements) {
    made++;
    const component = components[below(components.length)];
    let chance = below(100);
    const work = WORK.find(([often]) => (chance -= often) < 0)?.[1] ?? move;
    await work(component);
  }
}

let killed = 0;
let over = false;
async function reaper() {
  while (!over && killed < kills) {
    const goal = (killed + 1) * Math.max(1, Math.floor(movements / (kills + 1)));
    while (!over && made < goal) await new Promise((r) => setTimeout(r, 5));
    const which = killed % 5;
    killed++;
    // The job process as well, now and then; it makes a backup meanwhile.
    if (which === 4) {
      const gone = new Promise((r) => jobs.once("exit", r));
      jobs.kill("SIGKILL");
      await gone;
      jobs = await startJobs(looking);
      continue;
    }
    const server = servers[which % 2];
    const gone = new Promise((r) => server.child.once("exit", r));
    server.child.kill("SIGKILL");
    await gone;
    await start(server);
  }
}
const started = performance.now();
const reaping = reaper();
await Promise.all(Array.from({ length: CLIENTS }, client));
over = true;
await reaping;
const seconds = (performance.now() - started) / 1000;

const db = new pg.Client(cluster.ownerUrl);
await db.connect();
const one = async (sql, ...args) => Object.values((await db.query(sql, args)).rows[0])[0];
const none = {
  "balances that differ from the movements": await one(
    `select count(*)::int from (select component_id, place_id, lot, stretch_mm, sum(quantity) as q
       from movements group by 1, 2, 3, 4) m
     full join balances b using (component_id, place_id, lot, stretch_mm)
     where coalesce(m.q, 0) <> coalesce(b.quantity, 0)`,
  ),
  "totals that differ": await one(
    `select count(*)::int from component_totals t join (select component_id, sum(quantity * case
       when stretch_mm > 0 then stretch_mm else 1 end) as q, sum(value) as v from movements group by 1) m
       using (component_id) where m.q <> t.on_hand`,
  ),
  "values that differ": await one(
    `select count(*)::int from component_totals t join (select component_id, sum(value) as v from movements group by 1)
       m using (component_id) where m.v <> t.value`,
  ),
  "movements whose balance is not the sum up to them": await one(
    `select count(*)::int from (select balance, sum(quantity * case when stretch_mm > 0 then stretch_mm else 1 end)
       over (partition by component_id order by id) as sum from movements) x where balance <> sum`,
  ),
  "orders that received something else than came": await one(
    `select count(*)::int from order_lines l left join (select order_line_id, sum(quantity * case when stretch_mm > 0
       then stretch_mm else 1 end) as q from movements group by 1) m on m.order_line_id = l.id
     where l.received <> coalesce(m.q, 0)`,
  ),
  "on the way beside the orders": await one(
    `select count(*)::int from component_totals t where t.on_the_way <> (select coalesce(sum(greatest(quantity -
       received, 0)), 0) from order_lines l where l.component_id = t.component_id)`,
  ),
  "needs of a box covered twice": await one(
    `select count(*)::int from (select n.id from run_needs n join reservations r on r.need_id = n.id
       where r.released_at is null group by n.id having sum(r.quantity) + max(n.used) + max(n.swapped)
       > max(n.quantity)) x`,
  ),
  "order lines of which boxes speak for more than is to come": await one(
    `select count(*)::int from order_lines l where (select coalesce(sum(r.quantity * coalesce(r.cut_mm, 1)), 0)
       from reservations r where r.order_line_id = l.id and r.released_at is null) > greatest(quantity - received, 0)`,
  ),
  "planned boxes with needs of a committed one": await one(
    `select count(*)::int from run_needs n join runs u on u.id = n.run_id
     where (u.state = 'planned') <> (n.variant_id is null)`,
  ),
  "needs of which something else is used than the ledger says": await one(
    `select count(*)::int from run_needs n where n.used + n.swapped <> (select coalesce(-sum(m.quantity * case
       when m.stretch_mm > 0 then m.stretch_mm else 1 end), 0) / coalesce(n.cut_mm, 1)
       from movements m where m.need_id = n.id)`,
  ),
  "boxes packed whole that used something else than their bill": await one(
    `select count(*)::int from run_needs n join runs u on u.id = n.run_id where n.used + n.swapped <> n.quantity
       and (select count(*) from packed_boxes k where k.run_id = u.id and k.variant_id = n.variant_id) = u.boxes`,
  ),
  "sent or stopped boxes that still speak for something": await one(
    `select count(*)::int from reservations r join run_needs n on n.id = r.need_id join runs u on u.id = n.run_id
     where u.state = 'sent' or u.stopped_at is not null`,
  ),
  "what was ordered twice for the same boxes": count["ORDERED TWICE"] ?? 0,
  "books that differ": (await call(servers[0].url, "GET", "/api/books")).body.differ.length,
  "spoken for beside the reservations": await one(
    `select count(*)::int from component_totals t where t.spoken_for <> (select coalesce(sum(quantity *
       coalesce(cut_mm, 1)), 0) from reservations r where r.component_id = t.component_id and r.released_at is null
       and r.order_line_id is null)`,
  ),
  "below zero": await one(
    `select (select count(*) from balances where quantity < 0)::int + (select count(*) from movements
       where balance < 0)::int`,
  ),
  "counted twice": await one(
    `select count(*)::int from (select request_key from entries group by 1 having count(*) > 1) x`,
  ),
  "acknowledged but missing": await one(
    `select count(*)::int from unnest($1::uuid[]) as k where not exists (select from requests where key = k)`,
    [...acknowledged],
  ),
  "in the ledger though never acknowledged": await one(
    `select count(*)::int from entries where not (request_key = any($1::uuid[]))`,
    [...acknowledged],
  ),
  "refused but counted": await one(
    `select count(*)::int from entries where request_key = any($1::uuid[])`,
    [...refused].filter((k) => !acknowledged.has(k)),
  ),
  "stocktakes not posted exactly once": count["A STOCKTAKE THAT WAS NOT POSTED ONCE"] ?? 0,
  "answers that were faults (500)": faults,
  [`without an end: ${unanswered.join(", ") || "none"}`]: unanswered.length,
};
const lines = await one("select count(*)::int from movements");
await db.query("create database torture_copy");
await db.end();

// The archive of this very workshop: out, in, out.
const download = async (url) => Buffer.from(await (await fetch(`${url}/api/archive`)).arrayBuffer());
const first = await download(servers[0].url);
const copyUrls = { url: otherUrl(cluster.url), ownerUrl: otherUrl(cluster.ownerUrl) };
await end(jobs);
const copyJobs = await startJobs({ ...copyUrls, backups, programs });
await end(copyJobs);
const copy = await startServer({ url: copyUrls.url });
const taken = await fetch(`${copy.url}/api/archive`, {
  method: "POST",
  headers: { "content-type": "application/zip" },
  body: first,
});
const why = taken.status === 201 ? "" : ` (${JSON.stringify(await taken.json()).slice(0, 500)})`;
const second = await download(copy.url);
none[`archives that differ out, in, out${why}`] = first.equals(second) ? 0 : 1;
none["books that differ in the copy"] = (await call(copy.url, "GET", "/api/books")).body.differ.length;

/** A backup on a disk without room, where a small one may be made: told of, and nothing half is left. */
async function fullDisk() {
  const small = mkdtempSync(join(tmpdir(), "jar-count-full-"));
  try {
    execFileSync("mount", ["-t", "tmpfs", "-o", "size=64k", "tmpfs", small], { stdio: "ignore" });
  } catch {
    rmSync(small, { recursive: true });
    return "not tried: this machine mounts no small disk";
  }
  const care = await startJobs({ url: cluster.url, ownerUrl: cluster.ownerUrl, backups: small, programs });
  try {
    const { triedAt } = (await call(servers[0].url, "GET", "/api/workshop/care")).body;
    await call(servers[0].url, "POST", "/api/workshop/care/back-up");
    for (let tries = 0; tries < 200; tries++) {
      const now = (await call(servers[0].url, "GET", "/api/workshop/care")).body;
      if (now.triedAt !== triedAt) {
        const left = readdirSync(small);
        const { backupOld } = (await call(servers[0].url, "GET", "/api/health")).body;
        none["a full disk that is not told of"] = /full/.test(now.fault ?? "") && backupOld ? 0 : 1;
        none["halves of backups left on a full disk"] = left.length;
        return now.fault;
      }
      await new Promise((next) => setTimeout(next, 100));
    }
    none["a full disk that is not told of"] = 1;
    return "no answer";
  } finally {
    await end(care);
    execFileSync("umount", [small]);
    rmSync(small, { recursive: true });
  }
}
const disk = await fullDisk();
outside.closeAllConnections();
outside.close();
await Promise.all([...servers, copy].map(({ child }) => end(child)));
await cluster.stop();
for (const gone of [folder, backups]) rmSync(gone, { recursive: true, force: true });
const say = (n) => n.toLocaleString("en");
console.log(
  `${say(made)} pieces of work by ${CLIENTS} clients on two servers and a job process in ${seconds.toFixed(0)} s ` +
    `(${(made / seconds).toFixed(0)} a second), ${killed} kills (-9): ${say(sent)} requests, ` +
    `${say(repeats)} repeated after their answer, ${say(lost)} without an answer or told to wait, and sent again.`,
);
console.log(
  `Work: ${Object.entries(count)
    .map(([what, n]) => `${say(n)} × ${what}`)
    .join(", ")}.`,
);
console.log(
  `Answers: ${[...statuses]
    .sort()
    .map(([s, n]) => `${s} ${say(n)}`)
    .join(", ")}.`,
);
console.log(
  `${say(acknowledged.size)} acknowledged, ${say(refused.size)} refused, ${say(lines)} lines in the ledger; ` +
    `archive ${say(first.length)} bytes, sha256 ${createHash("sha256").update(first).digest("hex").slice(0, 16)}.`,
);
console.log(`A backup on a full disk: ${disk}`);
for (const [what, n] of Object.entries(none)) console.log(`  ${n} ${what}`);
process.exitCode = Object.values(none).every((n) => n === 0) ? 0 : 1;
