import type { Packing, PackNeed, Stand, Told } from "@jar-count/core/contract";
import { exact } from "@jar-count/core/units";
import type { Session } from "./database.ts";

/** What a run needs and how far each need is; of some components only, where they are named. */
export async function listNeeds(
  db: Session,
  runId: string,
  components: readonly string[] | null = null,
): Promise<PackNeed[]> {
  const { rows } = await db.query<PackNeed>({
    name: "needs of a run",
    text: `with held as (
       select r.need_id, sum(r.quantity) filter (where r.order_line_id is null) as stock,
         json_agg(json_build_object('order', o.id, 'number', o.number, 'due', to_char(l.due, 'YYYY-MM-DD'),
           'quantity', r.quantity::float8) order by l.due nulls last, o.id) filter (where o.id is not null) as ordered
       from reservations r left join order_lines l on l.id = r.order_line_id left join orders o on o.id = l.order_id
       where r.released_at is null and r.need_id in (select id from run_needs where run_id = $1) group by 1
     ), last as (
       select distinct on (m.need_id) m.need_id, m.lot from movements m join run_needs n on n.id = m.need_id
       where n.run_id = $1 and m.component_id = n.component_id and m.quantity < 0 order by m.need_id, m.id desc
     )
     select n.id, n.variant_id as variant, n.component_id as component, n.cut_mm::float8 as "cutMm",
       n.quantity::float8, n.used::float8, n.swapped::float8, coalesce(h.stock, 0)::float8 as held,
       coalesce(h.ordered, '[]') as ordered, l.lot
     from run_needs n left join held h on h.need_id = n.id left join last l on l.need_id = n.id
     where n.run_id = $1 and n.variant_id is not null
       and ($2::uuid[] is null or n.component_id in (select unnest($2::uuid[]))) order by n.id`,
    values: [runId, components],
  });
  return rows;
}

/** Where some components stand that may be taken, and what was learnt of a piece of each lot. */
export async function listStands(db: Session, components: readonly string[]): Promise<Stand[]> {
  const { rows } = await db.query<Stand>({
    name: "stands",
    text: `select b.component_id as component, b.place_id as place, b.lot, b.stretch_mm::float8 as "stretchMm",
       b.quantity::float8, case when l.mass_g is not null then
         json_build_object('g', l.mass_g, 'u', l.mass_u, 'sd', l.mass_sd) end as "unitMass"
     from balances b join places p on p.id = b.place_id
       join lots l on l.component_id = b.component_id and l.name = b.lot
     where not p.held and b.component_id in (select unnest($1::uuid[]))
     order by b.component_id, p.position, p.code, b.lot, b.stretch_mm desc`,
    values: [components],
  });
  return rows;
}

/** How much of some components is neither spoken for nor held back, by component; below 0 where too much is. */
export async function listFree(db: Session, components: readonly string[]): Promise<Map<string, number>> {
  const { rows } = await db.query<{ id: string; free: number }>({
    name: "free",
    text: `select component_id as id, (on_hand - spoken_for - held)::float8 as free from component_totals
     where component_id in (select unnest($1::uuid[]))`,
    values: [components],
  });
  return new Map(rows.map((r) => [r.id, r.free]));
}

/** Places that may be taken from, in the order of the walk. */
export async function listPlaces(db: Session): Promise<Packing["places"]> {
  const { rows } = await db.query<Packing["places"][number]>(
    `select id, code, name from places where not held order by position, code`,
  );
  return rows;
}

export async function listPacked(db: Session, runId: string): Promise<Packing["packed"]> {
  const { rows } = await db.query<Packing["packed"][number]>(
    `select k.variant_id as variant, k.no, exact_time(k.packed_at) as at, p.name as person
     from packed_boxes k left join people p on p.id = k.person_id where k.run_id = $1
     order by k.packed_at, k.variant_id, k.no`,
    [runId],
  );
  return rows;
}

/** Notes a box as packed, or takes it out again. @returns whether that changed anything */
export async function markPacked(
  db: Session,
  runId: string,
  box: { variant: string; no: number; packed: boolean; at: string; person: string | null },
): Promise<boolean> {
  const { rowCount } = box.packed
    ? await db.query(
        `insert into packed_boxes (run_id, variant_id, no, packed_at, person_id) values ($1, $2, $3, $4, $5)
         on conflict do nothing`,
        [runId, box.variant, box.no, box.at, box.person],
      )
    : await db.query(`delete from packed_boxes where run_id = $1 and variant_id = $2 and no = $3`, [
        runId,
        box.variant,
        box.no,
      ]);
  return rowCount === 1;
}

/** How many boxes are packed: of a variant, and in all. */
export async function countPacked(db: Session, runId: string, variant: string): Promise<{ of: number; all: number }> {
  const { rows } = await db.query<{ of: number; all: number }>(
    `select count(*) filter (where variant_id = $2)::int as of, count(*)::int as all
     from packed_boxes where run_id = $1`,
    [runId, variant],
  );
  return rows[0]!;
}

/** Something of a need in stock is not spoken for by it any more. @returns how much of it was */
export async function useReserved(db: Session, need: string, quantity: number): Promise<number> {
  return lessen(db, need, quantity, IN_STOCK);
}

/** A need speaks for at most so much from here on: what is on orders goes first. */
export async function trimReserved(db: Session, need: string, most: number): Promise<void> {
  const { rows } = await db.query<{ sum: number }>(
    `select coalesce(sum(quantity), 0)::float8 as sum from reservations where need_id = $1 and released_at is null`,
    [need],
  );
  const over = exact(rows[0]!.sum - most);
  if (over <= 0) return;
  const gone = await lessen(db, need, over, ON_ORDER);
  if (gone < over) await lessen(db, need, exact(over - gone), IN_STOCK);
}

/**
 * A need speaks for so much less: of orders that come after a day, or of stock. What it loses is for something else.
 * @returns how much that was
 */
export function giveUpForLine(
  db: Session,
  need: string,
  quantity: number,
  which: "late" | "stock",
  packBy: string,
): Promise<number> {
  return lessen(db, need, quantity, which === "late" ? lateAfter(packBy) : IN_STOCK);
}

/** Which of the reservations of a need, as a condition and its values. */
type Which = readonly [sql: string, ...values: string[]];
const IN_STOCK: Which = ["order_line_id is null"];
const ON_ORDER: Which = ["order_line_id is not null"];
const lateAfter = (day: string): Which => [
  "order_line_id in (select id from order_lines where due is null or due > $2::date)",
  day,
];

async function lessen(db: Session, need: string, quantity: number, [sql, ...values]: Which): Promise<number> {
  const { rows } = await db.query<{ id: string; quantity: number }>(
    `select id, quantity::float8 from reservations where need_id = $1 and released_at is null and ${sql}
     order by made_at, id`,
    [need, ...values],
  );
  let open = quantity;
  for (const r of rows) {
    if (open <= 0) break;
    const n = Math.min(open, r.quantity);
    if (n >= r.quantity) await db.query(`delete from reservations where id = $1`, [r.id]);
    else await db.query(`update reservations set quantity = quantity - $2::numeric where id = $1`, [r.id, n]);
    open = exact(open - n);
  }
  return exact(quantity - open);
}

/** Gives free all that a run still speaks for; what it needs, and what was used of that, stays to be looked back on. */
export async function releaseRun(db: Session, runId: string): Promise<void> {
  await db.query(`delete from reservations where need_id in (select id from run_needs where run_id = $1)`, [runId]);
}

export async function stopAt(db: Session, runId: string): Promise<void> {
  await db.query(`update runs set stopped_at = now() where id = $1`, [runId]);
}

export async function closeBy(db: Session, runId: string, person: string | null): Promise<void> {
  await db.query(`update runs set closed_at = now(), closed_by = $2, state = 'sent' where id = $1`, [runId, person]);
}

export async function closedBy(db: Session, runId: string): Promise<Packing["closed"]> {
  const { rows } = await db.query<{ at: string; person: string | null }>(
    `select exact_time(u.closed_at) as at, p.name as person from runs u left join people p on p.id = u.closed_by
     where u.id = $1 and u.closed_at is not null`,
    [runId],
  );
  return rows[0] ?? null;
}

/** Where a need was taken from last, and what a unit of what it took was worth: decimal text. */
export async function lastTaken(
  db: Session,
  need: string,
): Promise<{ place: string; lot: string; unitValue: string } | undefined> {
  const { rows } = await db.query<{ place: string; lot: string; unitValue: string }>(
    `select m.place_id as place, m.lot, (select round(sum(x.value)
         / nullif(sum(amount_of(x.quantity, x.stretch_mm)), 0),
         8)::text from movements x where x.need_id = m.need_id and x.component_id = m.component_id) as "unitValue"
     from movements m join run_needs n on n.id = m.need_id and n.component_id = m.component_id
     where m.need_id = $1 and m.quantity < 0 order by m.id desc limit 1`,
    [need],
  );
  return rows[0];
}

const TOLD = `from entries e join movements m on m.entry_id = e.id left join run_needs n on n.id = m.need_id
  left join people p on p.id = e.person_id
  where e.run_id = $1 and e.kind in ('broken', 'counted', 'used', 'cut')
    and (e.kind = 'used') = (m.need_id is not null) and m.component_id is distinct from n.component_id
    and not exists (select from entries r where r.reverses = e.id)`;

/** What was told while packing, and not taken back; the newest first. */
export async function listTold(db: Session, runId: string): Promise<Told[]> {
  const { rows } = await db.query<Told>(
    `select e.id::text as entry, case e.kind when 'used' then 'swapped' else e.kind end as kind, e.note,
       exact_time(e.happened_at) as at, p.name as person, m.component_id as component,
       (sum(amount_of(m.quantity, m.stretch_mm)) * case when e.kind = 'counted' then 1 else -1 end)::float8 as quantity,
       n.component_id as "inPlaceOf"
     ${TOLD} group by e.id, p.name, m.component_id, n.component_id order by e.id desc`,
    [runId],
  );
  return rows;
}

/** What an entry told of a run was: the need that something was swapped for, and how much of it. */
export async function findTold(
  db: Session,
  runId: string,
  entry: string,
): Promise<{ need: string | null; quantity: number; component: string | null } | undefined> {
  const { rows } = await db.query<{ need: string | null; quantity: number; component: string | null }>(
    `select m.need_id as need, (-sum(amount_of(m.quantity, m.stretch_mm)) / coalesce(max(n.cut_mm), 1))::float8
       as quantity, n.component_id as component ${TOLD} and e.id = $2 group by m.need_id, n.component_id`,
    [runId, entry],
  );
  return rows[0];
}

/** The entry that a write made, by its request key. */
export async function entryOf(db: Session, requestKey: string): Promise<string> {
  const { rows } = await db.query<{ id: string }>(`select id::text from entries where request_key = $1`, [requestKey]);
  return rows[0]?.id ?? "0";
}

/** A longer wait between two boxes is a pause: it says nothing of how long one takes. */
export interface TimedRow {
  run: string;
  variant: string;
  seconds: number;
}

/** How long packed boxes took: from the box that the same person packed before it, in the same run. */
export async function listTimed(db: Session, pauseSeconds: number): Promise<TimedRow[]> {
  const { rows } = await db.query<TimedRow>(
    `select run_id as run, variant_id as variant, seconds::float8 from (
       select run_id, variant_id, extract(epoch from packed_at - lag(packed_at)
         over (partition by run_id, person_id order by packed_at, variant_id, no)) as seconds
       from packed_boxes) x
     where seconds > 0 and seconds <= $1`,
    [pauseSeconds],
  );
  return rows;
}

/** What was really used of some runs, by variant, and what was broken or lost in each: its value in money. */
export async function listSpent(
  db: Session,
  runs: readonly string[],
): Promise<{ run: string; variant: string | null; component: string; value: string }[]> {
  const { rows } = await db.query<{ run: string; variant: string | null; component: string; value: string }>(
    `select e.run_id as run, n.variant_id as variant, m.component_id as component, (-sum(m.value))::text as value
     from entries e join movements m on m.entry_id = e.id left join run_needs n on n.id = m.need_id
     where e.run_id = any($1) and e.kind not in ('cut', 'counted')
       and not exists (select from entries x where x.reverses = e.id) and e.reverses is null
     group by 1, 2, 3`,
    [runs],
  );
  return rows;
}
