import {
  asReadNow,
  type Design,
  type DesignSummary,
  type KeptTrial,
  type PinnedDesign,
  type RevisionNote,
  type Trial,
} from "@jar-count/core/contract";
import type { Session } from "./database.ts";

const SAVED_AT = `to_char(r.saved_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "savedAt"`;

const NEWEST = `select d.id, r.body->>'name' as name, r.no as revision, ${SAVED_AT}, d.archived, r.body as design,
    (select to_char(max(b.month), 'YYYY-MM') from box_lines l join boxes b on b.id = l.box_id
    where l.design_id = d.id) as "lastUsed",
    (select coalesce(json_agg(distinct p.component_id), '[]') from box_lines l join box_bindings x on x.line_id = l.id
    join box_picks p on p.box_role_id = x.box_role_id where l.design_id = d.id) as components
  from designs d join design_revisions r on r.design_id = d.id and r.no = d.newest`;

const readNow = <T extends { design: Design }>(row: T): T => ({ ...row, design: asReadNow(row.design) });

export async function listDesigns(db: Session): Promise<DesignSummary[]> {
  const { rows } = await db.query<DesignSummary>(`${NEWEST} order by lower(r.body->>'name'), d.id`);
  return rows.map(readNow);
}

/** Changes whenever a design is added or revised. */
export async function tagOfDesigns(db: Session): Promise<string> {
  const { rows } = await db.query<{ tag: string }>(
    `select w.made || '.' || (select coalesce(md5(string_agg(id || '.' || newest || archived, ',' order by id)), '')
      from designs) || '.' || (select coalesce(md5(string_agg(stamp || '.' || version, ',' order by id)), '')
      from boxes) as tag from workshop w`,
  );
  return rows[0]!.tag;
}

export async function findDesign(db: Session, id: string): Promise<DesignSummary | undefined> {
  const { rows } = await db.query<DesignSummary>(`${NEWEST} where d.id = $1`, [id]);
  return rows[0] && readNow(rows[0]);
}

export async function lockDesign(db: Session, id: string): Promise<number | undefined> {
  const { rows } = await db.query<{ newest: number }>(`select newest from designs where id = $1 for update`, [id]);
  return rows[0]?.newest;
}

/** Writes revision `no`; the design's row must be locked, or new. Returns when it was saved. */
export async function addRevision(
  db: Session,
  id: string,
  no: number,
  design: Design,
  reason: string,
  savedAt?: string,
): Promise<string> {
  await db.query(
    no === 1 ? `insert into designs (id, newest) values ($1, $2)` : `update designs set newest = $2 where id = $1`,
    [id, no],
  );
  const { rows } = await db.query<{ savedAt: string }>(
    `insert into design_revisions as r (design_id, no, body, reason, saved_at)
     values ($1, $2, $3, $4, coalesce($5::timestamptz, now())) returning ${SAVED_AT}`,
    [id, no, JSON.stringify(design), reason, savedAt],
  );
  return rows[0]!.savedAt;
}

export async function listRevisions(db: Session, id: string): Promise<RevisionNote[]> {
  const { rows } = await db.query<RevisionNote>(
    `select r.no, r.reason, ${SAVED_AT} from design_revisions r where r.design_id = $1 order by r.no desc`,
    [id],
  );
  return rows;
}

export async function findRevision(db: Session, id: string, no: number): Promise<PinnedDesign | undefined> {
  const { rows } = await db.query<PinnedDesign>(
    `select r.design_id as "designId", r.no as revision, d.newest, r.body as design
     from design_revisions r join designs d on d.id = r.design_id where r.design_id = $1 and r.no = $2`,
    [id, no],
  );
  return rows[0] && readNow(rows[0]);
}

/** The trial makes of a design, the newest first. */
export async function listTrials(db: Session, id: string): Promise<KeptTrial[]> {
  const { rows } = await db.query<{ body: KeptTrial }>(
    `select body || jsonb_build_object('version', version) as body from trials where design_id = $1
     order by made_on desc, written_at desc, id`,
    [id],
  );
  return rows.map((r) => r.body);
}

/** How often a trial of a design was written down; 0 where it was not. */
export async function versionOfTrial(db: Session, design: string, id: string): Promise<number> {
  const { rows } = await db.query<{ version: number }>(`select version from trials where id = $1 and design_id = $2`, [
    id,
    design,
  ]);
  return rows[0]?.version ?? 0;
}

/** Writes a trial down, or anew. One of another design under its id is refused by its key. */
export async function putTrial(db: Session, id: string, trial: Trial, writtenAt?: string | null): Promise<void> {
  const { rowCount } = await db.query(
    `insert into trials as t (id, design_id, revision, person_id, made_on, body, written_at)
     values ($1, $2, $3, $4, $5, $6, coalesce($7::timestamptz, now()))
     on conflict (id) do update set revision = excluded.revision, person_id = excluded.person_id,
     made_on = excluded.made_on, body = excluded.body, version = t.version + 1 where t.design_id = excluded.design_id`,
    [trial.id, id, trial.revision, trial.person ?? null, trial.madeOn, JSON.stringify(trial), writtenAt ?? null],
  );
  if (rowCount === 0) throw Object.assign(new Error("a trial's id belongs to another design"), { code: "23505" });
}

export async function setArchived(db: Session, id: string, archived: boolean): Promise<boolean> {
  const { rowCount } = await db.query(`update designs set archived = $2 where id = $1`, [id, archived]);
  return rowCount === 1;
}

/** The revisions that a box's lines are pinned to, each once. */
export async function pinnedDesigns(db: Session, boxId: string): Promise<PinnedDesign[]> {
  const { rows } = await db.query<PinnedDesign>(
    `select distinct on (r.design_id, r.no) r.design_id as "designId", r.no as revision, d.newest, r.body as design
     from box_lines l join design_revisions r on r.design_id = l.design_id and r.no = l.revision
       join designs d on d.id = r.design_id where l.box_id = $1`,
    [boxId],
  );
  return rows.map(readNow);
}
