import type { Sale, SoldMonth } from "@jar-count/core/contract";
import type { SoldBox } from "@jar-count/core/intake";
import type { Session } from "./database.ts";
import { PACK_BY } from "./runs.ts";

/** Every line that was sold, or came back, in a fixed order. */
export async function listSales(db: Session): Promise<Sale[]> {
  const { rows } = await db.query<Sale>(
    `select source, order_no as "order", line_no as line, kind, to_char(day, 'YYYY-MM-DD') as day,
       to_char(month, 'YYYY-MM') as month, theme, colourway, second, quantity,
       round(paid, greatest(2, scale(trim_scale(paid))))::text as paid, offered, box_id as box, variant_id as variant
     from sales order by day, source, order_no, line_no`,
  );
  return rows;
}

/** What a table of sales is held against: every line that is here, and the boxes by the names of their choices. */
export async function knownSales(db: Session): Promise<{ sales: Sale[]; boxes: SoldBox[] }> {
  const { rows } = await db.query<SoldBox>(
    `select b.id, to_char(b.month, 'YYYY-MM') as month, b.theme,
       (select coalesce(json_agg(json_build_object('id', v.id, 'first', c1.name, 'second', coalesce(c2.name, ''))
          order by v.position), '[]') from box_variants v join box_choices c1 on c1.id = v.first
          left join box_choices c2 on c2.id = v.second where v.box_id = b.id) as variants
     from boxes b order by b.month, b.id`,
  );
  return { sales: await listSales(db), boxes: rows };
}

/** Adds lines, or changes those that are there. */
export async function putSales(db: Session, sales: readonly Sale[]): Promise<void> {
  await db.query(
    `insert into sales (source, order_no, line_no, kind, day, month, theme, colourway, second, quantity, paid, offered,
       box_id, variant_id)
     select x.source, x."order", x.line, x.kind, x.day, (x.month || '-01')::date, x.theme, x.colourway, x.second,
       x.quantity, x.paid, x.offered, x.box, x.variant
     from jsonb_to_recordset($1) as x(source text, "order" text, line text, kind text, day date, month text, theme text,
       colourway text, second text, quantity int, paid numeric, offered int, box uuid, variant uuid)
     on conflict (source, order_no, line_no) do update set kind = excluded.kind, day = excluded.day,
       month = excluded.month, theme = excluded.theme, colourway = excluded.colourway, second = excluded.second,
       quantity = excluded.quantity, paid = excluded.paid, offered = excluded.offered, box_id = excluded.box_id,
       variant_id = excluded.variant_id, taken_at = now()`,
    [JSON.stringify(sales)],
  );
}

/**
 * What was sold of each box, the oldest month first: by the box here where there is one, else by month and theme. Sold
 * out is what sold as many as there were to sell.
 */
export async function listSoldMonths(db: Session): Promise<SoldMonth[]> {
  const { rows } = await db.query<SoldMonth>(
    `with lines as (
       select s.*, case kind when 'sale' then quantity else -quantity end as n, coalesce(b.month, s.month) as of_month,
         coalesce(b.theme, s.theme) as of_theme, coalesce(s.box_id::text, s.month || lower(s.theme)) as key,
         coalesce(c1.name, s.colourway) as first_name, coalesce(c2.name, s.second) as second_name
       from sales s left join boxes b on b.id = s.box_id left join box_variants v on v.id = s.variant_id
         left join box_choices c1 on c1.id = v.first left join box_choices c2 on c2.id = v.second
     ), parts as (
       select key, json_agg(json_build_object('colourway', first_name, 'second', second_name, 'sold', sold)
         order by first_name, second_name) as colourways
       from (select key, first_name, second_name, sum(n)::int as sold from lines group by 1, 2, 3) x group by key
     ), whole as (
       select key, min(of_month) as of_month, min(of_theme) as theme, min(box_id::text)::uuid as box,
         sum(n)::int as sold,
         coalesce(sum(quantity) filter (where kind = 'return'), 0)::int as returned,
         coalesce(sum(n) filter (where day < of_month), 0)::int as presold,
         coalesce(sum(quantity) filter (where kind = 'sale'), 0)::int as gone, max(offered) as offered,
         sum(case kind when 'sale' then paid else -paid end) as paid
       from lines group by key
     ), made as (
       select w.*, coalesce(w.offered, (select case when u.state <> 'planned' then u.boxes end from runs u
         where u.box_id = w.box)) as there
       from whole w
     )
     select to_char(of_month, 'YYYY-MM') as month, theme, box, sold, returned, presold, there as made,
       coalesce(gone >= there and there > 0, false) as "soldOut",
       exists (select from runs u where u.box_id = made.box and u.state <> 'sent') as open,
       round(greatest(paid, 0), greatest(2, scale(trim_scale(paid))))::text as paid, parts.colourways
     from made join parts using (key) order by of_month, theme`,
  );
  return rows;
}

/** When sales were taken in last; null where none were. */
export async function lastTakenIn(db: Session): Promise<string | null> {
  const { rows } = await db.query<{ at: string | null }>(`select exact_time(max(taken_at)) as at from sales`);
  return rows[0]!.at;
}

/** Lines that name a box: by variant (none: not known which), how many, and the first of their orders. */
export async function soldOf(
  db: Session,
  box: string,
): Promise<{ variant: string | null; many: number; orders: string[] }[]> {
  const { rows } = await db.query<{ variant: string | null; many: number; orders: string[] }>(
    `select variant_id as variant, count(*)::int as many,
       (array_agg(order_no order by day, order_no))[1:4] as orders
     from sales where box_id = $1 group by 1 order by 2 desc, 1`,
    [box],
  );
  return rows;
}

/** How many of a box were sold, less what came back: by variant, under none where nobody knows which. */
export async function soldByVariant(db: Session, box: string): Promise<Map<string | null, number>> {
  const { rows } = await db.query<{ variant: string | null; sold: number }>(
    `select variant_id as variant, sum(case kind when 'sale' then quantity else -quantity end)::int as sold
     from sales where box_id = $1 group by 1`,
    [box],
  );
  return new Map(rows.map((r) => [r.variant, r.sold]));
}

/** Boxes as they are put on sale: those that have a price, with as many as there are of each variant. */
export async function listOnSale(db: Session) {
  const { rows } = await db.query<{
    month: string;
    theme: string;
    packBy: string;
    price: string;
    colourways: { name: string; second: string; boxes: number }[];
  }>(
    `select to_char(b.month, 'YYYY-MM') as month, b.theme,
       ${PACK_BY} as "packBy",
       (select p.single::text from box_prices p where p.box_id = b.id order by p.position limit 1) as price,
       (select coalesce(json_agg(json_build_object('name', c1.name, 'second', coalesce(c2.name, ''), 'boxes', v.boxes)
          order by v.position), '[]') from box_variants v join box_choices c1 on c1.id = v.first
          left join box_choices c2 on c2.id = v.second where v.box_id = b.id) as colourways
     from boxes b join runs u on u.box_id = b.id
     where exists (select from box_prices p where p.box_id = b.id) order by b.month, b.id`,
  );
  return rows;
}

/** The last day that anything moved or was sold; empty where nothing did. */
export async function lastDay(db: Session): Promise<string> {
  const { rows } = await db.query<{ day: string }>(
    `select coalesce(to_char(greatest((select max(happened_at)::date from entries), (select max(day) from sales)),
       'YYYY-MM-DD'), '') as day`,
  );
  return rows[0]!.day;
}
