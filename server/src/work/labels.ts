import type { LabelRequest } from "@jar-count/core/contract";
import { proxy } from "comlink";
import type { z } from "zod";
import { labelsASheet } from "../labels/sheet.ts";
import { notFound } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";

/** How far the sheets are that are being made here now, by their request keys. */
const making = new Map<string, { done: number; of: number }>();
/** How long a sheet may take, s. */
const SECONDS = 120;

export function labelProgress(key: string): { done: number; of: number } {
  const found = making.get(key);
  if (!found) throw notFound("This sheet of labels");
  return found;
}

/**
 * Labels for jars as a PDF, in the order asked for.
 * @param here the address that this server is reached by, for a workshop that names none
 * @param signal ends it when nobody waits any more
 */
export async function printLabels(
  db: Session,
  asked: z.output<typeof LabelRequest>,
  here: string,
  signal: AbortSignal,
): Promise<Uint8Array> {
  const { requestKey, components, paper, skip } = asked;
  const found = new Map((await findComponents(db, components)).map((c) => [c.id, c]));
  const list = components.flatMap((id) => found.get(id) ?? []);
  if (list.length === 0) throw notFound("These jars");
  const { publicAddress } = await findWorkshop(db);
  const free = Math.min(skip, labelsASheet(paper) - 1);
  const note = (done: number) => void (requestKey && making.set(requestKey, { done, of: list.length }));
  note(0);
  try {
    return await inThread((work) => work.labelSheet(list, publicAddress || here, paper, free, proxy(note)), {
      signal,
      seconds: SECONDS,
    });
  } finally {
    if (requestKey) making.delete(requestKey);
  }
}
