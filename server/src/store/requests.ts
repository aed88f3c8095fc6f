import { createHash } from "node:crypto";
import type pg from "pg";
import { Refusal } from "../refusal.ts";

/**
 * Does a write once, however often it is sent: a key seen before answers what it answered then.
 * Two sent at the same time take turns on the key.
 */
export async function once<T>(session: pg.PoolClient, key: string, body: unknown, work: () => Promise<T>): Promise<T> {
  const hash = createHash("sha256").update(JSON.stringify(body)).digest("hex");
  await session.query("select pg_advisory_xact_lock(hashtextextended($1, 0))", [key]);
  const { rows } = await session.query<{ body_hash: string; answer: T }>(
    `select body_hash, answer from requests where key = $1`,
    [key],
  );
  const known = rows[0];
  if (known) {
    if (known.body_hash === hash) return known.answer;
    throw new Refusal(422, "Key used before", "This request key was used for something else. Send it with a new key.");
  }
  const answer = await work();
  await session.query(`insert into requests (key, body_hash, answer) values ($1, $2, $3)`, [
    key,
    hash,
    JSON.stringify(answer),
  ]);
  return answer;
}
