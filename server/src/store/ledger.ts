import type { Balance, LedgerLine, Movement, Reason } from "@jar-count/core/contract";
import { type Held, type Move, type Moved, post, spotKey, type Total } from "@jar-count/core/stock";
import type pg from "pg";
import { Refusal } from "../refusal.ts";
import type { Session } from "./database.ts";

export interface NewEntry {
  kind: Reason;
  requestKey: string;
  person?: string | null | undefined;
  note?: string | undefined;
  minutes?: number | null | undefined;
  reverses?: string | undefined;
  reversesKey?: string | null | undefined;
}

const REPLACEMENT = `(select (o.price / o.amount)::numeric(20, 8)::text from offers o
  where o.component_id = c.id and o.unit = c.base_unit order by o.position limit 1)`;

/**
 * Locks components' totals for the rest of the transaction, always in the same order, and answers what the book
 * holds.
 */
export async function openBook(
  db: Session,
  components: readonly string[],
): Promise<{ held: Map<string, Held>; totals: Map<string, Total> }> {
  const ids = [...new Set(components)].sort();
  await db.query(`select from component_totals where component_id = any($1) order by component_id for update`, [ids]);
  const { rows: totals } = await db.query<Total>(
    `select c.id as component, c.name, c.base_unit as "baseUnit", t.on_hand::float8 as "onHand", t.value::text,
      t.last_cost::text as "lastCost", ${REPLACEMENT} as replacement
     from components c join component_totals t on t.component_id = c.id where c.id = any($1)`,
    [ids],
  );
  const { rows: held } = await db.query<Held>(
    `select component_id as component, place_id as place, lot, stretch_mm::float8 as "stretchMm", quantity::float8,
      u2::float8 from balances where component_id = any($1)`,
    [ids],
  );
  return { held: new Map(held.map((h) => [spotKey(h), h])), totals: new Map(totals.map((t) => [t.component, t])) };
}

/**
 * Appends one entry to the ledger and brings balances and totals along, in the transaction at hand.
 * @throws Refusal 422 with a pointer for each move that would take what is not there
 */
export const postEntry = (db: Session, entry: NewEntry, moves: readonly Move[], pointer: (move: number) => string) =>
  postEntries(db, [{ ...entry, moves }], pointer);

type EntryWithMoves = NewEntry & { moves: readonly Move[]; at?: string };

/** Appends entries in their order, as {@link postEntry} does one; `reversesKey` names an entry by its request key. */
async function postEntries(
  db: Session,
  entries: readonly EntryWithMoves[],
  pointer: (move: number) => string,
): Promise<Moved[]> {
  const moves = entries.flatMap((e) => e.moves);
  const { held, totals } = await openBook(
    db,
    moves.map((m) => m.component),
  );
  const posted = entries.map((e) => post(held, totals, e.moves));
  const faults = posted.flatMap((p) => p.faults);
  if (faults.length > 0) {
    throw new Refusal(422, "Not in the jar", faults[0]!.message, {
      errors: faults.slice(0, 100).map((f) => ({ pointer: pointer(f.move), detail: f.message })),
      current: { holds: faults[0]!.holds },
    });
  }
  const moved = posted.flatMap((p) => p.moved);
  await write(
    db,
    entries,
    posted.map((p) => p.moved),
  );
  const spots = [...new Map(moved.map((m) => [spotKey(m), held.get(spotKey(m))!])).values()];
  await db.query(
    `insert into balances (component_id, place_id, lot, stretch_mm, quantity, u2)
     select x.component, x.place, x.lot, x."stretchMm", x.quantity, x.u2
     from jsonb_to_recordset($1) as x(component uuid, place uuid, lot text, "stretchMm" numeric, quantity numeric,
     u2 numeric)
     on conflict (component_id, place_id, lot, stretch_mm) do update
     set quantity = excluded.quantity, u2 = excluded.u2`,
    [JSON.stringify(spots)],
  );
  // A piece of a length that is used up leaves nothing to remember; an emptied jar stays, with its doubt.
  await db.query(`delete from balances where component_id = any($1) and stretch_mm > 0 and quantity = 0`, [
    [...totals.keys()],
  ]);
  await db.query(
    `update component_totals t set on_hand = x."onHand", value = x.value, last_cost = x."lastCost", moved = true,
       u2 = (select coalesce(sum(b.u2 * case when b.stretch_mm > 0 then b.stretch_mm else 1 end ^ 2), 0)
       from balances b where b.component_id = t.component_id),
       held = ${HELD}
     from jsonb_to_recordset($1) as x(component uuid, "onHand" numeric, value numeric, "lastCost" numeric)
     where t.component_id = x.component`,
    [JSON.stringify([...totals.values()])],
  );
  return moved;
}

const HELD = `(select coalesce(sum(b.quantity * case when b.stretch_mm > 0 then b.stretch_mm else 1 end), 0)
  from balances b join places p on p.id = b.place_id where b.component_id = t.component_id and p.held)`;

async function write(db: Session, entries: readonly EntryWithMoves[], moved: readonly (readonly Moved[])[]) {
  await db.query(
    `insert into lots (component_id, name) select distinct x.component, x.lot
      from jsonb_to_recordset($1) as x(component uuid, lot text) on conflict do nothing`,
    [JSON.stringify(moved.flat().map(({ component, lot }) => ({ component, lot })))],
  );
  const { rows: ids } = await db.query<{ id: string }>(
    `select nextval(pg_get_serial_sequence('entries', 'id'))::text as id from generate_series(1, $1)`,
    [entries.length],
  );
  const idOf = new Map(entries.map((e, i) => [e.requestKey, ids[i]!.id]));
  await db.query(
    `insert into entries (id, kind, note, request_key, person_id, minutes, reverses,
      happened_at) overriding system value
     select x.id, x.kind, x.note, x.key, x.person, x.minutes, x.reverses, coalesce(x.at, now())
     from jsonb_to_recordset($1) as x(id bigint, kind text, note text, key uuid, person uuid, minutes numeric,
     reverses bigint, at timestamptz) order by x.id`,
    [
      JSON.stringify(
        entries.map((e, i) => ({
          id: ids[i]!.id,
          kind: e.kind,
          note: e.note ?? "",
          key: e.requestKey,
          person: e.person ?? null,
          minutes: e.minutes ?? null,
          at: e.at ?? null,
          reverses: e.reverses ?? (e.reversesKey == null ? null : idOf.get(e.reversesKey)),
        })),
      ),
    ],
  );
  await db.query(
    `insert into movements (entry_id, component_id, place_id, lot, stretch_mm, quantity, counted, u, u2_after, value,
      cost, entered, balance)
     select x.entry, x.component, x.place, x.lot, x."stretchMm", x.quantity, x.counted, x.u, x."u2After", x.value,
     x.cost, x.entered, x.balance
     from rows from (jsonb_to_recordset($1) as (entry bigint, component uuid, place uuid, lot text,
     "stretchMm" numeric, quantity numeric, counted numeric, u numeric, "u2After" numeric,
       value numeric, cost numeric, entered text, balance numeric)) with ordinality
       as x(entry, component, place, lot, "stretchMm", quantity, counted, u, "u2After", value, cost, entered, balance,
       nr)
     order by x.nr`,
    [JSON.stringify(moved.flatMap((of, i) => of.map((m) => ({ ...m, entry: ids[i]!.id }))))],
  );
}

interface EntryRow {
  id: string;
  kind: Reason;
  requestKey: string;
  reversedBy: string | null;
}

/**
 * Undoes an entry by another one that moves everything back, with its value and its doubt.
 * @throws Refusal when it was reversed before, is a reversal itself, or what it brought is not there any more
 */
export async function reverseEntry(
  db: pg.PoolClient,
  id: string,
  by: Omit<NewEntry, "kind" | "reverses">,
): Promise<string[]> {
  const { rows } = await db.query<EntryRow>(
    `select e.id::text, e.kind, e.request_key as "requestKey", (select r.id::text from entries r
      where r.reverses = e.id) as "reversedBy" from entries e where e.id = $1`,
    [id],
  );
  const entry = rows[0];
  if (!entry) throw new Refusal(404, "Not found", "This entry is not in the ledger.");
  if (entry.kind === "reversed")
    throw new Refusal(
      422,
      "A reversal",
      "This undoes another entry. Write down anew what happened instead of undoing it.",
    );
  if (entry.reversedBy)
    throw new Refusal(409, "Reversed before", "This entry was reversed already. Look at the ledger again.");
  const { rows: lines } = await db.query<{
    component: string;
    place: string;
    lot: string;
    stretchMm: number;
    quantity: number;
    value: string;
    before: number | null;
    last: boolean;
    u2: number;
  }>(
    `select m.component_id as component, m.place_id as place, m.lot, m.stretch_mm::float8 as "stretchMm",
      m.quantity::float8, m.value::text, m.u2_after::float8 as u2,
       (select p.u2_after::float8 from movements p where p.component_id = m.component_id and p.place_id = m.place_id
       and p.lot = m.lot and p.stretch_mm = m.stretch_mm and p.id < m.id
          order by p.id desc limit 1) as before,
       not exists (select from movements n where n.component_id = m.component_id and n.place_id = m.place_id
       and n.lot = m.lot and n.stretch_mm = m.stretch_mm and n.id > m.id) as last
     from movements m where m.entry_id = $1 order by m.id desc`,
    [id],
  );
  const moves = lines.map((l): Move => ({
    component: l.component,
    place: l.place,
    lot: l.lot,
    stretchMm: l.stretchMm,
    quantity: -l.quantity || 0,
    value: l.value.startsWith("-") ? l.value.slice(1) : /^0(\.0*)?$/.test(l.value) ? "0" : `-${l.value}`,
    // How sure the book was before it, unless something moved since: then the doubt of both stays.
    ...(l.last ? { u2After: l.before ?? 0 } : {}),
  }));
  await postEntry(db, { ...by, kind: "reversed", reverses: id }, moves, () => "");
  return [...new Set(lines.map((l) => l.component))];
}

const MOVEMENT = `m.id::text, e.id::text as entry, e.kind, to_char(e.happened_at at time zone 'utc',
  'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, w.name as person, e.note, p.code as place, m.lot,
  nullif(m.stretch_mm, 0)::float8 as "stretchMm", m.quantity::float8, m.counted::float8, m.u::float8,
  m.balance::float8, m.value::text, m.entered,
  e.kind <> 'reversed' and not exists (select from entries r where r.reverses = e.id) as reversible`;

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
      0)::float8 as "stretchMm", b.quantity::float8, sqrt(b.u2)::float8 as u, j.tare_g::float8 as "tareG",
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

/** Remembers what weighing told: the empty jar, and a piece of the lot. */
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
      `update lots set mass_g = $3, mass_u = $4, mass_sd = $5, mass_pieces = $6 where component_id = $1 and name = $2`,
      [at.component, at.lot, piece.g, piece.u, piece.sd, piece.pieces],
    );
  }
}

/** The ledger whole, in its order, as it is written out. */
export async function exportLedger(db: Session): Promise<LedgerLine[]> {
  const { rows } = await db.query<LedgerLine>(
    `select e.request_key as "requestKey", to_char(e.happened_at at time zone 'utc',
      'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, e.kind, e.person_id as person, e.note,
       r.request_key as reverses, e.minutes::float8, m.component_id as component, m.place_id as place, m.lot,
       nullif(m.stretch_mm, 0)::float8 as "stretchMm",
       m.quantity::float8, m.counted::float8, m.u::float8, m.u2_after::float8 as "u2After",
       trim_scale(m.value)::text as value, trim_scale(m.cost)::text as cost, m.entered
     from movements m join entries e on e.id = m.entry_id left join entries r on r.id = e.reverses order by m.id`,
  );
  return rows;
}

/** Writes a ledger again, entry by entry as it was posted: the balances follow from it. */
export async function importLedger(db: Session, lines: readonly LedgerLine[]): Promise<void> {
  const entries: (EntryWithMoves & { moves: Move[] })[] = [];
  for (const l of lines) {
    const spot = {
      component: l.component,
      place: l.place,
      lot: l.lot,
      stretchMm: l.stretchMm ?? 0,
      entered: l.entered,
    };
    const move: Move =
      l.counted == null
        ? { ...spot, quantity: l.quantity, u: l.u, u2After: l.u2After, value: l.value, cost: l.cost ?? null }
        : { ...spot, counted: l.counted, u: l.u };
    const last = entries.at(-1);
    if (last?.requestKey === l.requestKey) last.moves.push(move);
    else
      entries.push({
        kind: l.kind,
        requestKey: l.requestKey,
        person: l.person,
        note: l.note,
        minutes: l.minutes,
        reversesKey: l.reverses,
        at: l.at,
        moves: [move],
      });
  }
  if (entries.length > 0) await postEntries(db, entries, () => "/ledger.csv");
}

/** Rebuilds every balance and total from the ledger and lists those that differ: none, if the books are right. */
export async function balancesThatDiffer(
  db: Session,
): Promise<{ component: string; ledger: number; balance: number }[]> {
  const { rows } = await db.query(
    `select coalesce(m.component_id, b.component_id) as component, coalesce(m.sum, 0)::float8 as ledger,
      coalesce(b.quantity, 0)::float8 as balance
     from (select component_id, place_id, lot, stretch_mm, sum(quantity) from movements group by 1, 2, 3, 4) m
     full join balances b using (component_id, place_id, lot, stretch_mm)
     where coalesce(m.sum, 0) <> coalesce(b.quantity, 0)
     union all
     select t.component_id, coalesce(s.sum, 0)::float8, t.on_hand::float8 from component_totals t
       left join (select component_id, sum(quantity * case when stretch_mm > 0 then stretch_mm
       else 1 end), sum(value) as value from movements group by 1) s on s.component_id = t.component_id
     where coalesce(s.sum, 0) <> t.on_hand or abs(coalesce(s.value, 0) - t.value) > 0.00001`,
  );
  return rows;
}

/** What is set aside and on order of some components, counted anew into their totals. */
export async function refreshPromises(db: Session, components: readonly string[]): Promise<void> {
  await db.query(
    `update component_totals t set
       spoken_for = (select coalesce(sum(r.quantity * coalesce(r.cut_mm, 1)), 0) from reservations r
       where r.component_id = t.component_id and r.released_at is null),
       on_the_way = (select coalesce(sum(greatest(l.quantity - l.received, 0)), 0) from order_lines l
       where l.component_id = t.component_id),
       held = ${HELD}
     where t.component_id = any($1)`,
    [[...new Set(components)]],
  );
}
