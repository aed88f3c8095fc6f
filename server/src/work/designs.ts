import {
  type Design,
  DESIGN_VERSION,
  type DesignSummary,
  type KeptTrial,
  type PinnedDesign,
  type SavedDesign,
  type SaveTrial,
} from "@jar-count/core/contract";
import type { z } from "zod";
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
  versionOfTrial,
} from "../store/designs.ts";
import { takeRecord } from "../store/ids.ts";
import { doOnce, writeOnce } from "../store/requests.ts";

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
      await takeRecord(session, "design", id);
      const newest = (await lockDesign(session, id)) ?? 0;
      if (newest !== revision) throw stale("This design", await findDesign(session, id));
      const savedAt = await addRevision(session, id, revision + 1, { ...design, version: DESIGN_VERSION }, reason);
      return { revision: revision + 1, savedAt };
    }),
  );
}

/** Writes a trial down (version 0), or anew if nobody did since. */
export function saveTrial(
  db: Database,
  id: string,
  trialId: string,
  { requestKey, version, ...trial }: z.output<typeof SaveTrial>,
): Promise<KeptTrial[]> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { id, trialId, version, trial },
      async () => {
        await takeRecord(session, "trial", trialId);
        const known = await versionOfTrial(session, id, trialId);
        if (known !== version) throw stale("This trial", await listTrials(session, id));
        await putTrial(session, id, { ...trial, id: trialId });
      },
      () => listTrials(session, id),
    ),
  );
}

export async function putAway(db: Session, id: string, archived: boolean): Promise<DesignSummary> {
  if (!(await setArchived(db, id, archived))) throw notFound("This design");
  return readDesign(db, id);
}
