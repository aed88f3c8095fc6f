import { readdir } from "node:fs/promises";
import { runner } from "node-pg-migrate";
import pg from "pg";
import type { Session } from "./database.ts";

/** Whoever brings the schema up to date holds this lock: others wait their turn. Any number, the same everywhere. */
const LOCK = 7_201_511_004;

/** The database was made by a newer program: this one would not know what it reads. */
export class NewerDatabase extends Error {
  constructor(names: readonly string[]) {
    super(
      `This database is newer than this program: it has ${names.join(", ")}, which the program does not know. ` +
        "Start the newer program on it, or bring in an archive of it with npm run restore.",
    );
  }
}

const namesIn = async (folder: string) =>
  (await readdir(folder))
    .filter((file) => file.endsWith(".sql"))
    .map((file) => file.replace(/\.sql$/, ""))
    .sort();

async function namesApplied(db: Session | pg.Client): Promise<string[]> {
  const { rows: table } = await db.query<{ there: boolean }>(
    `select to_regclass('public.migrations') is not null as there`,
  );
  if (!table[0]!.there) return [];
  const { rows } = await db.query<{ name: string }>(`select name from migrations order by id`);
  return rows.map((r) => r.name);
}

/**
 * Whether the database's schema is that of this program.
 * @returns how many migrations it still lacks
 * @throws NewerDatabase
 */
export async function lacking(db: Session | pg.Client, folder: string): Promise<number> {
  const [ours, theirs] = [await namesIn(folder), await namesApplied(db)];
  const unknown = theirs.filter((name) => !ours.includes(name));
  if (unknown.length > 0) throw new NewerDatabase(unknown);
  return ours.length - theirs.length;
}

/** PostgreSQL's codes where whoever brings it up to date is not done: the lock is held, or nothing is granted yet. */
const NOT_YET = ["55P03", "42501"];

/**
 * Whether the schema is there for the server's role: asked beside whoever brings it up to date, so that it is seen
 * either as it was before, or with all that the role is given of it.
 * @throws NewerDatabase
 */
export async function isReady(db: pg.Pool, folder: string): Promise<boolean> {
  const session = await db.connect();
  try {
    await session.query("select pg_advisory_lock_shared($1)", [LOCK]);
    return (await lacking(session, folder)) === 0;
  } catch (error) {
    if (NOT_YET.includes((error as { code?: string }).code ?? "")) return false;
    throw error;
  } finally {
    await session.query("select pg_advisory_unlock_all()").catch(() => {});
    session.release();
  }
}

interface Around {
  /** Before a database that was used already is changed. */
  before?: () => Promise<void>;
  /** When it is up to date, while others still wait. */
  after?: (owner: pg.Client) => Promise<void>;
}

/**
 * Brings the schema up to date, by the owner; programs that start together take turns.
 * @returns how many migrations were made
 * @throws NewerDatabase
 */
export async function migrate(ownerUrl: string, folder: string, { before, after }: Around = {}): Promise<number> {
  const client = new pg.Client(ownerUrl);
  await client.connect();
  try {
    await client.query("select pg_advisory_lock($1)", [LOCK]);
    const missing = await lacking(client, folder);
    if (missing > 0 && (await namesApplied(client)).length > 0) await before?.();
    if (missing > 0) {
      await runner({
        dbClient: client,
        dir: folder,
        direction: "up",
        migrationsTable: "migrations",
        noLock: true,
        log: () => {},
      });
    }
    await after?.(client);
    return missing;
  } finally {
    await client.end();
  }
}
