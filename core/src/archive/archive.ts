import Papa from "papaparse";
import { Archive, BoxInput, ComponentInput } from "../contract/index.ts";

/** The files of an archive: path → text. The same layout stands in a folder, as the demo does. */
export type Files = Record<string, string>;

export interface ArchiveFault {
  file: string;
  detail: string;
}

const COMPONENT_COLUMNS = [
  "id", "code", "name", "kind", "shape", "colour", "finish", "base_unit", "along_mm", "across_mm", "hole_mm", "link_mm",
  "per_gram", "pack", "pack_quantity", "price",
] as const;
const STOCK_COLUMNS = ["request_key", "at", "component", "kind", "quantity", "note"] as const;

/** Writes a workshop as open files: tables as CSV (RFC 4180), designs and boxes as JSON, each in a fixed order. */
export function writeArchive(archive: Archive): Files {
  const { workshop, components, stock, designs, boxes } = Archive.parse(archive);
  const files: Files = {
    "workshop.json": json({ format: "jar-count/workshop", version: 1, ...workshop }),
    "components.csv": csv(
      COMPONENT_COLUMNS,
      components.map((c) => [
        c.id, c.code, c.name, c.kind, c.shape, c.colour, c.finish, c.baseUnit, c.alongMm, c.acrossMm, c.holeMm, c.linkMm,
        c.perGram, c.offer?.pack, c.offer?.quantity, c.offer?.price,
      ]),
    ),
    "stock.csv": csv(STOCK_COLUMNS, stock.map((s) => [s.requestKey, s.at, s.component, s.kind, s.quantity, s.note])),
  };
  for (const design of designs) files[`designs/${design.id}.json`] = json(design);
  for (const box of boxes) files[`boxes/${box.id}.json`] = json(box);
  return files;
}

/** Reads an archive's files. Nothing of it is used unless all of it can be read: each fault is told with its file and line. */
export function readArchive(files: Files): { archive: Archive } | { faults: ArchiveFault[] } {
  const faults: ArchiveFault[] = [];
  const fault = (file: string, detail: string) => faults.push({ file, detail });
  const parsed = (file: string): Record<string, unknown> => {
    try {
      const value: unknown = JSON.parse(files[file] ?? "");
      if (value && typeof value === "object" && !Array.isArray(value)) return value as Record<string, unknown>;
      fault(file, "A JSON object was expected.");
    } catch {
      fault(file, files[file] === undefined ? "This file is missing." : "This is not JSON.");
    }
    return {};
  };
  const { format, version, ...workshop } = parsed("workshop.json");
  if (format !== "jar-count/workshop" || version !== 1) fault("workshop.json", "This is not a Jar Count workshop of version 1.");

  const under = (folder: string) => Object.keys(files).filter((f) => f.startsWith(folder) && f.endsWith(".json")).sort();
  const [designFiles, boxFiles] = [under("designs/"), under("boxes/")];
  const raw = {
    workshop,
    components: table(files, "components.csv", COMPONENT_COLUMNS, fault).map((row) => ({
      id: row.id, code: row.code, name: row.name, kind: row.kind, shape: row.shape || null, colour: row.colour,
      finish: row.finish, baseUnit: row.base_unit, alongMm: number(row.along_mm), acrossMm: number(row.across_mm),
      holeMm: number(row.hole_mm), linkMm: number(row.link_mm), perGram: number(row.per_gram),
      offer: row.pack ? { pack: row.pack, quantity: number(row.pack_quantity), price: row.price } : null,
    })),
    stock: table(files, "stock.csv", STOCK_COLUMNS, fault).map((row) => ({
      requestKey: row.request_key, at: row.at, component: row.component, kind: row.kind, quantity: number(row.quantity), note: row.note,
    })),
    designs: designFiles.map(parsed),
    boxes: boxFiles.map(parsed),
  };
  if (faults.length > 0) return { faults };

  const found = Archive.safeParse(raw);
  if (!found.success) {
    for (const { path, message } of found.error.issues.slice(0, 100)) {
      const [list, index, ...rest] = path;
      const i = Number(index);
      const file =
        list === "components" || list === "stock" ? `${list}.csv` : list === "designs" ? designFiles[i]! : list === "boxes" ? boxFiles[i]! : "workshop.json";
      fault(file, `${list === "components" || list === "stock" ? `line ${i + 2}, ` : ""}${rest.join(" › ") || String(index ?? "")}: ${message}`);
    }
    return { faults };
  }
  const archive = found.data;
  checkReferences(archive, designFiles, boxFiles, fault);
  return faults.length > 0 ? { faults } : { archive };
}

/** What the contracts of single files can't see: what one file names in another. */
function checkReferences(archive: Archive, designFiles: string[], boxFiles: string[], fault: (file: string, detail: string) => void) {
  const components = new Set(archive.components.map((c) => c.id));
  const codes = new Set<string>();
  archive.components.forEach((c, i) => {
    if (codes.has(c.code.toLowerCase())) fault("components.csv", `line ${i + 2}: the code ${c.code} is there twice.`);
    codes.add(c.code.toLowerCase());
    for (const issue of ComponentInput.safeParse({ ...c, id: undefined }).error?.issues ?? []) {
      if (issue.code === "custom") fault("components.csv", `line ${i + 2}, ${issue.path.join(" › ")}: ${issue.message}`);
    }
  });
  if (components.size < archive.components.length) fault("components.csv", "An id is there twice.");
  archive.stock.forEach((s, i) => {
    if (!components.has(s.component)) fault("stock.csv", `line ${i + 2}: there is no component ${s.component}.`);
  });
  const revisions = new Set<string>();
  archive.designs.forEach((design, i) => {
    design.revisions.forEach(({ no }, j) => {
      if (no !== j + 1) fault(designFiles[i]!, "Revisions count from 1 without a gap.");
      revisions.add(`${design.id} ${no}`);
    });
  });
  archive.boxes.forEach(({ id: _id, ...box }, i) => {
    const file = boxFiles[i]!;
    for (const issue of BoxInput.safeParse(box).error?.issues ?? []) fault(file, `${issue.path.join(" › ")}: ${issue.message}`);
    for (const line of box.lines) {
      if (!revisions.has(`${line.designId} ${line.revision}`)) fault(file, `There is no revision ${line.revision} of the design ${line.designId}.`);
    }
    for (const pick of box.picks) if (!components.has(pick.component)) fault(file, `There is no component ${pick.component}.`);
  });
}

function table<C extends string>(files: Files, file: string, columns: readonly C[], fault: (file: string, detail: string) => void): Record<C, string>[] {
  const text = files[file];
  if (text === undefined) {
    fault(file, "This file is missing.");
    return [];
  }
  const { data, errors, meta } = Papa.parse<Record<C, string>>(text, { header: true, skipEmptyLines: true });
  for (const { row, message } of errors.slice(0, 20)) fault(file, `line ${(row ?? 0) + 2}: ${message}.`);
  const missing = columns.filter((c) => !meta.fields?.includes(c));
  if (missing.length > 0) fault(file, `The column ${missing.join(", ")} is missing.`);
  return missing.length > 0 ? [] : data;
}

const number = (cell: string | undefined) => (cell === undefined || cell.trim() === "" ? null : Number(cell));
const csv = (fields: readonly string[], data: unknown[][]) => `${Papa.unparse({ fields: [...fields], data }, { newline: "\r\n" })}\r\n`;
const json = (value: unknown) => `${JSON.stringify(value, null, 2)}\n`;
