import type { LabelRequest } from "@jar-count/core/contract";
import type { z } from "zod";
import { labelsASheet } from "../labels/sheet.ts";
import { notFound } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";

/**
 * Labels for jars as a PDF, in the order asked for.
 * @param here the address that this server is reached by, for a workshop that names none
 */
export async function printLabels(
  db: Session,
  asked: z.output<typeof LabelRequest>,
  here: string,
): Promise<Uint8Array> {
  const { components, paper, skip } = asked;
  const found = new Map((await findComponents(db, components)).map((c) => [c.id, c]));
  const list = components.flatMap((id) => found.get(id) ?? []);
  if (list.length === 0) throw notFound("These jars");
  const { publicAddress } = await findWorkshop(db);
  const free = Math.min(skip, labelsASheet(paper) - 1);
  return inThread((work) => work.labelSheet(list, publicAddress || here, paper, free));
}
