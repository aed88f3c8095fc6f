/** Lists and sheets that go out with a box, as PDF: from the bill that holds, and nothing else. */
import { revisionOf, type SheetAsked } from "@jar-count/core/sheet";
import type { SheetOptions } from "../labels/contents.ts";
import type { MakerSheetOptions } from "../labels/maker.ts";
import { notFound } from "../refusal/index.ts";
import type { Database } from "../store/database.ts";
import { findRevision, listTrials } from "../store/designs.ts";
import { inThread } from "../threads/pool.ts";
import { atOnce, billThatHolds, mustFindRun } from "./ahead.ts";

/** Contents lists and bead key cards as a PDF, from the bill that holds. */
export async function contentsPdf(
  db: Database,
  id: string,
  options: SheetOptions,
  signal: AbortSignal,
): Promise<{ name: string; pdf: Uint8Array }> {
  const bill = await atOnce(db, async (session) => billThatHolds(session, id, await mustFindRun(session, id)));
  if (!bill.variants.some((v) => options.first === null || v.first === options.first)) {
    throw notFound("A colourway of this box");
  }
  const pdf = await inThread((work) => work.contentsSheet(bill, options), { signal });
  return { name: `${bill.month} ${bill.theme} contents.pdf`, pdf };
}

/** The maker's sheet of one line of a box as a PDF: from the bill that holds, the pinned revision and its trials. */
export async function makerPdf(
  db: Database,
  id: string,
  asked: SheetAsked,
  options: MakerSheetOptions,
  signal: AbortSignal,
): Promise<{ name: string; pdf: Uint8Array }> {
  const { bill, trials, pinned } = await atOnce(db, async (session) => {
    const bill = await billThatHolds(session, id, await mustFindRun(session, id));
    const of = revisionOf(bill, asked.line);
    const pinned = of && (await findRevision(session, of.designId, of.revision));
    if (!pinned) throw notFound("A design of this box");
    return { bill, pinned, trials: await listTrials(session, pinned.designId) };
  });
  const pdf = await inThread((work) => work.makerSheet(bill, pinned.design, asked, trials, options), { signal });
  if (pdf === null) throw notFound("A colourway of this box");
  return { name: `${bill.month} ${pinned.design.name} sheet.pdf`, pdf };
}
