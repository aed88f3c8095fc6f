import type { Archive } from "@jar-count/core/contract";
import type pg from "pg";
import { Refusal } from "../refusal.ts";
import { findBox, putBox } from "./boxes.ts";
import { listComponents, moveStock, putComponent } from "./components.ts";
import type { Session } from "./database.ts";
import { addRevision } from "./designs.ts";

const INSTANT = `'YYYY-MM-DD"T"HH24:MI:SS"Z"'`;

/** The whole workshop. The same content always comes out in the same order. */
export async function exportWorkshop(db: Session): Promise<Archive> {
  const workshop = (await db.query<Archive["workshop"]>(`select name, currency from workshop`)).rows[0]!;
  const components = (await listComponents(db))
    .map(({ version: _v, onHand: _h, moved: _m, ...component }) => component)
    .sort((a, b) => (a.code < b.code ? -1 : 1));
  const { rows: stock } = await db.query<Archive["stock"][number]>(
    `select e.request_key as "requestKey", to_char(e.happened_at at time zone 'utc', ${INSTANT}) as at, m.component_id as component,
       e.kind, coalesce(m.counted, m.quantity)::float8 as quantity, e.note
     from entries e join movements m on m.entry_id = e.id order by m.id`,
  );
  const { rows: designs } = await db.query<Archive["designs"][number]>(
    `select d.id, json_agg(json_build_object('no', r.no, 'reason', r.reason,
       'savedAt', to_char(r.saved_at at time zone 'utc', ${INSTANT}), 'design', r.body) order by r.no) as revisions
     from designs d join design_revisions r on r.design_id = d.id group by d.id order by d.id`,
  );
  const { rows: ids } = await db.query<{ id: string }>(`select id from boxes order by month, id`);
  const boxes: Archive["boxes"] = [];
  for (const { id } of ids) {
    const { version: _v, ...box } = (await findBox(db, id))!;
    boxes.push(box);
  }
  return { workshop, components, stock, designs, boxes };
}

export async function isEmpty(db: Session): Promise<boolean> {
  const { rows } = await db.query<{ empty: boolean }>(
    `select not exists (select from components) and not exists (select from designs) and not exists (select from boxes) as empty`,
  );
  return rows[0]!.empty;
}

/** Puts a checked archive into an empty workshop, in one transaction. */
export async function importWorkshop(session: pg.PoolClient, archive: Archive): Promise<void> {
  await session.query(`lock table components, designs, boxes in exclusive mode`);
  if (!(await isEmpty(session))) {
    throw new Refusal(409, "Not empty", "An archive goes into an empty workshop only, so that nothing is overwritten. Start a new one with npm start -- --reset.");
  }
  await session.query(`update workshop set name = $1, currency = $2`, [archive.workshop.name, archive.workshop.currency]);
  for (const { id, ...component } of archive.components) await putComponent(session, id, component);
  for (const { component, at, ...entry } of archive.stock) await moveStock(session, component, entry, at);
  for (const { id, revisions } of archive.designs) {
    for (const { no, design, reason, savedAt } of revisions) await addRevision(session, id, no, design, reason, savedAt);
  }
  for (const { id, ...box } of archive.boxes) await putBox(session, id, box);
}
