import type { Box, BoxInput, BoxSummary } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

/** One box with everything in it, its lists in their order. */
export async function findBox(db: Session, id: string): Promise<Box | undefined> {
  const { rows } = await db.query<Box>(
    `select b.id, to_char(b.month, 'YYYY-MM') as month, b.theme, b.version,
       (select coalesce(json_agg(json_build_object('id', l.id, 'designId', l.design_id, 'revision', l.revision,
       'times', l.times,
          'size', l.size, 'option', l.option) order by l.position), '[]') from box_lines l
          where l.box_id = b.id) as lines,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name) order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 1) as colourways,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name) order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 2) as seconds,
       (select coalesce(json_agg(json_build_object('first', v.first, 'second', v.second, 'boxes', v.boxes)
       order by v.position), '[]')
          from box_variants v where v.box_id = b.id) as variants,
       (select coalesce(json_agg(json_build_object('id', r.id, 'name', r.name, 'kind', r.kind, 'follows', r.follows)
          order by r.position), '[]') from box_roles r where r.box_id = b.id) as roles,
       (select coalesce(json_agg(json_build_object('line', x.line_id, 'role', x.role, 'boxRole', x.box_role_id)
          order by l.position, x.role), '[]') from box_bindings x join box_lines l on l.id = x.line_id
          where l.box_id = b.id) as bindings,
       (select coalesce(json_agg(json_build_object('boxRole', p.box_role_id, 'first', p.first, 'second', p.second,
          'component', p.component_id) order by r.position, c1.position nulls first, c2.position nulls first), '[]')
          from box_picks p join box_roles r on r.id = p.box_role_id left join box_choices c1 on c1.id = p.first
            left join box_choices c2 on c2.id = p.second where r.box_id = b.id) as picks
     from boxes b where b.id = $1`,
    [id],
  );
  return rows[0];
}

export async function lockBox(db: Session, id: string): Promise<number | undefined> {
  const { rows } = await db.query<{ version: number }>(`select version from boxes where id = $1 for update`, [id]);
  return rows[0]?.version;
}

/**
 * Writes a box whole. Rows that other tables may come to point at (lines, choices, roles) keep their identity;
 * one whose id belongs to another box is refused by its key.
 */
export async function putBox(db: Session, id: string, box: BoxInput): Promise<void> {
  await db.query(
    `insert into boxes (id, month, theme) values ($1, ($2 || '-01')::date, $3)
     on conflict (id) do update set month = excluded.month, theme = excluded.theme, version = boxes.version + 1`,
    [id, box.month, box.theme],
  );
  const choices = [...box.colourways.map((c) => ({ ...c, axis: 1 })), ...box.seconds.map((c) => ({ ...c, axis: 2 }))];
  await db.query(`delete from box_variants where box_id = $1`, [id]);
  await db.query(`delete from box_picks using box_roles r where r.id = box_role_id and r.box_id = $1`, [id]);
  await db.query(`delete from box_bindings using box_lines l where l.id = line_id and l.box_id = $1`, [id]);
  await keep(
    db,
    "box_lines",
    id,
    'position int, "designId" uuid, revision int, times int, size text, option text',
    "position, design_id, revision, times, size, option",
    placed(box.lines),
  );
  await keep(db, "box_choices", id, "position int, axis smallint, name text", "position, axis, name", placed(choices));
  await keep(
    db,
    "box_roles",
    id,
    "position int, name text, kind text, follows text",
    "position, name, kind, follows",
    placed(box.roles),
  );
  await db.query(
    `insert into box_variants (box_id, position, first, second, boxes)
     select $1, v.position, v.first, v.second, v.boxes
     from jsonb_to_recordset($2) as v(position int, first uuid, second uuid, boxes int)`,
    [id, JSON.stringify(placed(box.variants))],
  );
  await db.query(
    `insert into box_bindings (line_id, role, box_role_id)
     select b.line, b.role, b."boxRole" from jsonb_to_recordset($1) as b(line uuid, role text, "boxRole" uuid)`,
    [JSON.stringify(box.bindings)],
  );
  await db.query(
    `insert into box_picks (box_role_id, first, second, component_id)
     select p."boxRole", p.first, p.second, p.component
     from jsonb_to_recordset($1) as p("boxRole" uuid, first uuid, second uuid, component uuid)`,
    [JSON.stringify(box.picks)],
  );
}

const placed = <T>(list: readonly T[]) => list.map((item, position) => ({ ...item, position }));

async function keep(db: Session, table: string, boxId: string, shape: string, columns: string, rows: { id: string }[]) {
  await db.query(`delete from ${table} where box_id = $1 and id <> all($2)`, [boxId, rows.map((r) => r.id)]);
  const names = columns.split(", ");
  const fields = names.map((name) => (name === "design_id" ? `x."designId"` : `x.${name}`)).join(", ");
  const { rowCount } = await db.query(
    `insert into ${table} as t (id, box_id, ${columns})
     select x.id, $1, ${fields} from jsonb_to_recordset($2) as x(id uuid, ${shape})
     on conflict (id) do update set (${columns}) = row(${names.map((n) => `excluded.${n}`).join(", ")})
     where t.box_id = $1`,
    [boxId, JSON.stringify(rows)],
  );
  if (rowCount !== rows.length)
    throw Object.assign(new Error(`an id of ${table} belongs to another box`), { code: "23505" });
}

/**
 * Changes with the box, with a newer revision of any design, and with any stock or component: all that its page
 * shows.
 */
export async function tagOfBox(db: Session, id: string): Promise<string> {
  const { rows } = await db.query<{ tag: string }>({
    name: "tag of a box",
    text: `select w.made || '.' || coalesce((select version from boxes
      where id = $1), 0) || '.' || (select coalesce(sum(newest), 0) from designs) || '.'
       || (select count(*) || '.' || coalesce(sum(changed::text::numeric), 0) from component_totals) as tag
       from workshop w`,
    values: [id],
  });
  return rows[0]!.tag;
}

export async function deleteBox(db: Session, id: string): Promise<void> {
  await db.query(`delete from boxes where id = $1`, [id]);
}

/** Every month's box with the stripe of its colourways: up to five colours of what was chosen, beads first. */
export async function listBoxes(db: Session): Promise<BoxSummary[]> {
  const { rows } = await db.query<BoxSummary>(
    `select b.id, to_char(b.month, 'YYYY-MM') as month, b.theme, b.version,
       (select count(*)::int from box_lines l where l.box_id = b.id) as designs,
       coalesce((select sum(v.boxes)::int from box_variants v where v.box_id = b.id), 0) as boxes,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name, 'stripe',
          (select coalesce(json_agg(s.colour), '[]') from (
             select k.colour from box_picks p join box_roles r on r.id = p.box_role_id
             join components k on k.id = p.component_id
             where p.first = c.id and k.kind in ('bead', 'focal') order by r.position limit 5) s))
             order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 1) as colourways
     from boxes b order by b.month, lower(b.theme), b.id`,
  );
  return rows;
}
