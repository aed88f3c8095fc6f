import { emptyWorkshop, exportWorkshop, isEmpty, keepOthersFromWriting } from "../store/archive.ts";
import { endSession, inTransaction, type Session } from "../store/database.ts";
import { inThread } from "../threads/pool.ts";
import { fillWorkshop, openOwn, UNHURRIED } from "../work/archive.ts";
import { type Keeper, proveBackup, writeBackup, type Written } from "./backup.ts";
import { removeWhole } from "./folder.ts";

/** The longest that nobody may write for it, ms: what is not done by then is undone. */
const LONGEST = 15 * 60_000;

/**
 * Puts an archive in the place of everything, in one transaction: an archive of what was here is on the disk before
 * anything is taken out, and nobody writes meanwhile: who tries is told at once. After a known time it is done or
 * undone.
 * @param inside is done in the same transaction, with the file that what was here is kept in; null where nothing was
 * @returns that file's name
 */
export async function replaceWorkshop(
  keeper: Keeper,
  zip: Uint8Array,
  inside: (session: Session, kept: string | null) => Promise<void> = () => Promise.resolve(),
): Promise<string | null> {
  const whole = await openOwn(zip);
  let kept: Written | null = null;
  let over: ReturnType<typeof setTimeout> | undefined;
  const dropKept = async () => {
    if (kept) await removeWhole(keeper.folder, kept.file);
    kept = null;
  };
  try {
    await inTransaction(keeper.owner, async (session) => {
      await dropKept(); // of an earlier try
      clearTimeout(over);
      await keepOthersFromWriting(session);
      over = setTimeout(() => void endSession(keeper.owner, session), LONGEST);
      if (!(await isEmpty(session))) {
        const archive = await exportWorkshop(session);
        const packed = await inThread((work) => work.packArchive(archive), { seconds: UNHURRIED });
        kept = await writeBackup(keeper, "before a restore", packed);
      }
      await emptyWorkshop(session);
      await fillWorkshop(session, whole);
      await inside(session, kept?.file ?? null);
    });
  } catch (error) {
    await dropKept(); // what it kept is all still here
    throw error;
  } finally {
    clearTimeout(over);
  }
  const written = kept as Written | null;
  if (written) await proveBackup(keeper, written);
  return written?.file ?? null;
}
