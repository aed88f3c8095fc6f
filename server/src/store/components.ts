import type { Component, ComponentInput, Movement, StockEntry } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

const COLUMNS = `c.id, c.code, c.name, c.kind, c.shape, c.colour, c.finish, c.base_unit as "baseUnit",
  c.along_mm::float8 as "alongMm", c.across_mm::float8 as "acrossMm", c.hole_mm::float8 as "holeMm",
  c.link_mm::float8 as "linkMm", c.per_gram::float8 as "perGram", c.version,
  (select json_build_object('pack', o.pack, 'quantity', o.quantity, 'price', round(o.price, greatest(2, scale(trim_scale(o.price))))::text)
     from offers o where o.component_id = c.id limit 1) as offer,
  coalesce((select sum(b.quantity) from balances b where b.component_id = c.id), 0)::float8 as "onHand",
  exists (select from movements m where m.component_id = c.id) as moved`;

export async function listComponents(db: Session): Promise<Component[]> {
  const { rows } = await db.query<Component>(`select ${COLUMNS} from components c order by c.kind, c.name, c.code`);
  return rows;
}

export async function findComponents(db: Session, ids: string[]): Promise<Component[]> {
  const { rows } = await db.query<Component>(`select ${COLUMNS} from components c where c.id = any($1)`, [ids]);
  return rows;
}

/** Locks the component's row for the rest of the transaction and answers its version and base unit. */
export async function lockComponent(db: Session, id: string) {
  const { rows } = await db.query<{ version: number; baseUnit: string }>(
    `select version, base_unit as "baseUnit" from components where id = $1 for update`,
    [id],
  );
  return rows[0];
}

export async function putComponent(db: Session, id: string, c: ComponentInput): Promise<void> {
  await db.query(
    `insert into components (id, code, name, kind, shape, colour, finish, base_unit, along_mm, across_mm, hole_mm, link_mm, per_gram)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)
     on conflict (id) do update set code = $2, name = $3, kind = $4, shape = $5, colour = $6, finish = $7, base_unit = $8,
       along_mm = $9, across_mm = $10, hole_mm = $11, link_mm = $12, per_gram = $13, version = components.version + 1`,
    [id, c.code, c.name, c.kind, c.shape, c.colour, c.finish, c.baseUnit, c.alongMm, c.acrossMm, c.holeMm, c.linkMm, c.perGram],
  );
  await db.query(`delete from offers where component_id = $1`, [id]);
  if (c.offer) {
    await db.query(`insert into offers (component_id, pack, quantity, price) values ($1, $2, $3, $4)`, [
      id, c.offer.pack, c.offer.quantity, c.offer.price,
    ]);
  }
}

/** Appends one entry to the ledger and keeps the balance beside it. The component's row must be locked. */
export async function moveStock(db: Session, componentId: string, entry: Required<StockEntry>, at?: string): Promise<number> {
  const { rows } = await db.query<{ quantity: string; place: string }>(
    `select coalesce(b.quantity, 0) as quantity, p.id as place
     from places p left join balances b on b.place_id = p.id and b.component_id = $1 where p.code = 'SHELF'`,
    [componentId],
  );
  const { place, quantity: before } = rows[0]!;
  const { rows: written } = await db.query<{ balance: number }>(
    `with e as (insert into entries (kind, note, request_key, happened_at) values ($1, $2, $3, coalesce($8::timestamptz, now())) returning id),
          -- received: so much more; counted: the balance becomes what was counted
          after as (select case when $1 = 'counted' then $6::numeric else $5::numeric + $6::numeric end as balance),
          b as (insert into balances (component_id, place_id, quantity) select $4, $7, balance from after
                on conflict (component_id, place_id) do update set quantity = excluded.quantity)
     insert into movements (entry_id, component_id, place_id, quantity, counted, balance)
     select e.id, $4, $7, after.balance - $5::numeric, case when $1 = 'counted' then $6::numeric end, after.balance from e, after
     returning balance::float8`,
    [entry.kind, entry.note, entry.requestKey, componentId, before, entry.quantity, place, at],
  );
  return written[0]!.balance;
}

export async function listMovements(db: Session, componentId: string): Promise<Movement[]> {
  const { rows } = await db.query<Movement>(
    `select m.id::text, e.kind, m.quantity::float8, m.balance::float8, e.note,
            to_char(e.happened_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at
     from movements m join entries e on e.id = m.entry_id where m.component_id = $1 order by m.id desc limit 200`,
    [componentId],
  );
  return rows;
}

/** Rebuilds every balance from the ledger and lists those that differ: none, if the books are right. */
export async function balancesThatDiffer(db: Session): Promise<{ component: string; ledger: number; balance: number }[]> {
  const { rows } = await db.query(
    `select coalesce(m.component_id, b.component_id) as component, coalesce(m.sum, 0)::float8 as ledger, coalesce(b.quantity, 0)::float8 as balance
     from (select component_id, place_id, sum(quantity) from movements group by 1, 2) m
     full join balances b on b.component_id = m.component_id and b.place_id = m.place_id
     where coalesce(m.sum, 0) <> coalesce(b.quantity, 0)`,
  );
  return rows;
}
