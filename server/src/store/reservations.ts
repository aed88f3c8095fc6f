import type { Archive, Reservation } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

const SELECT = `select r.id, r.component_id as component, r.purpose, r.quantity::float8, r.cut_mm::float8 as "cutMm",
  to_char(r.made_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at
  from reservations r where r.released_at is null and r.need_id is null`;

/** All that was ever set aside, what was given free again too, as an archive holds it. */
export async function exportReservations(db: Session): Promise<Archive["setAside"]> {
  const { rows } = await db.query<Archive["setAside"][number]>(
    `select id, component_id as component, purpose, quantity::float8, cut_mm::float8 as "cutMm",
       exact_time(made_at) as at, person_id as person, exact_time(released_at) as released,
       need_id as need, order_line_id as "orderLine"
     from reservations order by made_at, id`,
  );
  return rows;
}

/** What is set aside by hand now: of one component, or all of it. */
export async function listReservations(db: Session, component: string | null = null): Promise<Reservation[]> {
  const { rows } = await db.query<Reservation>(
    `${SELECT} and ($1::uuid is null or r.component_id = $1) order by date_trunc('second', r.made_at), r.id`,
    [component],
  );
  return rows;
}

export async function addReservation(
  db: Session,
  r: Omit<Reservation, "id" | "at"> & {
    id?: string;
    at?: string;
    person?: string | null | undefined;
    released?: string | null | undefined;
    need?: string | null | undefined;
    orderLine?: string | null | undefined;
  },
): Promise<void> {
  await db.query(
    `insert into reservations (id, component_id, purpose, quantity, cut_mm, person_id, made_at, released_at,
        need_id, order_line_id)
      values (coalesce($1::uuid, gen_random_uuid()), $2, $3, $4, $5, $6, coalesce($7::timestamptz, now()), $8, $9,
        $10)`,
    [
      r.id ?? null,
      r.component,
      r.purpose,
      r.quantity,
      r.cutMm,
      r.person ?? null,
      r.at ?? null,
      r.released ?? null,
      r.need ?? null,
      r.orderLine ?? null,
    ],
  );
}

/**
 * Gives what was set aside by hand free again; returns the component whose it was, or nothing where it is not set aside
 * any more.
 */
export async function releaseReservation(db: Session, id: string): Promise<string | undefined> {
  const { rows } = await db.query<{ component: string }>(
    `update reservations set released_at = now() where id = $1 and released_at is null and need_id is null
      returning component_id as component`,
    [id],
  );
  return rows[0]?.component;
}
