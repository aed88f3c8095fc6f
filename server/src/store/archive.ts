import { inputOf } from "@jar-count/core/component";
import type { Archive } from "@jar-count/core/contract";
import { findBox } from "./boxes.ts";
import { listComponents } from "./components.ts";
import type { Session } from "./database.ts";
import { exportLedger } from "./ledger.ts";
import { listOrders } from "./orders.ts";
import { listReservations } from "./reservations.ts";
import { listRooms } from "./rooms.ts";
import { findWorkshop } from "./workshop.ts";

const INSTANT = `'YYYY-MM-DD"T"HH24:MI:SS"Z"'`;

/** The whole workshop. The same content always comes out in the same order. */
export async function exportWorkshop(db: Session): Promise<Archive> {
  const workshop = await findWorkshop(db);
  const components = (await listComponents(db)).map(inputOf).sort((a, b) => (a.code < b.code ? -1 : 1));
  const { rows: jars } = await db.query<Archive["jars"][number]>(
    `select component_id as component, place_id as place, tare_g::float8 as "tareG" from jars where tare_g is not null
      order by 1, 2`,
  );
  const { rows: lots } = await db.query<Archive["lots"][number]>(
    `select component_id as component, name as lot, mass_g::float8 as "massG", mass_u::float8 as "massU",
      mass_sd::float8 as "massSd", mass_pieces as pieces from lots where mass_g is not null order by 1, 2`,
  );
  const { rows: designs } = await db.query<Archive["designs"][number]>(
    `select d.id, d.archived, (select coalesce(json_agg(t.body order by t.made_on, t.id), '[]') from trials t
      where t.design_id = d.id) as trials, json_agg(json_build_object('no', r.no, 'reason', r.reason,
       'savedAt', to_char(r.saved_at at time zone 'utc', ${INSTANT}), 'design', r.body) order by r.no) as revisions
     from designs d join design_revisions r on r.design_id = d.id group by d.id order by d.id`,
  );
  const { rows: ids } = await db.query<{ id: string }>(`select id from boxes order by month, id`);
  const boxes: Archive["boxes"] = [];
  for (const { id } of ids) {
    const { version: _v, ...box } = (await findBox(db, id))!;
    boxes.push(box);
  }
  const orders = (await listOrders(db))
    .map(({ version: _v, ...order }) => order)
    .sort((a, b) => (a.id < b.id ? -1 : 1));
  return {
    workshop,
    components,
    ...(await listRooms(db)),
    jars,
    lots,
    ledger: await exportLedger(db),
    orders,
    setAside: await listReservations(db),
    designs,
    boxes,
  };
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

/** Makes a lot known before something is remembered of it. */
export async function putLot(db: Session, component: string, name: string): Promise<void> {
  await db.query(`insert into lots (component_id, name) values ($1, $2) on conflict do nothing`, [component, name]);
}
