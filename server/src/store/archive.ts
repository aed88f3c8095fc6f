import type { Archive } from "@jar-count/core/contract";
import type pg from "pg";
import { Refusal } from "../refusal.ts";
import { findBox, putBox } from "./boxes.ts";
import { listComponents, putComponents } from "./components.ts";
import type { Session } from "./database.ts";
import { addRevision, putTrial, setArchived } from "./designs.ts";
import { exportLedger, importLedger, refreshPromises, rememberWeighing } from "./ledger.ts";
import { listOrders, putOrder, setReceived } from "./orders.ts";
import { addReservation, listReservations } from "./reservations.ts";
import { listRooms, putRooms } from "./rooms.ts";

const INSTANT = `'YYYY-MM-DD"T"HH24:MI:SS"Z"'`;

/** The whole workshop. The same content always comes out in the same order. */
export async function exportWorkshop(db: Session): Promise<Archive> {
  const workshop = (
    await db.query<Archive["workshop"]>(`select name, currency, public_address as "publicAddress" from workshop`)
  ).rows[0]!;
  const components = (await listComponents(db))
    .map(
      ({
        version: _v,
        onHand: _h,
        u: _u,
        spokenFor: _s,
        onTheWay: _w,
        averageCost: _a,
        lastCost: _l,
        moved: _m,
        ...component
      }) => component,
    )
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

/** Puts a checked archive into an empty workshop, in one transaction. */
export async function importWorkshop(session: pg.PoolClient, archive: Archive): Promise<void> {
  await session.query(`lock table components, designs, boxes in exclusive mode`);
  if (!(await isEmpty(session))) {
    throw new Refusal(
      409,
      "Not empty",
      "An archive goes into an empty workshop only, so that nothing is overwritten. Start a new one with npm start -- --reset.",
    );
  }
  await session.query(`update workshop set name = $1, currency = $2, public_address = $3`, [
    archive.workshop.name,
    archive.workshop.currency,
    archive.workshop.publicAddress,
  ]);
  await putRooms(session, archive);
  await putComponents(session, archive.components);
  await importLedger(session, archive.ledger);
  for (const { tareG, ...at } of archive.jars) await rememberWeighing(session, { ...at, lot: "" }, tareG, null);
  for (const { massG, massU, massSd, pieces, ...at } of archive.lots) {
    await session.query(`insert into lots (component_id, name) values ($1, $2) on conflict do nothing`, [
      at.component,
      at.lot,
    ]);
    await rememberWeighing(session, { ...at, place: "" }, null, { g: massG, u: massU, sd: massSd ?? null, pieces });
  }
  for (const { id, received, ...order } of archive.orders) {
    await putOrder(session, id, order);
    await setReceived(session, received);
  }
  for (const reservation of archive.setAside) await addReservation(session, reservation);
  await refreshPromises(
    session,
    archive.components.map((c) => c.id),
  );
  for (const { id, revisions, archived, trials } of archive.designs) {
    for (const { no, design, reason, savedAt } of revisions)
      await addRevision(session, id, no, design, reason, savedAt);
    if (archived) await setArchived(session, id, true);
    for (const trial of trials) await putTrial(session, id, trial);
  }
  for (const { id, ...box } of archive.boxes) await putBox(session, id, box);
}
