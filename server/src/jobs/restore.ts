import type { Summary } from "@jar-count/core/contract";
import { readFile } from "node:fs/promises";
import { backUp, type Keeper, replaceWorkshop, undump } from "../backup/index.ts";
import { isEmpty, summarize } from "../store/archive.ts";
import { openOwn } from "../work/archive.ts";

const say = (s: Summary) =>
  `${s.name}: ${s.components} components worth ${s.value} ${s.currency}, ${s.designs} designs, ${s.boxes} boxes, ` +
  `${s.movements} movements, the last ${s.lastMoved ?? "never"}, ${s.openOrders} open orders`;

/**
 * Brings a backup in from the command line: an archive, or the dump from before a migration.
 * @param replace whether it may take the place of what is here; without it both are only shown
 * @throws Error with a sentence
 */
export async function restoreFile(
  keeper: Keeper,
  file: string,
  replace: boolean,
  bringUpToDate: () => Promise<void>,
): Promise<void> {
  if (!/\.(zip|dump)$/.test(file)) throw new Error("Say which file: npm run restore -- FILE (.jarcount.zip or .dump).");
  await bringUpToDate();
  const empty = await isEmpty(keeper.owner);
  const here = empty ? "nothing" : say(await summarize(keeper.owner));
  const isDump = file.endsWith(".dump");
  const zip = isDump ? null : await readFile(file);
  const comes = zip ? say((await openOwn(zip)).summary) : `the database as it was dumped in ${file}`;
  console.log(`  here      ${here}\n  archive   ${comes}`);
  if (!empty && !replace) {
    throw new Error(
      "There is something here already. Add --replace to put the archive in its place; an archive of it is made first.",
    );
  }
  if (zip) {
    const kept = await replaceWorkshop(keeper, zip);
    console.log(`  restored${kept ? `; what was here is kept in ${keeper.folder}/${kept}` : ""}`);
    return;
  }
  if (!empty) console.log(`  what is here is kept in ${keeper.folder}/${await backUp(keeper, "before a restore")}`);
  await undump(keeper.ownerUrl, file);
  await bringUpToDate();
  console.log("  restored");
}
