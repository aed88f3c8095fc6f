import { mkdir, open, readdir, readFile, rename, rm } from "node:fs/promises";
import { join } from "node:path";
import { createHash } from "node:crypto";

/** Why a backup was made; it stands in its name. */
export const REASONS = ["night", "start", "asked for", "before a migration", "before a restore"] as const;
export type Reason = (typeof REASONS)[number];

/** A backup's name: when it was made (UTC) and why. */
export const nameOf = (madeAt: Date, reason: Reason, ending: "jarcount.zip" | "dump") =>
  `${madeAt.toISOString().slice(0, 19).replaceAll(":", "-")}Z ${reason}.${ending}`.replaceAll(" ", "-");

/** Writes a file whole or not at all, and returns when it is on the disk. Only its owner may read it. */
export async function writeWhole(folder: string, name: string, bytes: Uint8Array): Promise<void> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const part = join(folder, `.${name}.part`);
  try {
    const file = await open(part, "w", 0o600);
    try {
      await file.writeFile(bytes);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(part, join(folder, name));
  } catch (error) {
    // A full disk is not to be filled by what is of no use.
    await rm(part, { force: true }).catch(() => {});
    throw error;
  }
}

/** Takes away what processes that were killed while they wrote left behind. */
export async function dropParts(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names) if (/^\..*\.part$/.test(name)) await rm(join(folder, name), { force: true });
}

export const readWhole = (folder: string, name: string) => readFile(join(folder, name));
export const removeWhole = (folder: string, name: string) => rm(join(folder, name), { force: true });
export const sha256 = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");
