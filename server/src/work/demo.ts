import { readArchive, type Files } from "@jar-count/core/archive";
import { readdir, readFile } from "node:fs/promises";
import { isEmpty, lockWorkshop } from "../store/archive.ts";
import { type Database, inTransaction } from "../store/database.ts";
import { fillWorkshop } from "./archive.ts";

/** Puts the demo's files into an empty workshop; one with anything in it is left alone. */
export async function seedDemo(db: Database, folder: string): Promise<void> {
  if (!(await isEmpty(db))) return;
  const found = readArchive(await filesIn(folder));
  if ("faults" in found) throw new Error(found.faults.map((f) => `${f.file}: ${f.detail}`).join("\n"));
  // Servers that start together fill it once.
  await inTransaction(db, async (session) => {
    await lockWorkshop(session);
    if (await isEmpty(session)) await fillWorkshop(session, found);
  });
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
