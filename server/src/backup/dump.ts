import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import pg from "pg";
import { inScratch } from "./scratch.ts";

const run = promisify(execFile);

/** Runs one of PostgreSQL's own programs on a database; the password goes by its surroundings, not its arguments. */
async function program(name: string, url: string, ...args: string[]): Promise<void> {
  const at = new URL(url);
  const password = decodeURIComponent(at.password);
  at.password = "";
  const path = process.env.PG_PROGRAMS ? join(process.env.PG_PROGRAMS, name) : name;
  await run(path, [...args, "--dbname", at.toString()], {
    env: { ...process.env, PGPASSWORD: password },
    maxBuffer: 64_000_000,
  });
}

/** A database as it is, whatever its schema, in PostgreSQL's own form: before it is changed for good. */
export const dump = (ownerUrl: string, file: string) =>
  program("pg_dump", ownerUrl, "--format=custom", "--no-owner", "--no-privileges", "--file", file);

/** Brings a dump into a database in the place of what is there, which a newer schema may tie together otherwise. */
export async function undump(ownerUrl: string, file: string): Promise<void> {
  const client = new pg.Client(ownerUrl);
  await client.connect();
  await client
    .query("drop schema if exists graphile_worker cascade; drop schema public cascade; create schema public")
    .finally(() => client.end());
  await program("pg_restore", ownerUrl, "--no-owner", "--no-privileges", "--exit-on-error", file);
}

/** Brings a dump into a scratch database and compares every table, row by row. @throws Error where one differs */
export async function proveDump(ownerUrl: string, file: string): Promise<void> {
  await inScratch(ownerUrl, async (scratch) => {
    await program("pg_restore", scratch, "--no-owner", "--no-privileges", "--exit-on-error", file);
    const [here, there] = await Promise.all([sumsOf(ownerUrl), sumsOf(scratch)]);
    if (JSON.stringify(here) !== JSON.stringify(there)) throw new Error("It is not the same when it is brought in.");
  });
}

/** Every table's rows as one checksum. */
async function sumsOf(url: string): Promise<Record<string, string>> {
  const client = new pg.Client(url);
  await client.connect();
  try {
    const { rows } = await client.query<{ name: string }>(
      `select tablename as name from pg_tables where schemaname = 'public' order by 1`,
    );
    const sums: Record<string, string> = {};
    for (const { name } of rows) {
      const { rows: sum } = await client.query<{ sum: string }>(
        `select count(*) || ' ' || coalesce(md5(string_agg(md5(t::text), '' order by md5(t::text))), '') as sum
         from "${name}" t`,
      );
      sums[name] = sum[0]!.sum;
    }
    return sums;
  } finally {
    await client.end();
  }
}
