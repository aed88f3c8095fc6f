import pg from "pg";

export type Database = pg.Pool;
export type Session = pg.PoolClient | pg.Pool;

/**
 * A server's connections, apart by what they are for, so that nothing that takes long keeps everybody from the rest.
 * `work` is for what writes, and for what reads much at once.
 */
export type Databases = Record<"health" | "reading" | "packing" | "work", Database>;
/** So many connections of each. */
const CONNECTIONS: Record<keyof Databases, number> = { health: 1, reading: 5, packing: 4, work: 8 };

/** How long anything may wait, ms: for a lock, for one statement, inside a transaction that does nothing. */
const LIMITS = { lock_timeout: 10_000, statement_timeout: 60_000, idle_in_transaction_session_timeout: 150_000 };
/** How long a request waits for a connection, ms. */
const CONNECT_MS = 5_000;

/** All of a server's connections. */
export function openDatabases(url: string, limits: Partial<typeof LIMITS> = {}): Databases {
  const open = (what: keyof Databases) => openDatabase(url, limits, CONNECTIONS[what]);
  return { health: open("health"), reading: open("reading"), packing: open("packing"), work: open("work") };
}

export const closeDatabases = (all: Databases): Promise<unknown> =>
  Promise.all(Object.values(all).map((db) => db.end()));

/** A pool of connections; `limits` in place of the usual ones, ms, for work that takes its time. */
export function openDatabase(url: string, limits: Partial<typeof LIMITS> = {}, max = 10): Database {
  const settings = Object.entries({ ...LIMITS, ...limits }).map(([name, ms]) => `-c ${name}=${ms}`);
  // Plans are short here: compiling one (JIT) takes longer than running it.
  const options = ["-c jit=off", ...settings].join(" ");
  const pool = new pg.Pool({ connectionString: url, max, connectionTimeoutMillis: CONNECT_MS, options });
  // A connection that breaks while idle is replaced by the pool; requests on a broken one fail with a plain message.
  pool.on("error", (error) => console.error(`database connection lost: ${error.message}`));
  return pool;
}

/** The connection broke while a write was committed: it may have been saved, or not. */
export class NotKnown extends Error {
  constructor() {
    super("It is not known whether this was saved.");
  }
}

/** Writes and reads: a database that is up but takes nothing, as on a full disk, fails it. */
export async function beat(db: Session): Promise<void> {
  const { rowCount } = await db.query(`update heartbeat set at = now() returning at`);
  if (rowCount !== 1) throw new Error("The heartbeat was not written.");
}

/** Ends a session from outside: whatever it is doing is undone. */
export async function endSession(owner: Database, session: pg.PoolClient): Promise<void> {
  const { processID } = session as pg.PoolClient & { processID?: number };
  await owner
    .query(`select pg_terminate_backend($1)`, [processID])
    .catch((error: Error) => console.error(error.message));
}

/** Something heavy must be done before a transaction can: it is undone meanwhile, and holds nothing. */
export class DoFirst extends Error {
  constructor(readonly work: () => Promise<void>) {
    super("Something must be worked out before this transaction.");
  }
}
/** So often may a transaction find that something else must be worked out first: what it reads may change meanwhile. */
const FIRSTS = 20;

/** PostgreSQL's codes for a deadlock and for a transaction that can't be ordered: the same work may do well next. */
const AGAIN = ["40P01", "40001"];
/** So often is it done again. */
const TRIES = 5;

/**
 * Runs `work` in one transaction: all of it or nothing. Where two transactions stood in each other's way, it is run
 * again, so `work` must do nothing outside its session; and once more after what it says must be done first. `mode` as
 * SQL has it, such as an isolation level.
 * @throws NotKnown where the connection broke while it was committed and nobody can find out
 */
export async function inTransaction<T>(
  db: Database,
  work: (session: pg.PoolClient) => Promise<T>,
  mode: "read committed" | "repeatable read, read only" = "read committed",
): Promise<T> {
  for (let [tries, firsts] = [1, 0]; ;) {
    try {
      return await runOnce(db, work, mode);
    } catch (error) {
      if (error instanceof DoFirst && firsts++ < FIRSTS) {
        await error.work();
        continue;
      }
      if (tries === TRIES || !AGAIN.includes((error as { code?: string }).code ?? "")) throw error;
      // Those that met wait unequally long, so that they do not meet again.
      await new Promise((next) => setTimeout(next, Math.random() * 20 * tries++));
    }
  }
}

async function runOnce<T>(db: Database, work: (session: pg.PoolClient) => Promise<T>, mode: string): Promise<T> {
  const session = await db.connect();
  // A connection that is cut while it is in use fails its query; without a listener it would end the whole process.
  let lost = false;
  const note = () => void (lost = true);
  session.on("error", note);
  try {
    await session.query(`begin isolation level ${mode}`);
    const result = await work(session);
    await commit(db, session);
    return result;
  } catch (error) {
    await session.query("rollback").catch(note);
    throw error;
  } finally {
    session.off("error", note);
    session.release(lost);
  }
}

/** Commits, and where the connection breaks just then, finds out from the database whether it was done. */
async function commit(db: Database, session: pg.PoolClient): Promise<void> {
  const { rows } = await session.query<{ id: string | null }>(`select pg_current_xact_id_if_assigned()::text as id`);
  const id = rows[0]!.id;
  try {
    await session.query("commit");
  } catch (error) {
    // A code of five signs is the database's own refusal: nothing was written. Without it the answer was lost.
    const refused = /^[0-9A-Z]{5}$/.test((error as { code?: string }).code ?? "") && !AWAY.test(codeOf(error));
    if (id === null || refused) throw error;
    const status = await statusOf(db, id);
    if (status === "aborted") throw error;
    if (status !== "committed") throw new NotKnown();
  }
}

/** Its classes of codes for a server that is stopping or starting, and for a lost connection. */
export const AWAY = /^(57P|08|ECONN|EPIPE)/;
const codeOf = (error: unknown) => (error as { code?: string }).code ?? "";

/** What became of a transaction; null where the database can't be asked, or still has it under way. */
async function statusOf(db: Database, id: string): Promise<"committed" | "aborted" | null> {
  for (let tries = 0; tries < 10; tries++) {
    try {
      const { rows } = await db.query<{ status: string | null }>(`select pg_xact_status($1::xid8) as status`, [id]);
      const status = rows[0]!.status;
      if (status === "committed" || status === "aborted") return status;
    } catch {
      // Not back yet.
    }
    await new Promise((next) => setTimeout(next, 100));
  }
  return null;
}
