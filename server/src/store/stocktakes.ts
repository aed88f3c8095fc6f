import type { Archive, ShelfJar, Stocktake, StocktakeLine } from "@jar-count/core/contract";
import type { z } from "zod";
import type { Session } from "./database.ts";

const SELECT = `select s.id, s.version, to_char(s.started_at at time zone 'utc',
  'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "startedAt",
    (select coalesce(json_agg(json_build_object('component', l.component_id, 'place', l.place_id, 'lot', l.lot,
    'stretchMm', nullif(l.stretch_mm, 0), 'how', l.how, 'counted', l.counted,
       'u', l.u, 'entered', l.entered, 'book', l.book, 'bookU', round(sqrt(l.book_variance), 3), 'posted', l.posted)
       order by l.counted_at, l.component_id), '[]')
     from stocktake_lines l where l.stocktake_id = s.id) as lines
  from stocktakes s`;

export async function listStocktakes(db: Session): Promise<Stocktake[]> {
  const { rows } = await db.query<Stocktake>(`${SELECT} order by s.started_at desc limit 50`);
  return rows;
}

export async function findStocktake(db: Session, id: string): Promise<Stocktake | undefined> {
  const { rows } = await db.query<Stocktake>(`${SELECT} where s.id = $1`, [id]);
  return rows[0];
}

export async function beginStocktake(db: Session, id: string): Promise<void> {
  await db.query(`insert into stocktakes (id) values ($1) on conflict do nothing`, [id]);
}

/** Every walk as an archive holds it. */
export async function exportStocktakes(db: Session): Promise<Archive["stocktakes"]> {
  const { rows } = await db.query<Archive["stocktakes"][number]>(
    `select s.id, s.version, exact_time(s.started_at) as "startedAt",
       (select coalesce(json_agg(json_build_object('component', l.component_id, 'place', l.place_id, 'lot', l.lot,
         'stretchMm', nullif(l.stretch_mm, 0), 'how', l.how, 'counted', l.counted, 'u', l.u, 'entered', l.entered,
         'book', l.book, 'bookVariance', l.book_variance, 'posted', l.posted, 'countedAt', exact_time(l.counted_at))
         order by l.counted_at, l.component_id, l.place_id, l.lot, l.stretch_mm), '[]')
        from stocktake_lines l where l.stocktake_id = s.id) as lines
     from stocktakes s order by s.id`,
  );
  return rows;
}

/** Writes a walk as an archive holds it. */
export async function putStocktake(db: Session, { id, version, startedAt, lines }: Archive["stocktakes"][number]) {
  await db.query(`insert into stocktakes (id, version, started_at) values ($1, $2, $3)`, [id, version, startedAt]);
  await db.query(
    `insert into stocktake_lines (stocktake_id, component_id, place_id, lot, stretch_mm, how, counted, u, entered,
       book, book_variance, posted, counted_at)
     select $1, x.component, x.place, x.lot, coalesce(x."stretchMm", 0), x.how, x.counted, x.u, x.entered, x.book,
       x."bookVariance", x.posted, x."countedAt"
     from jsonb_to_recordset($2) as x(component uuid, place uuid, lot text, "stretchMm" numeric, how text,
       counted numeric, u numeric, entered text, book numeric, "bookVariance" numeric, posted boolean,
       "countedAt" timestamptz)`,
    [id, JSON.stringify(lines)],
  );
}

/** Every jar in the order in which one walks past it: place by place. */
export async function shelf(db: Session): Promise<ShelfJar[]> {
  const { rows } = await db.query<ShelfJar>(
    `select b.component_id as component, b.place_id as place, p.code as "placeCode", b.lot, nullif(b.stretch_mm,
      0)::float8 as "stretchMm", b.quantity::float8, sqrt(b.variance)::float8 as u
     from balances b join places p on p.id = b.place_id join components c on c.id = b.component_id
     order by p.position, p.code, c.name, c.code, b.lot, b.stretch_mm desc`,
  );
  return rows;
}

/** Writes down one jar of a walk, with what the book says of it at this moment. */
export async function putStocktakeLine(db: Session, id: string, line: z.infer<typeof StocktakeLine>): Promise<void> {
  await db.query(
    `insert into stocktake_lines (stocktake_id, component_id, place_id, lot, stretch_mm, how, counted, u, entered,
      book, book_variance)
     select $1, $2, $3, $4, $5, $6, $7, $8, $9, coalesce(b.quantity, 0), coalesce(b.variance, 0)
     from (select 1) as one left join balances b on b.component_id = $2 and b.place_id = $3 and b.lot = $4
     and b.stretch_mm = $5
     on conflict (stocktake_id, component_id, place_id, lot, stretch_mm) do update
     set how = excluded.how, counted = excluded.counted, u = excluded.u,
       entered = excluded.entered, book = excluded.book, book_variance = excluded.book_variance, counted_at = now()
       where not stocktake_lines.posted`,
    [id, line.component, line.place, line.lot, line.stretchMm ?? 0, line.how, line.counted, line.u, line.entered],
  );
}

/**
 * Marks jars of a walk as posted, and returns how many were not before: whoever posts the same ones at the same time
 * waits here, and finds fewer.
 */
export async function markPosted(
  db: Session,
  id: string,
  lines: readonly { component: string; place: string; lot: string; stretchMm?: number | null | undefined }[],
): Promise<number> {
  const { rowCount } = await db.query(
    `update stocktake_lines l set posted = true from jsonb_to_recordset($2) as x(component uuid, place uuid, lot text,
      "stretchMm" numeric)
     where l.stocktake_id = $1 and l.component_id = x.component and l.place_id = x.place and l.lot = x.lot
     and l.stretch_mm = coalesce(x."stretchMm", 0) and not l.posted`,
    [id, JSON.stringify(lines)],
  );
  return rowCount ?? 0;
}
