import Papa from "papaparse";
import { Archive, BoxInput, codeKey, type Summary } from "../contract/index.ts";
import { sumOfMoney } from "../cost/index.ts";
import { digestOf } from "../units/index.ts";

/** The files of an archive: path → text. The same layout stands in a folder, as the demo does. */
export type Files = Record<string, string>;

export interface ArchiveFault {
  file: string;
  detail: string;
}

/**
 * The version that is written; older ones are read as well: 2 without manifest, books and versions, 3 without runs, 4
 * without packing, 5 without prices and sales, 6 without ruler and time zone, 7 without components put away.
 */
const VERSION = 8;
const OLDER: readonly unknown[] = [2, 3, 4, 5, 6, 7];
/** The first version with books that can be held against the ledger. */
const WITH_BOOKS = 3;
/** So many faults are named; a file that is wrong throughout has one a line. */
const MOST_FAULTS = 1000;

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
    num("thick_mm", "thickMm"),
    num("break_kg", "breakKg"),
    num("holes"),
    num("per_gram", "perGram"),
    num("per_gram_u", "perGramU"),
    num("mass_g", "massG"),
    num("reorder_at", "reorderAt"),
    ["cautions", "cautions", "list"],
    text("notes"),
    ["away", "away", "flag"],
    num("version"),
  ],
  offers: [
    text("id"),
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
    num("balance"),
    text("order_line", "orderLine"),
    text("run"),
    text("need"),
  ],
  balances: [
    text("component"),
    text("place"),
    text("lot"),
    num("stretch_mm", "stretchMm"),
    num("quantity"),
    num("variance"),
  ],
  totals: [
    text("component"),
    num("on_hand", "onHand"),
    text("value"),
    text("last_cost", "lastCost"),
    num("variance"),
    num("held"),
    num("spoken_for", "spokenFor"),
    num("on_the_way", "onTheWay"),
  ],
  setAside: [
    text("id"),
    text("component"),
    text("purpose"),
    num("quantity"),
    num("cut_mm", "cutMm"),
    text("at"),
    text("person"),
    text("released"),
    text("need"),
    text("order_line", "orderLine"),
  ],
  sales: [
    text("source"),
    text("order"),
    text("line"),
    text("kind"),
    text("day"),
    text("month"),
    text("theme"),
    text("colourway"),
    text("second"),
    num("quantity"),
    text("paid"),
    num("offered"),
    text("box"),
    text("variant"),
  ],
  requests: [text("key"), text("hash"), text("at"), text("answer")],
} as const satisfies Record<string, readonly Column[]>;
type Table = keyof typeof TABLES;
const FILE = (table: Table) => (table === "setAside" ? "set-aside.csv" : `${table}.csv`);
/** Tables and columns that came with a version: an older archive does not have them. */
const NEW_TABLES: Partial<Record<Table, number>> = { balances: 3, totals: 3, requests: 3, sales: 6 };
const NEW_COLUMNS: Partial<Record<Table, Readonly<Record<string, number>>>> = {
  components: { version: 3, thick_mm: 6, away: 8 },
  offers: { id: 4 },
  ledger: { balance: 3, order_line: 3, run: 5, need: 5 },
  setAside: { person: 3, released: 3, need: 4, order_line: 4 },
};
/** Texts that may be empty; any other empty cell stands for nothing. */
const MAY_BE_EMPTY = new Set(["note", "lot", "entered", "notes", "line", "colourway", "second"]);

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
  const { workshop, money, designs, boxes, orders, stocktakes, runs, ...tables } = Archive.parse(archive);
  const offers = tables.components.flatMap((c) =>
    c.offers.map((o) => ({ ...o, component: c.id, steps: sayStepsOf(o.steps) })),
  );
  const files: Files = { "workshop.json": json({ format: "jar-count/workshop", version: VERSION, ...workshop }) };
  files["money.json"] = json(money);
  for (const table of Object.keys(TABLES) as Table[]) {
    const rows = (table === "offers" ? offers : tables[table]) as readonly Record<string, unknown>[];
    files[FILE(table)] = csv(
      TABLES[table].map((c) => c[0]),
      rows.map((row) => TABLES[table].map(([, field, kind]) => cellOf(row[field], kind))),
    );
  }
  for (const design of designs) files[`designs/${design.id}.json`] = json(design);
  for (const box of boxes) files[`boxes/${box.id}.json`] = json(box);
  for (const run of runs) files[`runs/${run.box}.json`] = json(run);
  for (const order of orders) files[`orders/${order.id}.json`] = json(order);
  for (const walk of stocktakes) files[`stocktakes/${walk.id}.json`] = json(walk);
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
  if (kind === "flag") return /^(yes|true|1)$/i.test(said.trim()) || undefined;
  if (kind === "number") return number(said) ?? (field === "version" ? undefined : null);
  return said === "" && !MAY_BE_EMPTY.has(field) ? undefined : said;
};

/**
 * Reads an archive's files. Nothing of it is used unless all of it can be read: each fault is named with its file and
 * line.
 */
export function readArchive(files: Files): { archive: Archive; older: boolean } | { faults: ArchiveFault[] } {
  const faults: ArchiveFault[] = [];
  const fault = (file: string, detail: string) => void (faults.length < MOST_FAULTS && faults.push({ file, detail }));
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
  if (format !== "jar-count/workshop" || (version !== VERSION && !OLDER.includes(version)))
    fault("workshop.json", `This is not a Jar Count workshop of version ${[...OLDER, VERSION].join(", ")}.`);
  const written = typeof version === "number" ? version : VERSION;
  const older = written < WITH_BOOKS;

  const under = (folder: string) =>
    Object.keys(files)
      .filter((f) => f.startsWith(folder) && f.endsWith(".json"))
      .sort();
  const [designFiles, boxFiles, orderFiles, walkFiles, runFiles] = [
    under("designs/"),
    under("boxes/"),
    under("orders/"),
    under("stocktakes/"),
    under("runs/"),
  ];
  const named = { designs: designFiles, boxes: boxFiles, orders: orderFiles, stocktakes: walkFiles, runs: runFiles };
  const rows = (name: Table): Record<string, unknown>[] => {
    if (written < (NEW_TABLES[name] ?? 0) && files[FILE(name)] === undefined) return [];
    const columns = TABLES[name].map((c) => c[0]);
    const needed = columns.filter((c) => written >= (NEW_COLUMNS[name]?.[c] ?? 0));
    return table(files, FILE(name), needed, fault).map((row) =>
      Object.fromEntries(TABLES[name].map((c) => [c[1], valueOf((row as Record<string, string>)[c[0]], c)])),
    );
  };
  const offers = new Map<unknown, Record<string, unknown>[]>();
  for (const { component, id, ...offer } of rows("offers")) {
    const before = offers.get(component) ?? [];
    // Archives before version 4 hold no ids of offers: each gets the same one whenever it is read.
    const own = id ?? derivedId(`offer ${String(component)} ${before.length}`);
    offers.set(component, [...before, { id: own, ...offer, steps: readSteps(String(offer.steps ?? "")) }]);
  }
  const { components, ...lists } = Object.fromEntries(
    (Object.keys(TABLES) as Table[]).filter((t) => t !== "offers").map((t) => [t, rows(t)]),
  ) as Record<Table, Record<string, unknown>[]>;
  const raw = {
    workshop,
    // Archives before version 6 hold nothing of prices.
    money: written < 6 && files["money.json"] === undefined ? {} : parsed("money.json"),
    ...lists,
    components: components.map((c) => ({ ...c, offers: offers.get(c.id) ?? [] })),
    designs: designFiles.map(parsed),
    boxes: boxFiles.map((file) => withVariantIds(parsed(file))),
    orders: orderFiles.map(parsed),
    stocktakes: walkFiles.map(parsed),
    // Archives before version 5 hold no ids of runs.
    runs: runFiles.map(parsed).map((run) => ({ id: derivedId(`run ${String(run.box)}`), ...run })),
  };
  if (faults.length > 0) return { faults };

  const found = Archive.safeParse(raw);
  if (!found.success) {
    for (const { path, message } of found.error.issues.slice(0, 100)) {
      const [list, index, ...rest] = path;
      const i = Number(index);
      const ofList = (named as Record<string, string[]>)[String(list)]?.[i];
      const inTable = typeof list === "string" && list in TABLES;
      const file = ofList ?? (inTable ? FILE(list as Table) : list === "money" ? "money.json" : "workshop.json");
      fault(file, `${inTable ? `line ${i + 2}, ` : ""}${rest.join(" › ") || String(index ?? "")}: ${message}`);
    }
    return { faults };
  }
  const archive = found.data;
  checkReferences(archive, named, older, fault);
  return faults.length > 0 ? { faults } : { archive, older };
}

/**
 * What an archive holds that its version did not have yet. One without a manifest says for itself which version it is;
 * a newer one that says it is older, so that nothing of it is held against anything, is told by what is in it.
 */
export function beyondItsVersion(files: Files): ArchiveFault[] {
  let version: unknown;
  try {
    ({ version } = JSON.parse(files["workshop.json"] ?? "null") as { version?: unknown });
  } catch {
    return []; // told where it is read
  }
  if (typeof version !== "number") return [];
  const detail = `An archive of version ${version} has no such thing: it was changed, or put together by hand.`;
  const faults: ArchiveFault[] = [];
  for (const file of Object.keys(files)) {
    const since = NEW_FOLDERS.find(([folder]) => file.startsWith(folder))?.[1] ?? 0;
    if (version < since) faults.push({ file, detail });
  }
  for (const table of Object.keys(TABLES) as Table[]) {
    const text = files[FILE(table)];
    if (text === undefined) continue;
    const head = text.slice(0, text.search(/[\r\n]|$/)).split(",");
    const columns = Object.entries(NEW_COLUMNS[table] ?? {}).filter(
      ([name, since]) => version < since && head.includes(name),
    );
    if (version < (NEW_TABLES[table] ?? 0) || columns.length > 0) faults.push({ file: FILE(table), detail });
  }
  return faults;
}
/** Files that came with a version. */
const NEW_FOLDERS: readonly (readonly [string, number])[] = [
  ["runs/", 4],
  ["money.json", 6],
];

/** How much is in an archive, and what its ledger says that it is worth. */
export function summaryOf(archive: Archive): Summary {
  const open = archive.orders.filter((o) => o.lines.some((l) => (o.received[l.id] ?? 0) < l.quantity));
  return {
    name: archive.workshop.name,
    components: archive.components.length,
    designs: archive.designs.length,
    boxes: archive.boxes.length,
    movements: archive.ledger.length,
    value: sumOfMoney(
      archive.ledger.map((line) => line.value),
      archive.workshop.currency,
    ),
    currency: archive.workshop.currency,
    openOrders: open.length,
    lastMoved: archive.ledger.at(-1)?.at ?? null,
  };
}

/** What the contracts of single files can't see: what one file names in another, and what may be there only once. */
function checkReferences(
  archive: Archive,
  named: Record<"designs" | "boxes" | "orders" | "stocktakes" | "runs", string[]>,
  older: boolean,
  fault: (file: string, detail: string) => void,
) {
  /** The ids of a list, each of which may be there once. */
  const idsOf = (file: string, ids: readonly string[]): Set<string> => {
    const seen = new Set<string>();
    for (const id of ids) {
      if (seen.has(id)) fault(file, `The id ${id} is there twice.`);
      seen.add(id);
    }
    return seen;
  };
  const components = idsOf(
    "components.csv",
    archive.components.map((c) => c.id),
  );
  const codes = new Set<string>();
  archive.components.forEach((c, i) => {
    if (codes.has(codeKey(c.code))) fault("components.csv", `line ${i + 2}: the code ${c.code} is there twice.`);
    codes.add(codeKey(c.code));
  });
  const ids = <T extends { id: string }>(file: string, list: readonly T[]) =>
    idsOf(
      file,
      list.map((x) => x.id),
    );
  const people = ids("people.csv", archive.people);
  const suppliers = ids("suppliers.csv", archive.suppliers);
  const places = ids("places.csv", archive.places);
  ids("set-aside.csv", archive.setAside);
  ids("designs", archive.designs);
  ids(
    "designs",
    archive.designs.flatMap((d) => d.trials),
  );
  ids("boxes", archive.boxes);
  ids("orders", archive.orders);
  ids("stocktakes", archive.stocktakes);
  idsOf(
    "requests.csv",
    archive.requests.map((r) => r.key),
  );
  const orderLines = new Map(archive.orders.flatMap((o) => o.lines.map((l) => [l.id, l.component] as const)));
  if (orderLines.size < archive.orders.reduce((sum, o) => sum + o.lines.length, 0)) {
    fault("orders", "A line's id is there twice.");
  }

  const entries = new Set<string>();
  let last = "";
  archive.ledger.forEach((line, i) => {
    const at = `line ${i + 2}:`;
    const none = `${at} there is no`;
    if (!components.has(line.component)) fault("ledger.csv", `${none} component ${line.component}.`);
    if (!places.has(line.place)) fault("ledger.csv", `${none} place ${line.place}.`);
    if (line.person != null && !people.has(line.person)) fault("ledger.csv", `${none} person ${line.person}.`);
    if (line.reverses != null && !entries.has(line.reverses))
      fault("ledger.csv", `${none} entry ${line.reverses} before it, to be reversed.`);
    if (line.orderLine != null && orderLines.get(line.orderLine) !== line.component)
      fault("ledger.csv", `${none} line ${line.orderLine} of an order for this component.`);
    // Older archives wrote movements in the order of their numbers, in which entries may alternate.
    if (!older && line.requestKey !== last && entries.has(line.requestKey))
      fault("ledger.csv", `${at} the lines of the entry ${line.requestKey} do not stand together.`);
    entries.add(line.requestKey);
    last = line.requestKey;
  });
  for (const [file, list] of [
    ["jars.csv", archive.jars],
    ["lots.csv", archive.lots],
    ["balances.csv", archive.balances],
    ["totals.csv", archive.totals],
    ["set-aside.csv", archive.setAside],
  ] as const) {
    list.forEach((row, i) => {
      if (!components.has(row.component)) fault(file, `line ${i + 2}: there is no component ${row.component}.`);
      if ("place" in row && !places.has(row.place)) fault(file, `line ${i + 2}: there is no place ${row.place}.`);
      if ("person" in row && row.person != null && !people.has(row.person))
        fault(file, `line ${i + 2}: there is no person ${row.person}.`);
    });
  }
  archive.components.forEach((c) =>
    c.offers.forEach((o) => {
      if (o.supplier != null && !suppliers.has(o.supplier))
        fault("offers.csv", `${c.code}: there is no supplier ${o.supplier}.`);
    }),
  );
  const channels = idsOf(
    "money.json",
    archive.money.channels.map((c) => c.id),
  );
  archive.boxes.forEach((box, i) => {
    for (const { channel } of box.prices)
      if (!channels.has(channel)) fault(named.boxes[i]!, `There is no channel ${channel}.`);
  });
  const boxes = new Map(archive.boxes.map((b) => [b.id, new Set(b.variants.map((v) => v.id))]));
  const lines = new Set<string>();
  archive.sales.forEach(({ source, order, line, box, variant }, i) => {
    const at = `line ${i + 2}:`;
    const key = JSON.stringify([source, order, line]);
    if (lines.has(key)) fault("sales.csv", `${at} line ${line} of order ${order} is there twice.`);
    lines.add(key);
    if (box != null && !boxes.has(box)) fault("sales.csv", `${at} there is no box ${box}.`);
    else if (variant != null && !boxes.get(box ?? "")?.has(variant))
      fault("sales.csv", `${at} there is no variant ${variant} in its box.`);
  });
  archive.orders.forEach((order, i) => {
    const file = named.orders[i]!;
    if (!suppliers.has(order.supplier)) fault(file, `There is no supplier ${order.supplier}.`);
    for (const line of order.lines)
      if (!components.has(line.component)) fault(file, `There is no component ${line.component}.`);
    for (const line of Object.keys(order.received))
      if (!order.lines.some((l) => l.id === line))
        fault(file, `It received something of a line ${line} that it lacks.`);
  });
  archive.stocktakes.forEach((walk, i) => {
    for (const line of walk.lines)
      if (!components.has(line.component) || !places.has(line.place))
        fault(named.stocktakes[i]!, `There is no jar ${line.component} at ${line.place}.`);
  });
  const revisions = new Set<string>();
  archive.designs.forEach((design, i) => {
    const file = named.designs[i]!;
    design.revisions.forEach(({ no }, j) => {
      if (no !== j + 1) fault(file, "Revisions count from 1 without a gap.");
      revisions.add(`${design.id} ${no}`);
    });
    for (const trial of design.trials) {
      if (!revisions.has(`${design.id} ${trial.revision}`))
        fault(file, `A trial is of no revision: ${trial.revision}.`);
      if (trial.person != null && !people.has(trial.person)) fault(file, `There is no person ${trial.person}.`);
    }
  });
  archive.boxes.forEach(({ id: _id, version: _version, ...box }, i) => {
    const file = named.boxes[i]!;
    for (const issue of BoxInput.safeParse(box).error?.issues ?? [])
      fault(file, `${issue.path.join(" › ")}: ${issue.message}`);
    for (const line of box.lines) {
      if (!revisions.has(`${line.designId} ${line.revision}`))
        fault(file, `There is no revision ${line.revision} of the design ${line.designId}.`);
    }
    for (const pick of box.picks)
      if (!components.has(pick.component)) fault(file, `There is no component ${pick.component}.`);
    for (const content of box.contents)
      if (!components.has(content.component)) fault(file, `There is no component ${content.component}.`);
  });
  const boxIds = new Set(archive.boxes.map((b) => b.id));
  const ofBoxes = new Set<string>();
  const needs = new Map<string, { component: string; left: number }>();
  archive.runs.forEach((run, i) => {
    const file = named.runs[i]!;
    if (!boxIds.has(run.box)) fault(file, `There is no box ${run.box}.`);
    if (ofBoxes.has(run.box)) fault(file, `The box ${run.box} has two runs.`);
    ofBoxes.add(run.box);
    if (run.state !== "planned" && run.bills.length === 0) fault(file, `A run that is ${run.state} has a frozen bill.`);
    if (run.needs.some((n) => (n.variant == null) !== (run.state === "planned")))
      fault(file, "The needs of a planned run are of no variant; those of any other are.");
    if (run.packed.length > 0 && run.state !== "packing" && run.state !== "sent")
      fault(file, `Nothing is packed of a run that is ${run.state}.`);
    for (const { person } of [...run.packed, ...(run.closed ? [run.closed] : [])])
      if (person != null && !people.has(person)) fault(file, `There is no person ${person}.`);
    run.bills.forEach(({ no, person }, j) => {
      if (no !== j + 1) fault(file, "Bills count from 1 without a gap.");
      if (person != null && !people.has(person)) fault(file, `There is no person ${person}.`);
    });
    for (const need of run.needs) {
      if (!components.has(need.component)) fault(file, `There is no component ${need.component}.`);
      if (needs.has(need.id)) fault(file, `The need ${need.id} is there twice.`);
      needs.set(need.id, { component: need.component, left: need.quantity });
    }
  });
  const open = new Map(
    archive.orders.flatMap((o) => o.lines.map((l) => [l.id, l.quantity - (o.received[l.id] ?? 0)] as const)),
  );
  archive.setAside.forEach((r, i) => {
    const at = `line ${i + 2}:`;
    if (r.orderLine != null && r.released == null) {
      const left = (open.get(r.orderLine) ?? 0) - r.quantity * (r.cutMm ?? 1);
      open.set(r.orderLine, left);
      if (left < -1e-6) fault("set-aside.csv", `${at} boxes speak for more of an order's line than is to come.`);
    }
    const need = r.need == null ? null : needs.get(r.need);
    if (r.need != null && need?.component !== r.component)
      fault("set-aside.csv", `${at} there is no need ${r.need} of this component.`);
    if (need) need.left -= r.quantity;
    if (need && need.left < -1e-6) fault("set-aside.csv", `${at} the need ${r.need} is covered twice.`);
    if (r.orderLine != null && orderLines.get(r.orderLine) !== r.component)
      fault("set-aside.csv", `${at} there is no line ${r.orderLine} of an order for this component.`);
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

/** A UUID made from a text (RFC 9562, version 8). The same text gives the same one. */
function derivedId(text: string): string {
  const h = digestOf(text);
  return `${h.slice(0, 8)}-${h.slice(8, 12)}-8${h.slice(13, 16)}-8${h.slice(17, 20)}-${h.slice(20, 32)}`;
}

/** A box of an archive before version 4, whose variants have no ids: each gets the same one whenever it is read. */
function withVariantIds(box: Record<string, unknown>): Record<string, unknown> {
  if (!Array.isArray(box.variants)) return box;
  const variants = (box.variants as unknown[]).map((v) => {
    const { first, second } = (v ?? {}) as { first?: unknown; second?: unknown };
    return { id: derivedId(`variant ${String(box.id)} ${String(first)} ${String(second)}`), ...(v as object) };
  });
  return { ...box, variants };
}

const number = (cell: string) => (cell.trim() === "" ? null : Number(cell));
const csv = (fields: readonly string[], data: unknown[][]) =>
  `${Papa.unparse({ fields: [...fields], data }, { newline: "\r\n" })}\r\n`;
const json = (value: unknown) => `${JSON.stringify(value, null, 2)}\n`;
