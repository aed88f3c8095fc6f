import type { Rooms, RoomsInput } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

/** People, suppliers and places, each a short list in its own order. */
export async function listRooms(db: Session): Promise<Rooms> {
  const { rows } = await db.query<Rooms>(
    `select (select coalesce(json_agg(json_build_object('id', id, 'name', name) order by position, name), '[]')
      from people) as people,
       (select coalesce(json_agg(json_build_object('id', id, 'name', name, 'leadDays', lead_days)
       order by position, name), '[]') from suppliers) as suppliers,
       (select coalesce(json_agg(json_build_object('id', id, 'code', code, 'name', name, 'held', held)
       order by position, code), '[]') from places) as places,
       (select rooms_version from workshop) as version`,
  );
  return rows[0]!;
}

/** Writes the three lists whole. What something else names can't be taken out: the database refuses it. */
export async function putRooms(db: Session, rooms: RoomsInput): Promise<void> {
  await db.query(`update workshop set rooms_version = rooms_version + 1`);
  const placed = (list: readonly object[]) => JSON.stringify(list.map((item, position) => ({ ...item, position })));
  await db.query(`delete from people where id <> all($1)`, [rooms.people.map((p) => p.id)]);
  await db.query(`delete from suppliers where id <> all($1)`, [rooms.suppliers.map((s) => s.id)]);
  await db.query(`delete from places where id <> all($1)`, [rooms.places.map((p) => p.id)]);
  await db.query(
    `insert into people (id, position, name) select x.id, x.position, x.name
      from jsonb_to_recordset($1) as x(id uuid, position int, name text)
     on conflict (id) do update set position = excluded.position, name = excluded.name`,
    [placed(rooms.people)],
  );
  await db.query(
    `insert into suppliers (id, position, name, lead_days) select x.id, x.position, x.name, x."leadDays"
      from jsonb_to_recordset($1) as x(id uuid, position int, name text, "leadDays" int)
     on conflict (id) do update set position = excluded.position, name = excluded.name, lead_days = excluded.lead_days`,
    [placed(rooms.suppliers)],
  );
  await db.query(
    `insert into places (id, position, code, name, held)
      select x.id, x.position, x.code, x.name, coalesce(x.held, false)
     from jsonb_to_recordset($1) as x(id uuid, position int, code text, name text, held boolean)
     on conflict (id) do update set position = excluded.position, code = excluded.code, name = excluded.name,
     held = excluded.held`,
    [placed(rooms.places)],
  );
}

/** The place that is meant where none is named: the first. */
export async function firstPlace(db: Session): Promise<string> {
  const { rows } = await db.query<{ id: string }>(
    `select id from places where not held order by position, code limit 1`,
  );
  return rows[0]!.id;
}
