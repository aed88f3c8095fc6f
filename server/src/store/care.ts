import type { Backup, Care, Restoring } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

const BACKUP = `file, exact_time(made_at) as "madeAt", reason, bytes::float8, exact_time(proved_at) as "provedAt",
  fault`;

/** Backups as they are remembered, the newest first. */
export async function listBackups(db: Session): Promise<Backup[]> {
  const { rows } = await db.query<Backup>(`select ${BACKUP} from backups order by made_at desc limit 100`);
  return rows;
}

export interface NewBackup extends Omit<Backup, "madeAt" | "provedAt"> {
  madeAt: Date;
  proved: boolean;
  sha256: string;
}

export async function putBackup(owner: Session, b: NewBackup): Promise<void> {
  await owner.query(
    `insert into backups (file, made_at, reason, bytes, sha256, proved_at, fault)
     values ($1, $2, $3, $4, $5, case when $6 then now() end, $7)
     on conflict (file) do update set proved_at = excluded.proved_at, fault = excluded.fault`,
    [b.file, b.madeAt, b.reason, b.bytes, b.sha256, b.proved, b.fault],
  );
}

export async function forgetBackups(owner: Session, files: readonly string[]): Promise<void> {
  await owner.query(`delete from backups where file = any($1)`, [files]);
}

/** Says that something was looked after: the job process itself (`jobs`), the books (`books`), or the last backup. */
export async function noteCare(owner: Session, what: "jobs" | "books" | "backup", detail: object): Promise<void> {
  await owner.query(
    `insert into care (what, detail) values ($1, $2)
     on conflict (what) do update set at = now(), detail = excluded.detail`,
    [what, JSON.stringify(detail)],
  );
}

/** The job process goes: unless another is there meanwhile, nobody looks after the workshop. */
export async function leave(owner: Session, pid: number): Promise<void> {
  await owner.query(`delete from care where what = 'jobs' and (detail ->> 'pid')::int = $1`, [pid]);
}

/** How long the job process may be silent before it counts as gone, and a backup be old, by the database's clock. */
const SILENT = "3 minutes";
const OLD = "36 hours";

/** What looks after the workshop by itself, and what it did last. */
export async function findCare(db: Session): Promise<Care> {
  const { rows } = await db.query<Omit<Care, "backups">>(
    `select coalesce(j.at > now() - $1::interval, false) as jobs, j.detail ->> 'folder' as folder,
       not exists (select from backups where proved_at > now() - $2::interval) as old,
       case when b.what is not null
         then json_build_object('at', exact_time(b.at), 'differ', (b.detail ->> 'differ')::int) end as books,
       exact_time(k.at) as "triedAt", k.detail ->> 'fault' as fault
     from (select 1) x left join care j on j.what = 'jobs' left join care b on b.what = 'books'
       left join care k on k.what = 'backup'`,
    [SILENT, OLD],
  );
  return { ...rows[0]!, backups: await listBackups(db) };
}

/** Puts work for the job process into its queue. */
export async function askJob(db: Session, name: "back-up" | "restore" | "check-books", payload = {}): Promise<void> {
  await db.query(`select ask_job($1, $2)`, [name, JSON.stringify(payload)]);
}

/** Lays an archive down for the job process to put in the place of everything; the same one once. */
export async function layRestore(db: Session, id: string, zip: Uint8Array): Promise<void> {
  await db.query(`insert into restores (id, zip) values ($1, $2) on conflict do nothing`, [id, zip]);
}

/** The archive of a restore that still waits. */
export async function takeRestore(owner: Session, id: string): Promise<Buffer | null> {
  const { rows } = await owner.query<{ zip: Buffer }>(`select zip from restores where id = $1 and state = 'waiting'`, [
    id,
  ]);
  return rows[0]?.zip ?? null;
}

/** Restores that wait: also those whose job process was killed in their midst. */
export async function waitingRestores(owner: Session): Promise<string[]> {
  const { rows } = await owner.query<{ id: string }>(
    `select id from restores where state = 'waiting' order by asked_at`,
  );
  return rows.map((r) => r.id);
}

export async function closeRestore(
  owner: Session,
  id: string,
  state: "done" | "failed",
  detail: { kept: string | null; fault: string | null },
): Promise<void> {
  await owner.query(`update restores set state = $2, detail = $3, zip = null where id = $1`, [
    id,
    state,
    JSON.stringify(detail),
  ]);
}

export async function findRestore(db: Session, id: string): Promise<Restoring | undefined> {
  const { rows } = await db.query<Restoring>(
    `select id, state, detail ->> 'kept' as kept, detail ->> 'fault' as fault from restores where id = $1`,
    [id],
  );
  return rows[0];
}
