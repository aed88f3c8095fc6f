import type { BoxDetail } from "@jar-count/core/contract";
import type { Session } from "../store/database.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";
import { findTerms } from "./money.ts";

/** A box's bill of materials with its cost, as CSV: counted in a thread, as a large box takes a while. */
export async function billFile(db: Session, id: string): Promise<{ name: string; csv: string }> {
  const detail: BoxDetail = await readBox(db, id);
  const terms = await findTerms(db);
  const csv = await inThread((work) => work.bill(detail, terms));
  return { name: `${detail.box.month} ${detail.box.theme}.csv`, csv };
}
