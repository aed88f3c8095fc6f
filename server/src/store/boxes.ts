import type { Box, BoxChanges, BoxInput, BoxSummary } from "@jar-count/core/contract";
import type { Session } from "./database.ts";
import { PACK_BY } from "./runs.ts";

/** One box with everything in it, its lists in their order. */
export async function findBox(db: Session, id: string): Promise<Box | undefined> {
  const { rows } = await db.query<Box>(
    `select b.id, to_char(b.month, 'YYYY-MM') as month, b.theme, b.version, b.bagging,
       (select to_char(pack_by, 'YYYY-MM-DD') from runs where box_id = b.id) as "packBy",
       (select coalesce(json_agg(json_build_object('id', c.id, 'component', c.component_id, 'first', c.first,
          'quantity', c.quantity::float8, 'pack', case when c.pack is not null then
          json_build_object('name', c.pack, 'amount', c.pack_amount::float8) end, 'spare', c.spare::float8)
          order by c.position), '[]') from box_contents c where c.box_id = b.id) as contents,
       (select coalesce(json_agg(json_build_object('id', l.id, 'designId', l.design_id, 'revision', l.revision,
       'times', l.times,
          'size', l.size, 'option', l.option) order by l.position), '[]') from box_lines l
          where l.box_id = b.id) as lines,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name) order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 1) as colourways,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name) order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 2) as seconds,
       (select coalesce(json_agg(json_build_object('id', v.id, 'first', v.first, 'second', v.second,
          'boxes', v.boxes)
       order by v.position), '[]')
          from box_variants v where v.box_id = b.id) as variants,
       (select coalesce(json_agg(json_strip_nulls(json_build_object('id', r.id, 'name', r.name, 'kind', r.kind,
          'follows', r.follows, 'onceABox', nullif(r.once_a_box, false), 'spare', r.spare::float8))
          order by r.position), '[]') from box_roles r where r.box_id = b.id) as roles,
       (select coalesce(json_agg(json_build_object('line', x.line_id, 'role', x.role, 'boxRole', x.box_role_id)
          order by l.position, x.role), '[]') from box_bindings x join box_lines l on l.id = x.line_id
          where l.box_id = b.id) as bindings,
       (select coalesce(json_agg(json_build_object('boxRole', p.box_role_id, 'first', p.first, 'second', p.second,
          'component', p.component_id) order by r.position, c1.position nulls first, c2.position nulls first), '[]')
          from box_picks p join box_roles r on r.id = p.box_role_id left join box_choices c1 on c1.id = p.first
            left join box_choices c2 on c2.id = p.second where r.box_id = b.id) as picks,
       (select coalesce(json_agg(json_build_object('channel', p.channel_id, 'single', p.single_text,
          'subscription', p.subscription_text) order by p.position), '[]') from (select *,
          round(single, greatest(2, scale(trim_scale(single))))::text as single_text,
          round(subscription, greatest(2, scale(trim_scale(subscription))))::text as subscription_text
          from box_prices where box_id = b.id) p) as prices,
       (select coalesce(json_agg(json_build_object('id', w.id, 'name', w.name, 'changes', w.changes)
          order by w.position), '[]') from what_ifs w where w.box_id = b.id) as "whatIfs",
       (select coalesce(json_agg(json_build_object('id', o.id, 'line', o.line, 'first', o.first, 'second', o.second,
          'component', o.component, 'rule', o.rule, 'part', o.part, 'roleId', o.role, 'size', o.size, 'need', o.need,
          'have', o.have, 'note', o.note, 'who', o.who, 'on', o.said_on) order by o.position), '[]')
          from box_overrules o where o.box_id = b.id) as overrules
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
 * Writes what changed of a box, whose rows keep their identity: other tables may point at lines, choices, roles and
 * variants. A row whose id belongs to another box is refused by its key.
 * @param box the box after the changes
 */
export async function writeBox(db: Session, id: string, box: BoxInput, changes: BoxChanges): Promise<void> {
  await db.query(
    `insert into boxes (id, month, theme, bagging) values ($1, ($2 || '-01')::date, $3, $4)
     on conflict (id) do update set month = excluded.month, theme = excluded.theme, bagging = excluded.bagging,
       version = boxes.version + 1`,
    [id, box.month, box.theme, box.bagging],
  );
  await db.query(
    `insert into runs (box_id, pack_by) values ($1, $2)
     on conflict (box_id) do update set pack_by = excluded.pack_by
     where runs.pack_by is distinct from excluded.pack_by`,
    [id, box.packBy ?? null],
  );
  if (changes.lines) await keepRows(db, "box_lines", id, LINE_COLUMNS, placed(box.lines));
  if (changes.colourways || changes.seconds) {
    const choices = [...box.colourways.map((c) => ({ ...c, axis: 1 })), ...box.seconds.map((c) => ({ ...c, axis: 2 }))];
    await keepRows(db, "box_choices", id, "position int, axis smallint, name text", placed(choices));
  }
  if (changes.roles) {
    const roles = box.roles.map((r) => ({ ...r, once_a_box: r.onceABox ?? false, spare: r.spare ?? null }));
    await keepRows(db, "box_roles", id, ROLE_COLUMNS, placed(roles));
  }
  if (changes.contents) {
    const contents = box.contents.map((c) => ({
      ...c,
      component_id: c.component,
      pack: c.pack?.name ?? null,
      pack_amount: c.pack?.amount ?? null,
    }));
    await keepRows(db, "box_contents", id, CONTENT_COLUMNS, placed(contents));
  }
  if (changes.prices) await putPrices(db, id, placed(box.prices));
  if (changes.whatIfs)
    await keepRows(db, "what_ifs", id, "position int, name text, changes jsonb", placed(box.whatIfs));
  if (changes.variants) await keepVariants(db, id, placed(box.variants));
  if (changes.overrules) {
    const overrules = box.overrules.map((o) => ({ ...o, role: o.roleId, said_on: o.on }));
    await keepRows(db, "box_overrules", id, OVERRULE_COLUMNS, placed(overrules));
  }
  if (changes.bindings) await changeBindings(db, id, changes.bindings);
  if (changes.picks) await changePicks(db, id, changes.picks);
}

const placed = <T>(list: readonly T[]) => list.map((item, position) => ({ ...item, position }));

const ROLE_COLUMNS = "position int, name text, kind text, follows text, once_a_box boolean, spare numeric";
const CONTENT_COLUMNS =
  "position int, component_id uuid, first uuid, quantity numeric, pack text, pack_amount numeric, spare numeric";
const OVERRULE_COLUMNS =
  "position int, line uuid, first uuid, second uuid, component uuid, rule text, part text, role text, size text, " +
  "need float8, have float8, note text, who text, said_on text";
const LINE_COLUMNS = "position int, design_id uuid, revision int, times int, size text, option text";

/** Brings a box's rows of a table to those given: by their ids, the rest taken out, nothing else touched. */
async function keepRows(db: Session, table: string, boxId: string, columns: string, rows: { id: string }[]) {
  await db.query(`delete from ${table} where box_id = $1 and id <> all($2)`, [boxId, rows.map((r) => r.id)]);
  const names = columns.split(", ").map((column) => column.split(" ")[0]!);
  const fields = names.map((name) => (name === "design_id" ? `"designId"` : name)).map((name) => `x.${name}`);
  const { rowCount } = await db.query(
    `insert into ${table} as t (id, box_id, ${names.join(", ")})
     select x.id, $1, ${fields.join(", ")}
     from jsonb_to_recordset($2) as x(id uuid, ${columns.replace("design_id", `"designId"`)})
     on conflict (id) do update set (${names.join(", ")}) = row(${names.map((n) => `excluded.${n}`).join(", ")})
     where t.box_id = $1`,
    [boxId, JSON.stringify(rows)],
  );
  if (rowCount !== rows.length) {
    throw Object.assign(new Error(`an id of ${table} belongs to another box`), { code: "23505" });
  }
}

/** A variant is the same one as long as its choices are: its row, and what points at it, stays. */
async function keepVariants(
  db: Session,
  id: string,
  variants: (BoxInput["variants"][number] & { position: number })[],
) {
  const rows = JSON.stringify(variants);
  await db.query(
    `delete from box_variants v where v.box_id = $1 and not exists (
       select from jsonb_to_recordset($2) as x(first uuid, second uuid)
       where x.first = v.first and x.second is not distinct from v.second)`,
    [id, rows],
  );
  await db.query(
    `insert into box_variants (id, box_id, position, first, second, boxes)
     select coalesce(x.id, gen_random_uuid()), $1, x.position, x.first, x.second, x.boxes
     from jsonb_to_recordset($2) as x(id uuid, position int, first uuid, second uuid, boxes int)
     on conflict (box_id, first, second) do update set position = excluded.position, boxes = excluded.boxes`,
    [id, rows],
  );
}

async function putPrices(db: Session, id: string, prices: BoxInput["prices"]) {
  await db.query(`delete from box_prices where box_id = $1 and channel_id <> all($2)`, [
    id,
    prices.map((p) => p.channel),
  ]);
  await db.query(
    `insert into box_prices (box_id, channel_id, position, single, subscription)
     select $1, x.channel, x.position, x.single, x.subscription
     from jsonb_to_recordset($2) as x(channel uuid, position int, single numeric, subscription numeric)
     on conflict (box_id, channel_id) do update set position = excluded.position, single = excluded.single,
       subscription = excluded.subscription`,
    [id, JSON.stringify(prices)],
  );
}

async function changeBindings(db: Session, id: string, { put, drop }: NonNullable<BoxChanges["bindings"]>) {
  // A role's own name may hold spaces: only the first is between line and role.
  const gone = (drop ?? []).map((key) => ({
    line: key.slice(0, key.indexOf(" ")),
    role: key.slice(key.indexOf(" ") + 1),
  }));
  await db.query(
    `delete from box_bindings b using jsonb_to_recordset($2) as x(line uuid, role text), box_lines l
     where b.line_id = x.line and b.role = x.role and l.id = b.line_id and l.box_id = $1`,
    [id, JSON.stringify(gone)],
  );
  await db.query(
    `insert into box_bindings (line_id, role, box_role_id)
     select x.line, x.role, x."boxRole" from jsonb_to_recordset($1) as x(line uuid, role text, "boxRole" uuid)
     on conflict (line_id, role) do update set box_role_id = excluded.box_role_id`,
    [JSON.stringify(put ?? [])],
  );
}

async function changePicks(db: Session, id: string, { put, drop }: NonNullable<BoxChanges["picks"]>) {
  const gone = (drop ?? [])
    .map((key) => key.split(" "))
    .map(([boxRole, first, second]) => ({ boxRole, first: first || null, second: second || null }));
  await db.query(
    `delete from box_picks p using jsonb_to_recordset($2) as x("boxRole" uuid, first uuid, second uuid), box_roles r
     where p.box_role_id = x."boxRole" and p.first is not distinct from x.first
       and p.second is not distinct from x.second and r.id = p.box_role_id and r.box_id = $1`,
    [id, JSON.stringify(gone)],
  );
  await db.query(
    `insert into box_picks (box_role_id, first, second, component_id)
     select x."boxRole", x.first, x.second, x.component
     from jsonb_to_recordset($1) as x("boxRole" uuid, first uuid, second uuid, component uuid)
     on conflict (box_role_id, first, second) do update set component_id = excluded.component_id`,
    [JSON.stringify(put ?? [])],
  );
}

/**
 * Changes with the box, with a newer revision of any design, and with any stock or component: all that its page
 * shows.
 */
export async function tagOfBox(db: Session, id: string): Promise<string> {
  const { rows } = await db.query<{ tag: string }>({
    name: "tag of a box",
    text: `select w.made || '.' || coalesce((select stamp || '.' || version from boxes
      where id = $1), '0') || '.' || coalesce((select state from runs where box_id = $1), '') || '.' || w.version
       || '.' || (select version from money)
       || '.' || (select coalesce(sum(newest), 0) from designs) || '.'
       || (select count(*) || '.' || coalesce(sum(changed::text::bigint), 0) from component_totals) as tag
       from workshop w`,
    values: [id],
  });
  return rows[0]!.tag;
}

export async function deleteBox(db: Session, id: string): Promise<void> {
  await db.query(`delete from boxes where id = $1`, [id]);
}

/** Changes with any box, and with any component: all that the shelf of months shows. */
export async function tagOfBoxes(db: Session): Promise<string> {
  const { rows } = await db.query<{ tag: string }>(
    `select w.made || '.' || (select coalesce(md5(string_agg(b.stamp || '.' || b.version || '.' || r.state, ','
         order by b.id)), '') from boxes b join runs r on r.box_id = b.id)
       || '.' || (select count(*) from packed_boxes)
       || '.' || (select count(*) || '.' || coalesce(sum(changed::text::bigint), 0) from component_totals) as tag
     from workshop w`,
  );
  return rows[0]!.tag;
}

/** Every month's box with the stripe of its colourways: up to five colours of what was chosen, beads first. */
export async function listBoxes(db: Session): Promise<BoxSummary[]> {
  const { rows } = await db.query<BoxSummary>(
    `select b.id, to_char(b.month, 'YYYY-MM') as month, b.theme, b.version, u.state, ${PACK_BY} as "packBy",
       (select count(*)::int from box_lines l where l.box_id = b.id) as designs,
       coalesce((select sum(v.boxes)::int from box_variants v where v.box_id = b.id), 0) as boxes,
       (select count(*)::int from packed_boxes k where k.run_id = u.id) as packed,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name, 'stripe',
          (select coalesce(json_agg(s.colour), '[]') from (
             select k.colour from box_picks p join box_roles r on r.id = p.box_role_id
             join components k on k.id = p.component_id
             where p.first = c.id and k.kind in ('bead', 'focal') order by r.position limit 5) s))
             order by c.position), '[]')
          from box_choices c where c.box_id = b.id and c.axis = 1) as colourways
     from boxes b join runs u on u.box_id = b.id order by b.month, lower(b.theme), b.id`,
  );
  return rows;
}
