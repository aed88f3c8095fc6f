import { randomUUID } from "node:crypto";
import pg from "pg";

const NAME = "jarcount_scratch_";

/** The same server's address with another database. */
const onDatabase = (url: string, name: string) => {
  const other = new URL(url);
  other.pathname = `/${name}`;
  return other.toString();
};

/** Does something in a database of its own, which is gone afterwards. The owner must be allowed to make one. */
export async function inScratch<T>(ownerUrl: string, work: (url: string) => Promise<T>): Promise<T> {
  const name = NAME + randomUUID().replaceAll("-", "");
  await admin(ownerUrl, `create database ${name} template template0`);
  try {
    return await work(onDatabase(ownerUrl, name));
  } finally {
    await admin(ownerUrl, `drop database if exists ${name} with (force)`);
  }
}

/** Takes away what processes that were killed left behind; one that somebody still uses stays. */
export async function dropOldScratches(ownerUrl: string): Promise<void> {
  const client = new pg.Client(ownerUrl);
  await client.connect();
  try {
    const { rows } = await client.query<{ name: string }>(
      `select datname as name from pg_database d where datname like '${NAME.replaceAll("_", "\\_")}%'
         and not exists (select from pg_stat_activity a where a.datid = d.oid)`,
    );
    for (const { name } of rows) await client.query(`drop database if exists ${name}`).catch(() => {});
  } finally {
    await client.end();
  }
}

async function admin(url: string, sql: string): Promise<void> {
  const client = new pg.Client(url);
  await client.connect();
  try {
    await client.query(sql);
  } finally {
    await client.end();
  }
}
