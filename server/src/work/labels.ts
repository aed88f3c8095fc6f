import type { LabelRequest } from "@jar-count/core/contract";
import { proxy } from "comlink";
import type { z } from "zod";
import { countFaces, packFaces, type PackLabels } from "../labels/packing.ts";
import { labelsASheet } from "../labels/sheet.ts";
import { notFound, wrongAt } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";
import { frozenBill } from "./ahead.ts";

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

/** So many labels are printed at once. */
const MOST = 2000;

/** Labels for bags or boxes of a committed box as a PDF. */
export async function packLabels(
  db: Session,
  box: string,
  asked: PackLabels,
  here: string,
  signal: AbortSignal,
): Promise<Uint8Array> {
  const bill = await frozenBill(db, box);
  const { publicAddress } = await findWorkshop(db);
  const many = countFaces(bill, asked);
  if (many === 0) throw notFound("A box of these numbers");
  if (many > MOST) {
    throw wrongAt("/to", `That is ${many.toLocaleString("en")} labels: print at most 2,000 at a time.`);
  }
  const faces = packFaces(bill, box, publicAddress || here, asked);
  return inThread((work) => work.packLabelSheet(faces, asked.paper), { signal, seconds: SECONDS });
}
