import type pg from "pg";

/** What the ledger gives, and what only the job process writes: the server's role reads it. */
const READ_ONLY = ["balances", "component_totals", "migrations", "care", "backups"];
/** What happened is added to, and never changed. */
const APPEND_ONLY = ["entries", "movements", "restores"];
/** Added to, and gone only with what they are of. */
const FROZEN = ["run_bills"];
/** What was used of a need follows from the movements that name it. */
const NEED_FIELDS = "id, run_id, variant_id, component_id, cut_mm, quantity, spare";
/** What was received of an order's line follows from the movements that name it. */
const LINE_FIELDS = "order_id, position, component_id, pack, packs, quantity, price, due, piece_mm";

/**
 * Gives the server's role what it needs of this database, and takes away all else: it owns nothing, can't switch a
 * trigger off, and can't set a balance. Run by the owner after each migration.
 * @param role a role that is there already
 */
export async function grantTo(owner: pg.Pool | pg.Client, role: string): Promise<void> {
  const name = `"${role.replaceAll('"', '""')}"`;
  const { rows } = await owner.query<{ table: string }>(
    `select tablename as table from pg_tables where schemaname = 'public'`,
  );
  const others = rows
    .map((r) => r.table)
    .filter((t) => ![...READ_ONLY, ...APPEND_ONLY, ...FROZEN, "order_lines", "run_needs"].includes(t));
  await owner.query(
    `revoke all on all tables in schema public from public, ${name};
     grant usage on schema public to ${name};
     grant usage on all sequences in schema public to ${name};
     grant select on ${READ_ONLY.join(", ")} to ${name};
     grant select, insert on ${APPEND_ONLY.join(", ")} to ${name};
     grant select, insert, delete on ${FROZEN.join(", ")} to ${name};
     grant select, delete, insert (id, ${LINE_FIELDS}, received_before), update (${LINE_FIELDS})
       on order_lines to ${name};
     grant select, delete, insert (${NEED_FIELDS}) on run_needs to ${name};
     grant select, insert, update, delete on ${others.map((t) => `"${t}"`).join(", ")} to ${name};`,
  );
}

/** Whether a role may do what only an owner may: then the books are only as safe as the program. */
export async function ownsTheBooks(db: pg.Pool): Promise<boolean> {
  const { rows } = await db.query<{ owns: boolean }>(
    `select pg_has_role(current_user, relowner, 'usage') as owns from pg_class where oid = 'movements'::regclass`,
  );
  return rows[0]!.owns;
}
