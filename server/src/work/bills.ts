import type { BoxDetail } from "@jar-count/core/contract";
import type { Session } from "../store/database.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";

/** A box's bill of materials with its cost, as CSV: counted in a thread, as a large box takes a while. */
export async function billFile(db: Session, id: string): Promise<{ name: string; csv: string }> {
  const detail: BoxDetail = await readBox(db, id);
  const csv = await inThread((work) => work.bill(detail));
  return { name: `${detail.box.month} ${detail.box.theme}.csv`, csv };
}
