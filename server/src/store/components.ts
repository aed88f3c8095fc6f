import type { Offered } from "@jar-count/core/buy";
import { codeKey, type Component, type ComponentInput, type Offer } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

/** Fields with a column of their own; the contract's others stand in attrs. */
const OWN = [
  "code",
  "name",
  "kind",
  "form",
  "colour",
  "finish",
  "baseUnit",
  "alongMm",
  "acrossMm",
  "holeMm",
  "linkMm",
  "perGram",
  "reorderAt",
  "offers",
] as const;

interface Row extends Omit<Component, "offers"> {
  attrs: Partial<Component>;
  offers: Component["offers"];
}

const SELECT = `select c.id, c.code, c.name, c.kind, c.form, c.colour, c.finish, c.base_unit as "baseUnit",
    c.along_mm::float8 as "alongMm", c.across_mm::float8 as "acrossMm", c.hole_mm::float8 as "holeMm",
    c.link_mm::float8 as "linkMm",
    c.per_gram::float8 as "perGram", c.reorder_at::float8 as "reorderAt", c.attrs, c.version,
    coalesce(o.offers, '[]') as offers,
    t.on_hand::float8 as "onHand", round(sqrt(t.variance), 3)::float8 as u,
    (t.spoken_for + t.held)::float8 as "spokenFor",
    t.on_the_way::float8 as "onTheWay", t.moved,
    case when t.on_hand > 0 and t.value > 0 then round(t.value / t.on_hand, 8)::text
    end as "averageCost", t.last_cost::text as "lastCost"
  from components c join component_totals t on t.component_id = c.id
  left join lateral (select json_agg(json_build_object('id', o.id,
      'supplier', o.supplier_id, 'pack', o.pack, 'amount', o.amount,
  'unit', o.unit,
      'price', round(o.price, greatest(2, scale(trim_scale(o.price))))::text, 'steps', o.steps, 'minimum', o.minimum,
      'leadDays', o.lead_days) order by o.position) as offers
    from offers o where o.component_id = c.id) o on true`;

const fromRow = ({ attrs, ...row }: Row): Component => ({ ...attrs, ...row }) as Component;

export async function listComponents(db: Session): Promise<Component[]> {
  const { rows } = await db.query<Row>(`${SELECT} order by c.kind, c.name, c.code`);
  return rows.map(fromRow);
}

export async function listComponentIds(db: Session): Promise<string[]> {
  const { rows } = await db.query<{ id: string }>(`select id from components`);
  return rows.map((r) => r.id);
}

/**
 * Every component as the JSON text of an array of `Component`, in the order of {@link listComponents}. The database
 * writes it: thousands of rows made into objects and back would hold up every other request. What is not known of a
 * component (null) is left out.
 */
export async function writeAllComponents(db: Session): Promise<string> {
  const { rows } = await db.query<{ text: string }>(
    `select coalesce('[' || string_agg(
       (jsonb_strip_nulls(to_jsonb(x) - 'attrs') || x.attrs
         || jsonb_build_object('averageCost', x."averageCost", 'lastCost', x."lastCost"))::text, ',' order by x.kind,
         x.name, x.code) || ']', '[]') as text
     from (${SELECT}) x`,
  );
  return rows[0]!.text;
}

/** Keeps components as they are while a table is judged by them; others may still read. */
export async function lockComponents(db: Session): Promise<void> {
  // In the order of everybody who changes one: its totals, then the table.
  await db.query(`select lock_totals(array(select id from components))`);
  await db.query(`lock table components in share row exclusive mode`);
}

/** Those that changed in or after a transaction that an earlier list named: so many by their ids, after one of them. */
export async function listChanged(
  db: Session,
  since: string,
  after: string | null,
  many: number,
): Promise<Component[]> {
  const { rows } = await db.query<Row>({
    name: "changed components",
    text: `${SELECT} where t.changed >= $1::xid8 and ($2::uuid is null or c.id > $2) order by c.id limit $3`,
    values: [since, after, many],
  });
  return rows.map(fromRow);
}

/** The oldest transaction that may not be seen yet: a later list need only hold what changed in or after it. */
export async function readAsOf(db: Session): Promise<string> {
  const { rows } = await db.query<{ now: string }>(`select pg_snapshot_xmin(pg_current_snapshot())::text as now`);
  return rows[0]!.now;
}

/** Changes whenever a component or its stock does. */
export async function tagOfComponents(db: Session): Promise<string> {
  const { rows } = await db.query<{ tag: string }>(
    `select w.made || '.' || count(t.*) || '.' || coalesce(sum(t.changed::text::bigint), 0) as tag from workshop w
      left join component_totals t on true group by w.made`,
  );
  return rows[0]!.tag;
}

/** Changes whenever what is said of a component does, or its unit can't change any more; not with its stock. */
export async function tagOfWhatIsSaid(db: Session): Promise<string> {
  const { rows } = await db.query<{ tag: string }>(
    `select w.made || '.' || count(c.*) || '.' || coalesce(sum(hashtextextended(
       c.id || ' ' || c.version || ' ' || t.moved, 0)::numeric), 0) as tag from workshop w
      left join (components c join component_totals t on t.component_id = c.id) on true group by w.made`,
  );
  return rows[0]!.tag;
}

export async function findComponents(db: Session, ids: string[]): Promise<Component[]> {
  const { rows } = await db.query<Row>({ name: "components", text: `${SELECT} where c.id = any($1)`, values: [ids] });
  return rows.map(fromRow);
}

/** What buying asks of thousands of components: what they are measured by, and how they are sold. */
export async function findOffered(db: Session, ids: readonly string[]): Promise<Offered[]> {
  const { rows } = await db.query<Omit<Offered, "offers"> & { attrs: Partial<Offered> }>({
    name: "offered components",
    text: `select c.id, c.name, c.base_unit as "baseUnit", c.form, c.along_mm::float8 as "alongMm",
       c.across_mm::float8 as "acrossMm", c.hole_mm::float8 as "holeMm",
       c.per_gram::float8 as "perGram", c.attrs
     from components c where c.id in (select unnest($1::uuid[]))`,
    values: [ids],
  });
  const { rows: offers } = await db.query<Offer & { component: string }>({
    name: "offers of components",
    text: `select o.component_id as component, o.id, o.supplier_id as supplier, o.pack, o.amount::float8, o.unit,
       o.price::text, o.steps, o.minimum, o.lead_days as "leadDays"
     from offers o where o.component_id in (select unnest($1::uuid[])) order by o.component_id, o.position`,
    values: [ids],
  });
  const found = new Map(rows.map(({ attrs, ...row }) => [row.id, { ...attrs, ...row, offers: [] as Offer[] }]));
  for (const { component, ...offer } of offers) found.get(component)?.offers.push(offer);
  return [...found.values()];
}

export async function findByCode(db: Session, code: string): Promise<string | undefined> {
  const { rows } = await db.query<{ id: string }>(`select id from components where code_key = $1`, [codeKey(code)]);
  return rows[0]?.id;
}

/** What is written in a component's unit, so that it can't change any more: words, none where it can. */
export async function whatIsWritten(db: Session, id: string): Promise<string[]> {
  const { rows } = await db.query<{ what: string }>(`select what from written_in_unit($1) what`, [id]);
  return rows.map((r) => r.what);
}

/** A component's version and base unit, and whether stock of it moved; its totals must be locked. */
export async function findVersion(db: Session, id: string) {
  const { rows } = await db.query<{ version: number; baseUnit: string; moved: boolean }>(
    `select c.version, c.base_unit as "baseUnit", t.moved from components c
      join component_totals t on t.component_id = c.id where c.id = $1`,
    [id],
  );
  return rows[0];
}

/** Writes components whole, with their offers; new ones and known ones alike. Totals of known ones must be locked. */
export async function putComponents(db: Session, list: readonly ({ id: string } & ComponentInput)[]): Promise<void> {
  const rows = list.map((c) => ({
    ...c,
    codeKey: codeKey(c.code),
    attrs: Object.fromEntries(
      Object.entries(c).filter(
        ([name, value]) => name !== "id" && !(OWN as readonly string[]).includes(name) && value != null,
      ),
    ),
  }));
  await db.query(
    `insert into components (id, code, code_key, name, kind, form, colour, finish, base_unit, along_mm, across_mm,
      hole_mm, link_mm, per_gram, reorder_at, attrs)
     select x.id, x.code, x."codeKey", x.name, x.kind, x.form, x.colour, x.finish, x."baseUnit", x."alongMm",
     x."acrossMm", x."holeMm", x."linkMm", x."perGram", x."reorderAt", x.attrs
     from jsonb_to_recordset($1) as x(id uuid, code text, "codeKey" text, name text, kind text, form text, colour text,
     finish text, "baseUnit" text,
       "alongMm" numeric, "acrossMm" numeric, "holeMm" numeric, "linkMm" numeric, "perGram" numeric,
       "reorderAt" numeric, attrs jsonb)
     on conflict (id) do update set code = excluded.code, code_key = excluded.code_key, name = excluded.name,
     kind = excluded.kind, form = excluded.form, colour = excluded.colour,
       finish = excluded.finish, base_unit = excluded.base_unit, along_mm = excluded.along_mm,
       across_mm = excluded.across_mm, hole_mm = excluded.hole_mm,
       link_mm = excluded.link_mm, per_gram = excluded.per_gram, reorder_at = excluded.reorder_at,
       attrs = excluded.attrs, version = components.version + 1`,
    [JSON.stringify(rows)],
  );
  const ids = list.map((c) => c.id);
  const offers = list.flatMap((c) =>
    (c.offers ?? []).map((o, position) => ({
      ...o,
      component: c.id,
      position,
      steps: o.steps ?? [],
      minimum: o.minimum ?? 1,
    })),
  );
  const kept = offers.flatMap((o) => o.id ?? []);
  await db.query(`delete from offers where component_id = any($1) and id <> all($2)`, [ids, kept]);
  const { rowCount } = await db.query(
    `insert into offers as t (id, component_id, position, supplier_id, pack, amount, unit, price, steps, minimum,
       lead_days)
     select coalesce(x.id, gen_random_uuid()), x.component, x.position, x.supplier, x.pack, x.amount, x.unit, x.price,
       x.steps, x.minimum, x."leadDays"
     from jsonb_to_recordset($1) as x(id uuid, component uuid, position int, supplier uuid, pack text, amount numeric,
     unit text, price numeric, steps jsonb, minimum int, "leadDays" int)
     on conflict (id) do update set position = excluded.position, supplier_id = excluded.supplier_id,
       pack = excluded.pack, amount = excluded.amount, unit = excluded.unit, price = excluded.price,
       steps = excluded.steps, minimum = excluded.minimum, lead_days = excluded.lead_days
     where t.component_id = excluded.component_id`,
    [JSON.stringify(offers)],
  );
  if (rowCount !== offers.length) {
    throw Object.assign(new Error("an offer's id belongs to another component"), { code: "23505" });
  }
}
