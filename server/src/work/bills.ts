import type { Database } from "../store/database.ts";
import { inThread } from "../threads/pool.ts";
import { atOnce, mustFindRun, sharesInside } from "./ahead.ts";
import { readBox } from "./boxes.ts";
import { findTerms } from "./money.ts";

/**
 * A box's bill of materials with its cost and with what there is for it beside others, as CSV: read at once, then
 * counted in a thread, as a large box takes a while.
 */
export async function billFile(db: Database, id: string): Promise<{ name: string; csv: string }> {
  const { detail, shares, packBy, terms } = await atOnce(db, async (session) => ({
    detail: await readBox(session, id),
    shares: await sharesInside(session, id),
    packBy: (await mustFindRun(session, id)).packBy,
    terms: await findTerms(session),
  }));
  const csv = await inThread((work) => work.bill(detail, shares, packBy, terms));
  return { name: `${detail.box.month} ${detail.box.theme}.csv`, csv };
}
