import type { Design, DesignSummary, PinnedDesign, SavedDesign, Trial } from "@jar-count/core/contract";
import { notFound, stale } from "../refusal/index.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import {
  addRevision,
  findDesign,
  findRevision,
  listTrials,
  lockDesign,
  putTrial,
  setArchived,
} from "../store/designs.ts";
import { doOnce } from "../store/requests.ts";

export async function readDesign(db: Session, id: string): Promise<DesignSummary> {
  const found = await findDesign(db, id);
  if (!found) throw notFound("This design");
  return found;
}

export async function readRevision(db: Session, id: string, no: number): Promise<PinnedDesign> {
  const found = no < 2 ** 31 ? await findRevision(db, id, no) : undefined;
  if (!found) throw notFound("This revision");
  return found;
}

/** Saves a design as a new revision, based on the newest. */
export function saveDesign(
  db: Database,
  id: string,
  save: { requestKey?: string | null | undefined; revision: number; reason: string; design: Design },
): Promise<SavedDesign> {
  const { requestKey, ...body } = save;
  return inTransaction(db, (session) =>
    doOnce(session, requestKey, { id, ...body }, async () => {
      const { revision, reason, design } = body;
      const newest = (await lockDesign(session, id)) ?? 0;
      if (newest !== revision) throw stale("This design", await findDesign(session, id));
      const savedAt = await addRevision(session, id, revision + 1, design, reason);
      return { revision: revision + 1, savedAt };
    }),
  );
}

export async function saveTrial(db: Session, id: string, trial: Trial): Promise<Trial[]> {
  await putTrial(db, id, trial);
  return listTrials(db, id);
}

export async function putAway(db: Session, id: string, archived: boolean): Promise<DesignSummary> {
  if (!(await setArchived(db, id, archived))) throw notFound("This design");
  return readDesign(db, id);
}
