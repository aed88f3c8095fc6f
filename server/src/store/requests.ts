import { createHash } from "node:crypto";
import { Refusal } from "../refusal/index.ts";
import type { Session } from "./database.ts";

/**
 * Does a write once, however often it is sent: a key seen before gets the answer that it got then, which is kept, so it
 * should be a short one. A write without a key is simply done. Two sent at the same time take turns on the key.
 * @throws Refusal `key-used` where the key came with another body
 */
export async function doOnce<T>(
  session: Session,
  key: string | null | undefined,
  body: unknown,
  work: () => Promise<T>,
): Promise<T> {
  if (key == null) return work();
  const hash = createHash("sha256").update(JSON.stringify(body)).digest("hex");
  await session.query("select pg_advisory_xact_lock(hashtextextended($1, 0))", [key]);
  const { rows } = await session.query<{ body_hash: string; answer: T }>(
    `select body_hash, answer from requests where key = $1`,
    [key],
  );
  const known = rows[0];
  if (known) {
    if (known.body_hash === hash) return known.answer;
    throw new Refusal("key-used", "This request key was used for something else. Send it with a new key.");
  }
  const answer = await work();
  await session.query(`insert into requests (key, body_hash, answer) values ($1, $2, $3)`, [
    key,
    hash,
    JSON.stringify(answer),
  ]);
  return answer;
}

/** Does a write once as {@link doOnce} does; whoever sends it again is answered from what is there now. */
export async function writeOnce<T>(
  session: Session,
  key: string | null | undefined,
  body: unknown,
  write: () => Promise<unknown>,
  read: () => Promise<T>,
): Promise<T> {
  await doOnce(session, key, body, async () => {
    await write();
    return null;
  });
  return read();
}

/** Forgets what was answered longer ago than anybody sends a write again. */
export async function forgetOldRequests(db: Session, days: number): Promise<number> {
  const { rowCount } = await db.query(`delete from requests where answered_at < now() - make_interval(days => $1)`, [
    days,
  ]);
  return rowCount ?? 0;
}
