import pg from "pg";
import { runner } from "node-pg-migrate";

export type Database = pg.Pool;
export type Session = pg.PoolClient | pg.Pool;

export function openDatabase(url: string): Database {
  // Plans are short here: compiling one (JIT) takes longer than running it.
  const pool = new pg.Pool({ connectionString: url, max: 10, options: "-c jit=off" });
  // A connection that breaks while idle is replaced by the pool; requests on a broken one fail with a plain message.
  pool.on("error", (error) => console.error(`database connection lost: ${error.message}`));
  return pool;
}

/** Asks the database anything at all. */
export async function isUp(db: Session): Promise<void> {
  await db.query("select 1");
}

/** Brings the schema up to date; servers that start together take turns. */
export async function migrate(url: string, folder: string): Promise<number> {
  const done = await runner({
    databaseUrl: url,
    dir: folder,
    direction: "up",
    migrationsTable: "migrations",
    log: () => {},
  });
  return done.length;
}

/** Runs `work` in one transaction: all of it or nothing. `mode` as SQL has it, such as an isolation level. */
export async function inTransaction<T>(
  db: Database,
  work: (session: pg.PoolClient) => Promise<T>,
  mode: "read committed" | "repeatable read, read only" = "read committed",
): Promise<T> {
  const session = await db.connect();
  // A connection that is cut while it is in use fails its query; without a listener it would end the whole process.
  let lost = false;
  const note = () => void (lost = true);
  session.on("error", note);
  try {
    await session.query(`begin isolation level ${mode}`);
    const result = await work(session);
    await session.query("commit");
    return result;
  } catch (error) {
    await session.query("rollback").catch(note);
    throw error;
  } finally {
    session.off("error", note);
    session.release(lost);
  }
}
