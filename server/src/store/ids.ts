import type { Session } from "./database.ts";

/**
 * Takes a record for the rest of the transaction, whether it is there already or about to be made: two that make or
 * change the same one take turns. Comes before any other lock.
 */
export async function takeRecord(session: Session, kind: string, id: string): Promise<void> {
  await session.query("select pg_advisory_xact_lock(hashtextextended($1, 0))", [`${kind} ${id}`]);
}
