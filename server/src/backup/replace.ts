import { emptyWorkshop, exportWorkshop, isEmpty } from "../store/archive.ts";
import { inTransaction } from "../store/database.ts";
import { inThread } from "../threads/pool.ts";
import { fillWorkshop, openWhole, UNHURRIED } from "../work/archive.ts";
import { backUp, type Keeper } from "./backup.ts";
import { nameOf, removeWhole, writeWhole } from "./folder.ts";

/**
 * Puts an archive in the place of everything, in one transaction: an archive of what was here is on the disk before
 * anything is taken out, and nobody writes meanwhile.
 * @returns the file that what was here is kept in; null where nothing was
 */
export async function replaceWorkshop(keeper: Keeper, zip: Uint8Array): Promise<string | null> {
  const whole = await openWhole(zip, UNHURRIED);
  let first: string | null = null;
  const before = await inTransaction(keeper.owner, async (session) => {
    await session.query("lock table workshop, components, designs, boxes, orders, entries, people in exclusive mode");
    let packed: Uint8Array | null = null;
    if (!(await isEmpty(session))) {
      const archive = await exportWorkshop(session);
      packed = await inThread((work) => work.packArchive(archive), { seconds: UNHURRIED });
      first = nameOf(new Date(), "before a restore", "jarcount.zip");
      await writeWhole(keeper.folder, first, packed);
    }
    await emptyWorkshop(session);
    await fillWorkshop(session, whole);
    return packed;
  });
  if (!before) return null;
  // Proved now that the database has time for it; the first copy was there in case it would not come to this.
  const kept = await backUp(keeper, "before a restore", before);
  if (first !== null && first !== kept) await removeWhole(keeper.folder, first);
  return kept;
}
