import type { Archive, Balance, LedgerLine, Movement, Reason } from "@jar-count/core/contract";
import type { Moved, SpotBalance, Total } from "@jar-count/core/stock";
import type { Session } from "./database.ts";

/** An entry of the ledger as it is written: what happened, without its movements. */
export interface NewEntry {
  kind: Reason;
  /** The write's own key, and the entry's: one that is there already is refused by the database. */
  requestKey: string;
  person?: string | null | undefined;
  note?: string | undefined;
  minutes?: number | null | undefined;
  /** When it happened, where it is not now. */
  at?: string;
  /** The entry that it undoes, by its id. */
  reverses?: string | undefined;
  /** The entry that it undoes, by its request key: for a ledger that is written anew. */
  reversesKey?: string | null | undefined;
  /** The run that it happens for. */
  run?: string | null | undefined;
}

/** Locks components' totals for the rest of the transaction, in one order: before any other row of theirs. */
export async function lockTotals(db: Session, components: readonly string[]): Promise<void> {
  await db.query(`select lock_totals($1)`, [components]);
}

/** What the book holds of some components, spot by spot and in all. */
export async function readBook(
  db: Session,
  components: readonly string[],
): Promise<{ spots: SpotBalance[]; totals: Omit<Total, "replacement">[] }> {
  const { rows: totals } = await db.query<Omit<Total, "replacement">>(
    `select c.id as component, c.name, c.base_unit as "baseUnit", t.on_hand::float8 as "onHand", t.value::text,
       t.last_cost::text as "lastCost"
     from components c join component_totals t on t.component_id = c.id where c.id = any($1)`,
    [components],
  );
  const { rows: spots } = await db.query<SpotBalance>(
    `select component_id as component, place_id as place, lot, stretch_mm::float8 as "stretchMm", quantity::float8,
       variance::float8
     from balances where component_id = any($1)`,
    [components],
  );
  return { spots, totals };
}

/** So many entries are written at once. */
const PART = 5_000;

/**
 * Appends entries with their lines; an entry names one that it reverses by its id, or by its request key. Balances,
 * totals and what was received of orders follow from it in the database itself.
 */
export async function appendEntries(
  db: Session,
  entries: readonly NewEntry[],
  moved: readonly (readonly Moved[])[],
): Promise<void> {
  const { rows: ids } = await db.query<{ id: string }>(
    `select nextval(pg_get_serial_sequence('entries', 'id'))::text as id from generate_series(1, $1)`,
    [entries.length],
  );
  const idOf = new Map(entries.map((e, i) => [e.requestKey, ids[i]!.id]));
  for (let from = 0; from < entries.length; from += PART) {
    const part = entries.slice(from, from + PART);
    const rows = part.map((e, i) => ({
      id: ids[from + i]!.id,
      kind: e.kind,
      note: e.note ?? "",
      key: e.requestKey,
      person: e.person ?? null,
      minutes: e.minutes ?? null,
      at: e.at ?? null,
      reverses: e.reverses ?? (e.reversesKey == null ? null : idOf.get(e.reversesKey)),
      run: e.run ?? null,
    }));
    const lines = part.flatMap((_, i) => moved[from + i]!.map((m) => ({ ...m, entry: ids[from + i]!.id })));
    await appendPart(db, rows, lines);
  }
}

async function appendPart(db: Session, entries: readonly object[], lines: readonly Moved[]): Promise<void> {
  await db.query(
    `insert into lots (component_id, name) select distinct x.component, x.lot
      from jsonb_to_recordset($1) as x(component uuid, lot text) order by 1, 2 on conflict do nothing`,
    [JSON.stringify(lines.map(({ component, lot }) => ({ component, lot })))],
  );
  await db.query(
    `insert into entries (id, kind, note, request_key, person_id, minutes, reverses,
      happened_at, run_id) overriding system value
     select x.id, x.kind, x.note, x.key, x.person, x.minutes, x.reverses, coalesce(x.at, now()), x.run
     from jsonb_to_recordset($1) as x(id bigint, kind text, note text, key uuid, person uuid, minutes numeric,
     reverses bigint, at timestamptz, run uuid) order by x.id`,
    [JSON.stringify(entries)],
  );
  await db.query(
    `insert into movements (entry_id, component_id, place_id, lot, stretch_mm, quantity, counted, u, variance_after,
       value, cost, entered, balance, order_line_id, need_id)
     select x.entry, x.component, x.place, x.lot, x."stretchMm", x.quantity, x.counted, x.u, x."varianceAfter", x.value,
     x.cost, x.entered, x.balance, x."orderLine", x.need
     from rows from (jsonb_to_recordset($1) as (entry bigint, component uuid, place uuid, lot text,
     "stretchMm" numeric, quantity numeric, counted numeric, u numeric, "varianceAfter" numeric,
       value numeric, cost numeric, entered text, balance numeric, "orderLine" uuid, need uuid)) with ordinality
       as x(entry, component, place, lot, "stretchMm", quantity, counted, u, "varianceAfter", value, cost, entered,
       balance, "orderLine", need, nr)
     order by x.nr`,
    [JSON.stringify(lines)],
  );
}

/** An entry of the ledger, and which one reversed it. */
export interface EntryRow {
  kind: Reason;
  reversedBy: string | null;
  /** The run that it happened for. */
  run: string | null;
}

export async function findEntry(db: Session, id: string): Promise<EntryRow | undefined> {
  const { rows } = await db.query<EntryRow>(
    `select e.kind, e.run_id as run, (select r.id::text from entries r where r.reverses = e.id) as "reversedBy"
     from entries e where e.id = $1`,
    [id],
  );
  return rows[0];
}

/** The entry that was written with a request key. */
export async function findEntryBy(db: Session, requestKey: string): Promise<string> {
  const { rows } = await db.query<{ id: string }>(`select id::text from entries where request_key = $1`, [requestKey]);
  return rows[0]!.id;
}

/** A movement as its reversal needs it. */
export interface UndoLine {
  component: string;
  place: string;
  lot: string;
  stretchMm: number;
  quantity: number;
  value: string;
  /** Variance of the spot's balance before it; null where it was the spot's first. */
  before: number | null;
  /** Nothing moved at the spot since. */
  last: boolean;
  /** The order line that it was a delivery of. */
  orderLine: string | null;
  /** The need of a run that it was used for. */
  need: string | null;
}

/** The movements of an entry, the last first. */
export async function linesOfEntry(db: Session, id: string): Promise<UndoLine[]> {
  const { rows } = await db.query<UndoLine>(
    `select m.component_id as component, m.place_id as place, m.lot, m.stretch_mm::float8 as "stretchMm",
       m.quantity::float8, m.value::text, m.order_line_id as "orderLine", m.need_id as need,
       (select p.variance_after::float8 from movements p
         where p.component_id = m.component_id and p.place_id = m.place_id
         and p.lot = m.lot and p.stretch_mm = m.stretch_mm and p.id < m.id order by p.id desc limit 1) as before,
       not exists (select from movements n where n.component_id = m.component_id and n.place_id = m.place_id
         and n.lot = m.lot and n.stretch_mm = m.stretch_mm and n.id > m.id) as last
     from movements m where m.entry_id = $1 order by m.id desc`,
    [id],
  );
  return rows;
}

const MOVEMENT = `m.id::text, e.id::text as entry, e.kind, to_char(e.happened_at at time zone 'utc',
  'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, w.name as person, e.note, p.code as place, m.lot,
  nullif(m.stretch_mm, 0)::float8 as "stretchMm", m.quantity::float8, m.counted::float8, m.u::float8,
  m.balance::float8, trim_scale(m.value)::text as value, m.entered,
  e.kind <> 'reversed' and m.need_id is null
    and not exists (select from entries r where r.reverses = e.id) as reversible`;

/** A component's movements, the newest first, older than one of them where that is named. */
export async function listMovements(
  db: Session,
  componentId: string,
  before: string | null,
  many: number,
): Promise<Movement[]> {
  const { rows } = await db.query<Movement>({
    name: "movements",
    text: `select ${MOVEMENT} from movements m join entries e on e.id = m.entry_id join places p on p.id = m.place_id
      left join people w on w.id = e.person_id
     where m.component_id = $1 and ($2::bigint is null or m.id < $2) order by m.id desc limit $3`,
    values: [componentId, before, many],
  });
  return rows;
}

export async function listBalances(db: Session, componentId: string): Promise<Balance[]> {
  const { rows } = await db.query<Balance>({
    name: "balances",
    text: `select b.place_id as place, p.code as "placeCode", p.held, b.lot, nullif(b.stretch_mm,
      0)::float8 as "stretchMm", b.quantity::float8, sqrt(b.variance)::float8 as u, j.tare_g::float8 as "tareG",
       case when l.mass_g is not null then json_build_object('g', l.mass_g, 'u', l.mass_u, 'sd', l.mass_sd, 'pieces',
       l.mass_pieces) end as "unitMass"
     from balances b join places p on p.id = b.place_id
     join lots l on l.component_id = b.component_id and l.name = b.lot
       left join jars j on j.component_id = b.component_id and j.place_id = b.place_id
     where b.component_id = $1 order by p.position, p.code, b.lot, b.stretch_mm desc`,
    values: [componentId],
  });
  return rows;
}

/** Remembers what weighing found: the empty jar, and a piece of the lot. */
export async function rememberWeighing(
  db: Session,
  at: { component: string; place: string; lot: string },
  tareG: number | null,
  piece: { g: number; u: number; sd: number | null; pieces: number } | null,
) {
  if (tareG !== null) {
    await db.query(
      `insert into jars (component_id, place_id, tare_g) values ($1, $2, $3)
        on conflict (component_id, place_id) do update set tare_g = excluded.tare_g`,
      [at.component, at.place, tareG],
    );
  }
  if (piece) {
    await db.query(
      "update lots set mass_g = $3, mass_u = $4, mass_sd = $5, mass_pieces = $6 where component_id = $1 and " +
        "name = $2",
      [at.component, at.lot, piece.g, piece.u, piece.sd, piece.pieces],
    );
  }
}

/**
 * The ledger whole, entry by entry, as it is written out. Entries of different components may have been written at the
 * same time, their movements by turns; of one component an entry is over before the next begins, since it is locked.
 */
export async function exportLedger(db: Session): Promise<LedgerLine[]> {
  const { rows } = await db.query<LedgerLine>(
    `select e.request_key as "requestKey", exact_time(e.happened_at) as at, e.kind, e.person_id as person, e.note,
       r.request_key as reverses, e.minutes::float8, m.component_id as component, m.place_id as place, m.lot,
       nullif(m.stretch_mm, 0)::float8 as "stretchMm",
       m.quantity::float8, m.counted::float8, m.u::float8, m.variance_after::float8 as "varianceAfter",
       trim_scale(m.value)::text as value, trim_scale(m.cost)::text as cost, m.entered, m.balance::float8,
       m.order_line_id as "orderLine", e.run_id as run, m.need_id as need
     from movements m join entries e on e.id = m.entry_id left join entries r on r.id = e.reverses order by e.id, m.id`,
  );
  return rows;
}

/** The books as the ledger gives them, for an archive to be held against: every spot, and every component in all. */
export async function exportBooks(db: Session): Promise<Pick<Archive, "balances" | "totals">> {
  const { rows: balances } = await db.query<Archive["balances"][number]>(
    `select component_id as component, place_id as place, lot, nullif(stretch_mm, 0)::float8 as "stretchMm",
       quantity::float8, variance::float8 from balances order by 1, 2, 3, stretch_mm`,
  );
  const { rows: totals } = await db.query<Archive["totals"][number]>(
    `select component_id as component, on_hand::float8 as "onHand", trim_scale(value)::text as value,
       trim_scale(last_cost)::text as "lastCost", variance::float8, held::float8, spoken_for::float8 as "spokenFor",
       on_the_way::float8 as "onTheWay" from component_totals
     where moved or spoken_for > 0 or on_the_way > 0 order by 1`,
  );
  return { balances, totals };
}

/** Rebuilds every balance and total from the ledger and lists those that differ: none, if the books are right. */
export async function balancesThatDiffer(
  db: Session,
): Promise<{ component: string; ledger: number; balance: number }[]> {
  const { rows } = await db.query(
    // A frozen bill is large: each is taken apart once, whatever the database thinks of how many there are.
    `with billed as materialized (
       select f.run_id, v ->> 'id' as variant, (v ->> 'boxes')::numeric as boxes
       from run_bills f, json_array_elements(f.body -> 'variants') v
       where f.no = (select max(no) from run_bills o where o.run_id = f.run_id)
     ), packed as materialized (
       select run_id, variant_id, count(*) as n from packed_boxes group by 1, 2
     ), needed as materialized (
       select n.id, coalesce(-sum(amount_of(m.quantity, m.stretch_mm))
           filter (where m.component_id = n.component_id), 0) / coalesce(n.cut_mm, 1) as used,
         coalesce(-sum(amount_of(m.quantity, m.stretch_mm))
           filter (where m.component_id <> n.component_id), 0) / coalesce(n.cut_mm, 1) as swapped
       from run_needs n left join movements m on m.need_id = n.id group by n.id
     )
     select coalesce(m.component_id, b.component_id) as component, coalesce(m.sum, 0)::float8 as ledger,
      coalesce(b.quantity, 0)::float8 as balance
     from (select component_id, place_id, lot, stretch_mm, sum(quantity) from movements group by 1, 2, 3, 4) m
     full join balances b using (component_id, place_id, lot, stretch_mm)
     where coalesce(m.sum, 0) <> coalesce(b.quantity, 0)
     union all
     select t.component_id, x.ledger::float8, x.total::float8
     from component_totals t
       left join (select component_id, sum(amount_of(quantity, stretch_mm)), sum(value) as value from movements
         group by 1) s on s.component_id = t.component_id
       left join (select component_id, sum(quantity * coalesce(cut_mm, 1)) from reservations where released_at is null
         and order_line_id is null group by 1) r on r.component_id = t.component_id
       left join (select component_id, sum(greatest(quantity - received, 0)) from order_lines group by 1) o
         on o.component_id = t.component_id
       left join (select b.component_id, sum(amount_of(b.quantity, b.stretch_mm)) from balances b
         join places p on p.id = b.place_id where p.held group by 1) h on h.component_id = t.component_id,
       lateral (values (s.sum, t.on_hand), (s.value, t.value), (r.sum, t.spoken_for), (o.sum, t.on_the_way),
         (h.sum, t.held)) as x(ledger, total)
     where coalesce(x.ledger, 0) <> x.total
     union all
     select l.component_id, (l.received_before + coalesce(s.sum, 0))::float8, l.received::float8 from order_lines l
       left join (select order_line_id, sum(amount_of(quantity, stretch_mm)) from movements
         where order_line_id is not null group by 1) s on s.order_line_id = l.id
     where l.received_before + coalesce(s.sum, 0) <> l.received
     union all
     select l.component_id, coalesce(s.sum, 0)::float8, l.spoken_for::float8 from order_lines l
       left join (select order_line_id, sum(quantity * coalesce(cut_mm, 1)) from reservations
         where order_line_id is not null and released_at is null group by 1) s on s.order_line_id = l.id
     where coalesce(s.sum, 0) <> l.spoken_for
     union all
     -- No need is covered twice.
     select n.component_id, n.quantity::float8, (s.sum + n.used + n.swapped)::float8 from run_needs n
       join (select need_id, sum(quantity) from reservations where need_id is not null and released_at is null
         group by 1) s on s.need_id = n.id
     where s.sum + n.used + n.swapped > n.quantity
     union all
     -- What is used of a need is what the movements say that name it.
     select n.component_id, (x.used + x.swapped)::float8, (n.used + n.swapped)::float8
     from run_needs n join needed x using (id) where x.used <> n.used or x.swapped <> n.swapped
     union all
     -- Packed boxes have used what the bill says: the run's × packed ÷ boxes, rounded up; and no other box has.
     select n.component_id, x.due::float8, (n.used + n.swapped)::float8
     from run_needs n join components c on c.id = n.component_id
       left join billed b on b.run_id = n.run_id and b.variant = n.variant_id::text
       left join packed p on p.run_id = n.run_id and p.variant_id = n.variant_id,
       lateral (select case when n.cut_mm is null and c.base_unit <> 'piece' then 1000 else 1 end as steps) s,
       lateral (select coalesce(ceil(n.quantity * s.steps * p.n / nullif(b.boxes, 0)) / s.steps, 0) as due) x
     where n.used > x.due or n.used < greatest(0, x.due - n.swapped)`,
  );
  return rows;
}

/** How much there is in the books. */
export async function sizesOfBooks(db: Session): Promise<{ movements: number; components: number }> {
  const { rows } = await db.query<{ movements: number; components: number }>(
    "select (select count(*)::int from movements) as movements, (select count(*)::int from components) as components",
  );
  return rows[0]!;
}
