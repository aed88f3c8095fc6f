import { inputOf } from "@jar-count/core/component";
import { type Archive, type Summary, workshopInputOf } from "@jar-count/core/contract";
import { sumOfMoney } from "@jar-count/core/cost";
import { findBox } from "./boxes.ts";
import { listComponents } from "./components.ts";
import type { Session } from "./database.ts";
import { exportBooks, exportLedger } from "./ledger.ts";
import { listOrders } from "./orders.ts";
import { exportReservations } from "./reservations.ts";
import { listRooms } from "./rooms.ts";
import { exportRuns } from "./runs.ts";
import { exportStocktakes } from "./stocktakes.ts";
import { exportMoney } from "./money.ts";
import { listSales } from "./sales.ts";
import { findWorkshop } from "./workshop.ts";

/** The whole workshop. The same content always comes out in the same order. */
export async function exportWorkshop(db: Session): Promise<Archive> {
  const workshop = await findWorkshop(db);
  const { version: roomsSaved, ...rooms } = await listRooms(db);
  const components = (await listComponents(db))
    .map((c) => ({ ...inputOf(c), version: c.version }))
    .sort((a, b) => (a.code < b.code ? -1 : 1));
  const { rows: jars } = await db.query<Archive["jars"][number]>(
    `select component_id as component, place_id as place, tare_g::float8 as "tareG" from jars where tare_g is not null
      order by 1, 2`,
  );
  const { rows: lots } = await db.query<Archive["lots"][number]>(
    `select component_id as component, name as lot, mass_g::float8 as "massG", mass_u::float8 as "massU",
      mass_sd::float8 as "massSd", mass_pieces as pieces from lots where mass_g is not null order by 1, 2`,
  );
  const { rows: designs } = await db.query<Archive["designs"][number]>(
    `select d.id, d.archived, (select coalesce(json_agg(t.body || jsonb_build_object('version', t.version, 'writtenAt',
      exact_time(t.written_at)) order by t.made_on, t.id), '[]') from trials t
      where t.design_id = d.id) as trials, json_agg(json_build_object('no', r.no, 'reason', r.reason,
       'savedAt', exact_time(r.saved_at), 'design', r.body) order by r.no) as revisions
     from designs d join design_revisions r on r.design_id = d.id group by d.id order by d.id`,
  );
  const { rows: ids } = await db.query<{ id: string }>(`select id from boxes order by month, id`);
  const boxes: Archive["boxes"] = [];
  for (const { id } of ids) boxes.push((await findBox(db, id))!);
  const { rows: requests } = await db.query<Archive["requests"][number]>(
    `select key, body_hash as hash, exact_time(answered_at) as at, answer::text from requests
     order by answered_at, key`,
  );
  return {
    workshop: { ...workshopInputOf(workshop), saved: workshop.version, roomsSaved },
    components,
    ...rooms,
    jars,
    lots,
    ledger: await exportLedger(db),
    ...(await exportBooks(db)),
    orders: (await listOrders(db)).map(({ spoken: _spoken, ...order }) => order).sort((a, b) => (a.id < b.id ? -1 : 1)),
    setAside: await exportReservations(db),
    stocktakes: await exportStocktakes(db),
    requests,
    designs,
    boxes,
    runs: await exportRuns(db),
    money: await exportMoney(db),
    sales: await listSales(db),
  };
}

/** How much there is here. */
export async function summarize(db: Session): Promise<Summary> {
  const { rows } = await db.query<Summary>(
    `select w.name, w.currency, (select count(*)::int from components) as components,
       (select count(*)::int from designs) as designs, (select count(*)::int from boxes) as boxes,
       (select count(*)::int from movements) as movements,
       (select coalesce(sum(value), 0)::text from component_totals) as value,
       (select count(distinct order_id)::int from order_lines where received < quantity) as "openOrders",
       (select exact_time(e.happened_at) from entries e where exists (select from movements m where m.entry_id = e.id)
         order by e.id desc limit 1)
         as "lastMoved"
     from workshop w`,
  );
  const found = rows[0]!;
  return { ...found, value: sumOfMoney([found.value], found.currency) };
}

export async function isEmpty(db: Session): Promise<boolean> {
  const { rows } = await db.query<{ empty: boolean }>(
    `select not exists (select from components) and not exists (select from designs) and not exists (select
      from boxes) as empty`,
  );
  return rows[0]!.empty;
}

/** Keeps everybody else from adding anything until the transaction at hand is over. */
export async function lockWorkshop(db: Session): Promise<void> {
  await db.query(`lock table components, designs, boxes in exclusive mode`);
}

/** What an archive fills: everything but what the machine itself remembers (care, backups, restores, heartbeat). */
const FILLED = [
  "requests", // first: whoever writes looks there before anything else
  "sales",
  "what_ifs",
  "box_overrules",
  "box_prices",
  "channels",
  "rates",
  "reservations",
  "packed_boxes",
  "run_needs",
  "run_bills",
  "runs",
  "box_contents",
  "box_picks",
  "box_bindings",
  "box_variants",
  "box_roles",
  "box_choices",
  "box_lines",
  "boxes",
  "trials",
  "design_revisions",
  "designs",
  "stocktake_lines",
  "stocktakes",
  "movements",
  "entries",
  "balances",
  "component_totals",
  "order_lines",
  "orders",
  "lots",
  "jars",
  "offers",
  "components",
  "places",
  "suppliers",
  "people",
];
const APPENDED = ["movements", "entries"];

/** How long whoever writes or reads just then may take to be done, ms. */
const OTHERS_WAIT = 60_000;

/**
 * Keeps everybody else from writing anything until the transaction at hand is over: the one switch that every write
 * looks at (migration 0012). Who is writing is waited for; who begins is told at once.
 */
export async function keepOthersFromWriting(owner: Session): Promise<void> {
  await owner.query(`set local lock_timeout = ${OTHERS_WAIT}`);
  await owner.query(`select pg_advisory_xact_lock(restoring_lock())`);
}

/** How long to hold some tables while another is waited for: less than the second until a deadlock is looked for. */
const TABLES_WAIT = "500ms";
/** PostgreSQL's codes for a lock that was not had in time, and for a deadlock. */
const NOT_LOCKED = ["55P03", "40P01"];

/**
 * Locks every table at hand, all of them or none at a time: who reads several, and waits for one that is held here
 * while it holds another, is let go on.
 * @param ms how long to try
 */
async function lockEverything(owner: Session, ms: number): Promise<void> {
  for (const until = Date.now() + ms; ;) {
    await owner.query("savepoint tables");
    try {
      await owner.query(`set local lock_timeout = '${TABLES_WAIT}'`);
      await owner.query(`lock table ${[...FILLED, "workshop", "money"].join(", ")} in access exclusive mode`);
      await owner.query("release savepoint tables");
      return void (await owner.query(`set local lock_timeout = ${OTHERS_WAIT}`));
    } catch (error) {
      if (!NOT_LOCKED.includes((error as { code?: string }).code ?? "") || Date.now() > until) throw error;
      await owner.query("rollback to savepoint tables");
      await new Promise((next) => setTimeout(next, Math.random() * 100));
    }
  }
}

/** Takes everything out, for another workshop to come in its place: the owner's alone, and in a transaction. */
export async function emptyWorkshop(owner: Session): Promise<void> {
  await lockEverything(owner, OTHERS_WAIT);
  for (const table of APPENDED) await owner.query(`alter table ${table} disable trigger ${table}_append_only`);
  await owner.query(`truncate ${FILLED.join(", ")}`);
  for (const table of APPENDED) await owner.query(`alter table ${table} enable trigger ${table}_append_only`);
  await owner.query(`update workshop set made = gen_random_uuid()`);
  await owner.query(`update money set bands = null, bands_at = null`);
}

/** Makes a lot known before something is remembered of it. */
export async function putLot(db: Session, component: string, name: string): Promise<void> {
  await db.query(`insert into lots (component_id, name) values ($1, $2) on conflict do nothing`, [component, name]);
}

/** Gives records the versions that they had. */
export async function putVersions(db: Session, archive: Archive): Promise<void> {
  const { saved, roomsSaved } = archive.workshop;
  await db.query(`update workshop set version = $1, rooms_version = $2`, [saved, roomsSaved]);
  await db.query(`update money set version = $1`, [archive.money.saved]);
  const lists = {
    components: archive.components,
    orders: archive.orders,
    boxes: archive.boxes,
    trials: archive.designs.flatMap((d) => d.trials),
  };
  for (const [table, list] of Object.entries(lists)) {
    await db.query(
      `update ${table} t set version = x.version from jsonb_to_recordset($1) as x(id uuid, version int)
       where t.id = x.id and t.version <> x.version`,
      [JSON.stringify(list.map(({ id, version }) => ({ id, version })))],
    );
  }
}

/** Remembers writes that were answered elsewhere: sent again here, they do not happen again. */
export async function putRequests(db: Session, requests: Archive["requests"]): Promise<void> {
  await db.query(
    `insert into requests (key, body_hash, answer, answered_at) select x.key, x.hash, x.answer::jsonb, x.at
     from jsonb_to_recordset($1) as x(key uuid, hash text, answer text, at timestamptz)`,
    [JSON.stringify(requests)],
  );
}
