import {
  type ArchiveFault,
  beyondItsVersion,
  type Files,
  readArchive,
  summaryOf,
  writeArchive,
} from "@jar-count/core/archive";
import { type Archive, findUnfit, Manifest, type ProblemCode, type Summary } from "@jar-count/core/contract";
import { createHash } from "node:crypto";
import { strToU8, unzipSync, type Zippable, zipSync } from "fflate";
import { beyondTable, MOST_DEPTH, sizeOfJson, sizeOfTable } from "../limits/index.ts";

const MANIFEST = "manifest.json";
const NOTE =
  "This archive is exact. Cells that begin a formula (=, +, -, @) stand here as they were typed: a spreadsheet may " +
  "run them. Tables made for spreadsheets, such as the bill of materials, are written so that it does not.";

/**
 * Limits that are checked before anything is read closely: bytes unpacked, files, JSON values in all of them. What
 * whoever looks after the workshop brings in, and what is proved of our own, may be larger: nobody waits for it.
 */
const MOST = {
  sent: { bytes: 200_000_000, files: 50_000, values: 4_000_000 },
  own: { bytes: 1_500_000_000, files: 500_000, values: 40_000_000 },
};
export type Whose = keyof typeof MOST;

/** Packs a workshop: the same one gives the same bytes. */
export function packArchive(archive: Archive): Uint8Array<ArrayBuffer> {
  const files: Zippable = {};
  const sealed: Manifest["files"] = {};
  for (const [path, text] of Object.entries(writeArchive(archive)).sort(([a], [b]) => (a < b ? -1 : 1))) {
    const bytes = strToU8(text);
    files[path] = bytes;
    sealed[path] = { rows: rowsIn(path, bytes), bytes: bytes.length, sha256: sha256(bytes) };
  }
  const manifest: Manifest = {
    format: "jar-count/manifest",
    version: 1,
    note: NOTE,
    summary: summaryOf(archive),
    files: sealed,
  };
  files[MANIFEST] = strToU8(`${JSON.stringify(manifest, null, 2)}\n`);
  // A fixed time in it, as a zip holds the time of its files.
  return zipSync(files, { mtime: new Date(2000, 0, 1), level: 6 });
}

/** Why an archive is not taken in. */
export interface Unfit {
  code: ProblemCode;
  detail: string;
  faults: ArchiveFault[];
}
/** An archive that is whole; `older` ones have no manifest and no books to be held against. */
export interface Whole {
  archive: Archive;
  older: boolean;
  summary: Summary;
}
export type Opened = Whole | { unfit: Unfit };

const unfit = (code: ProblemCode, detail: string, faults: ArchiveFault[] = []): { unfit: Unfit } => ({
  unfit: { code, detail, faults },
});

/** Opens an archive: its size first, then every file against the manifest, then what stands in them. */
export function openArchive(zip: Uint8Array, whose: Whose = "sent"): Opened {
  const found = unpack(zip, MOST[whose]);
  if ("unfit" in found) return found;
  const { unpacked } = found;
  const faults: ArchiveFault[] = [];
  const files: Files = {};
  for (const [path, bytes] of Object.entries(unpacked)) {
    try {
      files[path] = new TextDecoder("utf-8", { fatal: true, ignoreBOM: true }).decode(bytes);
    } catch {
      faults.push({ file: path, detail: "This is not UTF-8: it was damaged, or saved by something else." });
    }
  }
  const told = files[MANIFEST];
  const seal = told === undefined ? null : readSeal(told);
  if (seal && "faults" in seal) faults.push(...seal.faults);
  else if (seal) faults.push(...checkSeal(seal, unpacked));
  if (faults.length > 0 || (seal && "faults" in seal)) return unfit("invalid", WRONG, faults);
  delete files[MANIFEST];
  const beyond = seal ? [] : beyondItsVersion(files);
  if (beyond.length > 0) return unfit("invalid", WRONG, beyond);

  const read = readArchive(files);
  if ("faults" in read) return unfit("invalid", WRONG, read.faults);
  const wrongText = findUnfit(read.archive);
  if (wrongText) return unfit("invalid", WRONG, [{ file: wrongText.pointer.slice(1), detail: wrongText.detail }]);
  if (!read.older && !seal) {
    return unfit("invalid", WRONG, [
      { file: MANIFEST, detail: "This file is missing, so nobody can tell what else is." },
    ]);
  }
  const summary = summaryOf(read.archive);
  if (seal && JSON.stringify(summary) !== JSON.stringify(seal.summary)) {
    return unfit("invalid", WRONG, [{ file: MANIFEST, detail: "What it says of the whole is not what is in it." }]);
  }
  return { archive: read.archive, older: read.older, summary };
}
const WRONG = "This archive can't be taken in; each place says why. Nothing was written.";

function unpack(
  zip: Uint8Array,
  most: (typeof MOST)[Whose],
): { unpacked: Record<string, Uint8Array> } | { unfit: Unfit } {
  let [bytes, files] = [0, 0];
  try {
    const found = unzipSync(zip, {
      filter: ({ name, originalSize }) => {
        bytes += originalSize;
        files++;
        if (bytes > most.bytes || files > most.files) throw new Error("too large");
        return /\.(json|csv)$/.test(name);
      },
    });
    let values = 0;
    for (const [name, data] of Object.entries(found)) {
      const beyond = name.endsWith(".csv") ? beyondTable(data) : null;
      if (beyond) return tooHeavy(`${name} ${beyond}.`);
      if (name.endsWith(".json")) {
        const size = sizeOfJson(data);
        values += size.values;
        if (size.depth > MOST_DEPTH.file) return tooHeavy(`${name} goes more than ${MOST_DEPTH.file} levels deep.`);
      }
      if (values > most.values) return tooHeavy(`Its JSON holds more than ${most.values.toLocaleString("en")} values.`);
    }
    return { unpacked: found };
  } catch {
    if (bytes > most.bytes) return tooHeavy(`It would unpack to more than ${most.bytes / 1_000_000} MB.`);
    if (files > most.files) return tooHeavy(`It holds more than ${most.files.toLocaleString("en")} files.`);
    return unfit("not-an-archive", "This archive can't be opened. It is not a zip file, or it was cut short.");
  }
}
const tooHeavy = (why: string) => unfit("too-heavy", `This archive is not opened. ${why}`);

function readSeal(text: string): Manifest | { faults: ArchiveFault[] } {
  let told: unknown;
  try {
    told = JSON.parse(text);
  } catch {
    return { faults: [{ file: MANIFEST, detail: "This is not JSON." }] };
  }
  const read = Manifest.safeParse(told);
  return read.success ? read.data : { faults: [{ file: MANIFEST, detail: read.error.issues[0]!.message }] };
}

/** Every file as it was written, none too few and none too many. */
function checkSeal(manifest: Manifest, files: Record<string, Uint8Array>): ArchiveFault[] {
  const faults: ArchiveFault[] = [];
  for (const [path, seal] of Object.entries(manifest.files)) {
    const bytes = files[path];
    if (!bytes) faults.push({ file: path, detail: "This file is missing." });
    else if (rowsIn(path, bytes) !== seal.rows)
      faults.push({ file: path, detail: `It has ${rowsIn(path, bytes)} rows, and was written with ${seal.rows}.` });
    else if (bytes.length !== seal.bytes || sha256(bytes) !== seal.sha256)
      faults.push({ file: path, detail: "It was changed since it was written." });
  }
  for (const path of Object.keys(files)) {
    if (path !== MANIFEST && !manifest.files[path])
      faults.push({ file: path, detail: "The manifest does not know this file." });
  }
  return faults;
}

/** Rows of a table below its head; one for anything else. */
const rowsIn = (path: string, bytes: Uint8Array): number =>
  path.endsWith(".csv") ? Math.max(0, sizeOfTable(bytes).lines - 1) : 1;

const sha256 = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");
