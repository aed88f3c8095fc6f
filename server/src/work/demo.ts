import { readArchive, type Files } from "@jar-count/core/archive";
import type { Workshop } from "@jar-count/core/contract";
import { movedTo } from "@jar-count/core/day";
import { readdir, readFile } from "node:fs/promises";
import { fileURLToPath } from "node:url";
import { Refusal } from "../refusal/index.ts";
import { isEmpty, lockWorkshop } from "../store/archive.ts";
import { type Database, inTransaction } from "../store/database.ts";
import { readWorkshop, today } from "../store/workshop.ts";
import { fillWorkshop } from "./archive.ts";

/** The invented workshop's files: at the root of the project, as seen from here and from the built server. */
const FOLDER = fileURLToPath(
  new URL(import.meta.url.endsWith(".ts") ? "../../../demo" : "../../demo", import.meta.url),
);

/**
 * Puts the invented workshop into an empty one, with its days and months as of today; one with anything in it is left
 * alone. @returns whether it did
 */
export async function seedDemo(db: Database): Promise<boolean> {
  if (!(await isEmpty(db))) return false;
  const found = readArchive(await filesIn(FOLDER));
  if ("faults" in found) throw new Error(found.faults.map((f) => `${f.file}: ${f.detail}`).join("\n"));
  // Its files are written as of this day: the last entry of the ledger is of the day before.
  const asOf = (await readFile(`${FOLDER}/as-of.txt`, "utf8")).trim();
  // Servers that start together fill it once.
  return inTransaction(db, async (session) => {
    await lockWorkshop(session);
    if (!(await isEmpty(session))) return false;
    await fillWorkshop(session, movedTo(found, asOf, await today(session)));
    return true;
  });
}

/** The same for a person who asks for it: a workshop with something in it is refused. */
export async function fillInvented(db: Database): Promise<Workshop> {
  if (!(await seedDemo(db))) {
    throw new Refusal("not-empty", "There is something in this workshop already: the invented one needs an empty one.");
  }
  return readWorkshop(db);
}

async function filesIn(folder: string): Promise<Files> {
  const files: Files = {};
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile() || !/\.(json|csv)$/.test(entry.name)) continue;
    const path = `${entry.parentPath}/${entry.name}`;
    files[path.slice(folder.length + 1)] = await readFile(path, "utf8");
  }
  return files;
}
