import Papa from "papaparse";
import { Archive, BoxInput } from "../contract/index.ts";

/** The files of an archive: path → text. The same layout stands in a folder, as the demo does. */
export type Files = Record<string, string>;

export interface ArchiveFault {
  file: string;
  detail: string;
}

type Column = readonly [column: string, field: string, kind: "text" | "number" | "list" | "flag"];
const text = (column: string, field = column): Column => [column, field, "text"];
const num = (column: string, field = column): Column => [column, field, "number"];

/** Each table's file, its columns, and the field of the contract that a column is. */
const TABLES = {
  components: [
    text("id"),
    text("code"),
    text("name"),
    text("kind"),
    text("form"),
    text("colour"),
    text("finish"),
    text("transparency"),
    text("material"),
    text("metal"),
    text("base_unit", "baseUnit"),
    text("size"),
    num("along_mm", "alongMm"),
    num("across_mm", "acrossMm"),
    num("hole_mm", "holeMm"),
    num("link_mm", "linkMm"),
    num("coil_mm", "coilMm"),
    num("diameter_mm", "diameterMm"),
    num("length_mm", "lengthMm"),
    num("inner_mm", "innerMm"),
    num("break_kg", "breakKg"),
    num("holes"),
    num("per_gram", "perGram"),
    num("per_gram_u", "perGramU"),
    num("mass_g", "massG"),
    num("reorder_at", "reorderAt"),
    ["cautions", "cautions", "list"],
    text("notes"),
  ],
  offers: [
    text("component"),
    text("supplier"),
    text("pack"),
    num("amount"),
    text("unit"),
    text("price"),
    text("steps"),
    num("minimum"),
    num("lead_days", "leadDays"),
  ],
  people: [text("id"), text("name")],
  suppliers: [text("id"), text("name"), num("lead_days", "leadDays")],
  places: [text("id"), text("code"), text("name"), ["held", "held", "flag"]],
  jars: [text("component"), text("place"), num("tare_g", "tareG")],
  lots: [
    text("component"),
    text("lot"),
    num("mass_g", "massG"),
    num("mass_u", "massU"),
    num("mass_sd", "massSd"),
    num("pieces"),
  ],
  ledger: [
    text("request_key", "requestKey"),
    text("at"),
    text("kind"),
    text("person"),
    text("note"),
    text("reverses"),
    num("minutes"),
    text("component"),
    text("place"),
    text("lot"),
    num("stretch_mm", "stretchMm"),
    num("quantity"),
    num("counted"),
    num("u"),
    num("u2_after", "varianceAfter"),
    text("value"),
    text("cost"),
    text("entered"),
  ],
  setAside: [text("id"), text("component"), text("purpose"), num("quantity"), num("cut_mm", "cutMm"), text("at")],
} as const satisfies Record<string, readonly Column[]>;
type Table = keyof typeof TABLES;
const FILE = (table: Table) => (table === "setAside" ? "set-aside.csv" : `${table}.csv`);
/** Texts that may be empty; any other empty cell stands for nothing. */
const MAY_BE_EMPTY = new Set(["note", "lot", "entered", "notes"]);

/** Price steps in one cell: `10: 3.20; 50: 2.90`. */
const sayStepsOf = (steps: readonly { from: number; price: string }[]) =>
  steps.map((s) => `${s.from}: ${s.price}`).join("; ");
const readSteps = (cell: string) =>
  cell
    .split(";")
    .map((s) => s.trim())
    .filter(Boolean)
    .map((s) => ({ from: Number(s.split(":")[0]), price: (s.split(":")[1] ?? "").trim() }));

/**
 * Writes a workshop as open files: tables as CSV (RFC 4180), designs, boxes and orders as JSON, each in a fixed
 * order.
 */
export function writeArchive(archive: Archive): Files {
  const { workshop, designs, boxes, orders, ...tables } = Archive.parse(archive);
  const offers = tables.components.flatMap((c) =>
    c.offers.map((o) => ({ ...o, component: c.id, steps: sayStepsOf(o.steps) })),
  );
  const files: Files = { "workshop.json": json({ format: "jar-count/workshop", version: 2, ...workshop }) };
  for (const table of Object.keys(TABLES) as Table[]) {
    const rows = (table === "offers" ? offers : tables[table]) as readonly Record<string, unknown>[];
    files[FILE(table)] = csv(
      TABLES[table].map((c) => c[0]),
      rows.map((row) => TABLES[table].map(([, field, kind]) => cellOf(row[field], kind))),
    );
  }
  for (const design of designs) files[`designs/${design.id}.json`] = json(design);
  for (const box of boxes) files[`boxes/${box.id}.json`] = json(box);
  for (const order of orders) files[`orders/${order.id}.json`] = json(order);
  return files;
}

const cellOf = (value: unknown, kind: Column[2]) =>
  kind === "list" ? (value as string[]).join("; ") : kind === "flag" ? (value ? "yes" : "") : value;
const valueOf = (cell: string | undefined, [, field, kind]: Column) => {
  const said = cell ?? "";
  if (kind === "list")
    return said
      .split(";")
      .map((s) => s.trim())
      .filter(Boolean);
  if (kind === "flag") return /^(yes|true|1)$/i.test(said.trim());
  if (kind === "number") return number(said);
  return said === "" && !MAY_BE_EMPTY.has(field) ? undefined : said;
};

/**
 * Reads an archive's files. Nothing of it is used unless all of it can be read: each fault is named with its file and
 * line.
 */
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
  if (format !== "jar-count/workshop" || version !== 2)
    fault("workshop.json", "This is not a Jar Count workshop of version 2.");

  const under = (folder: string) =>
    Object.keys(files)
      .filter((f) => f.startsWith(folder) && f.endsWith(".json"))
      .sort();
  const [designFiles, boxFiles, orderFiles] = [under("designs/"), under("boxes/"), under("orders/")];
  const rows = (name: Table): Record<string, unknown>[] =>
    table(
      files,
      FILE(name),
      TABLES[name].map((c) => c[0]),
      fault,
    ).map((row) => Object.fromEntries(TABLES[name].map((c) => [c[1], valueOf(row[c[0]], c)])));
  const offers = new Map<unknown, Record<string, unknown>[]>();
  for (const { component, ...offer } of rows("offers"))
    offers.set(component, [
      ...(offers.get(component) ?? []),
      { ...offer, steps: readSteps(String(offer.steps ?? "")) },
    ]);
  const { components, ...lists } = Object.fromEntries(
    (Object.keys(TABLES) as Table[]).filter((t) => t !== "offers").map((t) => [t, rows(t)]),
  ) as Record<Table, Record<string, unknown>[]>;
  const raw = {
    workshop,
    ...lists,
    components: components.map((c) => ({ ...c, offers: offers.get(c.id) ?? [] })),
    designs: designFiles.map(parsed),
    boxes: boxFiles.map(parsed),
    orders: orderFiles.map(parsed),
  };
  if (faults.length > 0) return { faults };

  const found = Archive.safeParse(raw);
  if (!found.success) {
    for (const { path, message } of found.error.issues.slice(0, 100)) {
      const [list, index, ...rest] = path;
      const i = Number(index);
      const named = { designs: designFiles, boxes: boxFiles, orders: orderFiles }[list as string]?.[i];
      const inTable = typeof list === "string" && list in TABLES;
      const file = named ?? (inTable ? FILE(list as Table) : "workshop.json");
      fault(file, `${inTable ? `line ${i + 2}, ` : ""}${rest.join(" › ") || String(index ?? "")}: ${message}`);
    }
    return { faults };
  }
  const archive = found.data;
  checkReferences(archive, designFiles, boxFiles, fault);
  return faults.length > 0 ? { faults } : { archive };
}

/** What the contracts of single files can't see: what one file names in another. */
function checkReferences(
  archive: Archive,
  designFiles: string[],
  boxFiles: string[],
  fault: (file: string, detail: string) => void,
) {
  const components = new Set(archive.components.map((c) => c.id));
  const codes = new Set<string>();
  archive.components.forEach((c, i) => {
    if (codes.has(c.code.toLowerCase())) fault("components.csv", `line ${i + 2}: the code ${c.code} is there twice.`);
    codes.add(c.code.toLowerCase());
  });
  if (components.size < archive.components.length) fault("components.csv", "An id is there twice.");
  const [people, suppliers, places] = [archive.people, archive.suppliers, archive.places].map(
    (list) => new Set(list.map((x) => x.id)),
  ) as [Set<string>, Set<string>, Set<string>];
  const entries = new Set<string>();
  archive.ledger.forEach((line, i) => {
    const at = `line ${i + 2}: there is no`;
    if (!components.has(line.component)) fault("ledger.csv", `${at} component ${line.component}.`);
    if (!places.has(line.place)) fault("ledger.csv", `${at} place ${line.place}.`);
    if (line.person != null && !people.has(line.person)) fault("ledger.csv", `${at} person ${line.person}.`);
    if (line.reverses != null && !entries.has(line.reverses))
      fault("ledger.csv", `${at} entry ${line.reverses} before it, to be reversed.`);
    entries.add(line.requestKey);
  });
  for (const [file, list] of [
    ["jars.csv", archive.jars],
    ["lots.csv", archive.lots],
    ["set-aside.csv", archive.setAside],
  ] as const) {
    list.forEach((row, i) => {
      if (!components.has(row.component)) fault(file, `line ${i + 2}: there is no component ${row.component}.`);
      if ("place" in row && !places.has(row.place)) fault(file, `line ${i + 2}: there is no place ${row.place}.`);
    });
  }
  archive.components.forEach((c) =>
    c.offers.forEach((o) => {
      if (o.supplier != null && !suppliers.has(o.supplier))
        fault("offers.csv", `${c.code}: there is no supplier ${o.supplier}.`);
    }),
  );
  archive.orders.forEach((order) => {
    const file = `orders/${order.id}.json`;
    if (!suppliers.has(order.supplier)) fault(file, `There is no supplier ${order.supplier}.`);
    for (const line of order.lines)
      if (!components.has(line.component)) fault(file, `There is no component ${line.component}.`);
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
    for (const issue of BoxInput.safeParse(box).error?.issues ?? [])
      fault(file, `${issue.path.join(" › ")}: ${issue.message}`);
    for (const line of box.lines) {
      if (!revisions.has(`${line.designId} ${line.revision}`))
        fault(file, `There is no revision ${line.revision} of the design ${line.designId}.`);
    }
    for (const pick of box.picks)
      if (!components.has(pick.component)) fault(file, `There is no component ${pick.component}.`);
  });
}

function table<C extends string>(
  files: Files,
  file: string,
  columns: readonly C[],
  fault: (file: string, detail: string) => void,
): Record<C, string>[] {
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

const number = (cell: string) => (cell.trim() === "" ? null : Number(cell));
const csv = (fields: readonly string[], data: unknown[][]) =>
  `${Papa.unparse({ fields: [...fields], data }, { newline: "\r\n" })}\r\n`;
const json = (value: unknown) => `${JSON.stringify(value, null, 2)}\n`;
