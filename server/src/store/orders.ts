import type { Order, OrderInput } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

const SELECT = `select o.id, o.supplier_id as supplier, o.number, to_char(o.placed_on, 'YYYY-MM-DD') as "placedOn",
  o.currency, trim_scale(o.rate)::text as rate, o.note, o.version,
    json_agg(json_build_object('id', l.id, 'component', l.component_id, 'pack', l.pack, 'packs', l.packs, 'quantity',
    l.quantity,
      'price', round(l.price, greatest(2, scale(trim_scale(l.price))))::text, 'due', to_char(l.due, 'YYYY-MM-DD'),
      'pieceMm', l.piece_mm::float8)
      order by l.position) as lines,
    json_object_agg(l.id, l.received order by l.position) as received,
    (select coalesce(json_agg(json_build_object('line', x.line, 'box', x.box, 'quantity', x.quantity::float8)
       order by x.line, x.box), '[]') from (
       select r.order_line_id as line, u.box_id as box, sum(r.quantity * coalesce(r.cut_mm, 1)) as quantity
       from reservations r join order_lines x on x.id = r.order_line_id join run_needs n on n.id = r.need_id
         join runs u on u.id = n.run_id where x.order_id = o.id and r.released_at is null group by 1, 2) x) as spoken
  from orders o join order_lines l on l.order_id = o.id`;

export async function listOrders(db: Session): Promise<Order[]> {
  const { rows } = await db.query<Order>(`${SELECT} group by o.id order by o.placed_on desc, o.number, o.id`);
  return rows;
}

export async function findOrder(db: Session, id: string): Promise<Order | undefined> {
  const { rows } = await db.query<Order>(`${SELECT} where o.id = $1 group by o.id`, [id]);
  return rows[0];
}

export async function lockOrder(db: Session, id: string): Promise<number | undefined> {
  const { rows } = await db.query<{ version: number }>(`select version from orders where id = $1 for update`, [id]);
  return rows[0]?.version;
}

/**
 * Writes an order whole; what was received of a line stays with it.
 * @param before what was received of new lines before the ledger named them, by their ids
 */
export async function putOrder(
  db: Session,
  id: string,
  order: OrderInput,
  before: Record<string, number> = {},
): Promise<void> {
  await db.query(
    `insert into orders (id, supplier_id, number, placed_on, currency, rate, note) values ($1, $2, $3, $4, $5, $6, $7)
     on conflict (id) do update set supplier_id = $2, number = $3, placed_on = $4, currency = $5, rate = $6,
     note = $7, version = orders.version + 1`,
    [id, order.supplier, order.number, order.placedOn, order.currency, order.rate, order.note],
  );
  await db.query(`delete from order_lines where order_id = $1 and id <> all($2)`, [id, order.lines.map((l) => l.id)]);
  const { rowCount } = await db.query(
    `insert into order_lines as t (id, order_id, position, component_id, pack, packs, quantity, price, due, piece_mm,
       received_before)
     select x.id, $1, x.position, x.component, x.pack, x.packs, x.quantity, x.price, x.due, x."pieceMm", x.before
     from jsonb_to_recordset($2) as x(id uuid, position int, component uuid, pack text, packs int, quantity numeric,
     price numeric, due date, "pieceMm" numeric, before numeric)
     on conflict (id) do update set position = excluded.position, component_id = excluded.component_id,
     pack = excluded.pack, packs = excluded.packs,
       quantity = excluded.quantity, price = excluded.price, due = excluded.due,
       piece_mm = excluded.piece_mm where t.order_id = $1`,
    [id, JSON.stringify(order.lines.map((line, position) => ({ ...line, position, before: before[line.id] ?? 0 })))],
  );
  if (rowCount !== order.lines.length)
    throw Object.assign(new Error("a line's id belongs to another order"), { code: "23505" });
}

/** Whether anything came of a line at any time, even if it was taken back. */
export async function wasDelivered(db: Session, line: string): Promise<boolean> {
  const { rows } = await db.query<{ was: boolean }>(
    `select received_before > 0 or exists (select from movements m where m.order_line_id = l.id) as was
     from order_lines l where id = $1`,
    [line],
  );
  return rows[0]?.was ?? false;
}

/** Locks the orders of some lines for the rest of the transaction: before the totals of what they order. */
export async function lockOrdersOf(db: Session, lines: readonly string[]): Promise<void> {
  await db.query(
    `select from orders where id in (select order_id from order_lines where id = any($1)) order by id for update`,
    [lines],
  );
}

/** Orders count what happened to them: a delivery, or one taken back. */
export async function touchOrders(db: Session, lines: readonly string[]): Promise<void> {
  await db.query(
    `update orders set version = version + 1 where id in (select order_id from order_lines where id = any($1))`,
    [lines],
  );
}

export async function dueOf(
  db: Session,
  component: string,
): Promise<{ order: string; number: string; supplier: string; due: string | null; quantity: number }[]> {
  const { rows } = await db.query({
    name: "due",
    text: `select o.id as "order", o.number, s.name as supplier, to_char(l.due, 'YYYY-MM-DD') as due,
      (l.quantity - l.received)::float8 as quantity
     from order_lines l join orders o on o.id = l.order_id join suppliers s on s.id = o.supplier_id
     where l.component_id = $1 and l.received < l.quantity order by l.due nulls last, o.number`,
    values: [component],
  });
  return rows;
}

/** What boxes speak for on an order's lines, in the base unit; lines of which nothing is are left out. */
export async function spokenOnLines(db: Session, order: string): Promise<Map<string, number>> {
  const { rows } = await db.query<{ id: string; spoken: number }>(
    `select id, spoken_for::float8 as spoken from order_lines where order_id = $1 and spoken_for > 0`,
    [order],
  );
  return new Map(rows.map((r) => [r.id, r.spoken]));
}

/** Locks the orders that some of these components are still to come by, for the rest of the transaction. */
export async function lockOrdersFor(db: Session, components: readonly string[]): Promise<void> {
  await db.query(
    `select from orders where id in (select order_id from order_lines where component_id = any($1)
      and received < quantity) order by id for update`,
    [components],
  );
}
