import { filledIn } from "../component/index.ts";
import {
  codeKey,
  type Component,
  ComponentInput,
  type Form,
  FORMS,
  type Intake,
  Offer,
  type Place,
  type Sale,
} from "../contract/index.ts";
import { COVERAGE_95, digestOf, inSteps, readLength } from "../units/index.ts";
import { unfitFor } from "../stock/index.ts";
import { COMPONENT_FIELDS, INTAKE_COLUMNS } from "./columns.ts";
import { type DecimalMark, decimalMarkOf, moneyOf, numberOf } from "./read.ts";
import { type KnownSales, salesReader } from "./sales.ts";

/** A row of a file, by the names of our columns; empty cells may be left out. */
export type IntakeRow = Readonly<Record<string, string>>;

export interface IntakeKnown {
  components: readonly Component[];
  places: readonly Place[];
  suppliers: readonly { id: string; name: string }[];
  /** What sales are held against; needed for a table of sales alone. */
  sold?: KnownSales;
}

/** What is to be done with a row. `refused` rows have their faults, and a supplier that they name and nobody knows. */
export type PlannedRow =
  | { status: "refused"; faults: string[]; what: string; supplier?: string }
  | ({ status: "new" | "changed" | "same"; what: string } & Planned);
export type Planned =
  | { kind: "components"; id: string | null; component: ComponentInput }
  | { kind: "offers"; id: string; offer: Offer }
  | { kind: "sales"; sale: Sale }
  | {
      kind: "deliveries" | "counts";
      id: string;
      quantity: number;
      stretchMm: number | null;
      place: string | null;
      lot: string;
      note: string;
      cost: string | null;
      u: number;
    };

/** What was decided about rows, as one short name: the same rows judged by the same workshop have the same. */
export const seenOf = (rows: readonly PlannedRow[]): string =>
  digestOf(rows.map((row) => digestOf(JSON.stringify(row))).join(" "));

/**
 * Makes a reader of rows for one table: each row in turn is something new, something changed, nothing new, or is
 * refused with what to mend. A file that names a new code twice is refused at the second.
 * @param mark the decimal mark of all of its numbers
 */
export function intakeOf(kind: Intake, known: IntakeKnown, mark: DecimalMark): (row: IntakeRow) => PlannedRow {
  const byCode = new Map(known.components.map((c) => [codeKey(c.code), c]));
  const seen = new Set<string>();
  const offersOf = new Map<string, readonly Offer[]>();
  const placeOf = new Map(
    known.places.flatMap((p) => [
      [p.code.toLowerCase(), p.id],
      [p.name.toLowerCase(), p.id],
    ]),
  );
  const supplierOf = new Map(known.suppliers.map((s) => [s.name.toLowerCase(), s.id]));
  const columns = INTAKE_COLUMNS[kind];
  const saleOf = salesReader(known.sold ?? { sales: [], boxes: [] }, mark);

  return (raw) => {
    const row: Record<string, string> = {};
    for (const { name } of columns) {
      const text = raw[name]?.trim();
      if (text) row[name] = text;
    }
    const faults = columns
      .filter(
        (c) =>
          c.required &&
          row[c.name] === undefined &&
          !(kind === "components" && c.name === "name" && byCode.has(codeKey(row.code ?? ""))),
      )
      .map((c) => `${c.name}: this is empty.`);
    for (const { name, oneOf } of columns) {
      const text = row[name];
      if (!oneOf || text === undefined) continue;
      const wrong = (name === "cautions" ? listOf(text) : [text]).filter((t) => !oneOf.includes(t.toLowerCase()));
      if (wrong.length > 0)
        faults.push(
          `${name}: “${wrong[0]!.slice(0, 40)}” is none of ` +
            `${oneOf.slice(0, 12).join(", ")}${oneOf.length > 12 ? " …" : ""}.`,
        );
    }
    const what = (row.code ?? row.order ?? "").slice(0, 40);
    if (faults.length > 0) return { status: "refused", faults, what };
    const refused = (...found: string[]): PlannedRow => ({ status: "refused", faults: found, what });
    if (kind === "sales") {
      const { faults: wrong, ...found } = saleOf(row);
      return wrong.length > 0 ? refused(...wrong) : { ...found, kind };
    }
    const code = codeKey(row.code!);
    const component = byCode.get(code);

    if (kind === "components") {
      if (seen.has(code)) return refused(`code: ${row.code} is in this file twice.`);
      seen.add(code);
      return componentRow(row, component, what, mark);
    }
    if (!component)
      return refused(`code: there is no component ${row.code!.slice(0, 40)}. Bring the components in first.`);
    if (kind === "offers") {
      const offer = offerRow(row, component, supplierOf, mark);
      if (Array.isArray(offer)) {
        const unknown = row.supplier !== undefined && !supplierOf.has(row.supplier.toLowerCase());
        return { ...refused(...offer), ...(unknown ? { supplier: row.supplier } : {}) } as PlannedRow;
      }
      // As the rows before it leave them.
      const offers = offersOf.get(component.id) ?? component.offers;
      const at = offerMeant(offers, offer);
      const same = offers[at];
      offersOf.set(component.id, same ? offers.with(at, offer) : [...offers, offer]);
      const status = !same ? "new" : saysTheSame(same, offer) ? "same" : "changed";
      return { status, what: `${what}: ${offer.pack}`, kind, id: component.id, offer };
    }
    return stockRow(row, kind, component);
  };

  function stockRow(row: Record<string, string>, as: "deliveries" | "counts", component: Component): PlannedRow {
    const faults: string[] = [];
    const what = component.code;
    const linear = component.baseUnit === "mm";
    const quantity = numberOf(row.quantity!, mark);
    const long = row["piece length"] === undefined ? null : lengthOf(row["piece length"], mark);
    const stretchMm = long === null ? null : inSteps(long, "mm");
    if (quantity === null || quantity < 0 || (as === "deliveries" && quantity === 0))
      faults.push(
        `quantity: “${row.quantity!.slice(0, 30)}” is no number of ` +
          (as === "counts" ? "0 or more." : "more than 0."),
      );
    else if (quantity > 1e9) faults.push("quantity: at most 1,000,000,000.");
    if (linear && !(stretchMm! > 0))
      faults.push("piece length: this is kept by length; say how long each piece is, such as 30ft.");
    if (!linear && stretchMm !== null) faults.push("piece length: this is not kept by length.");
    else if (quantity !== null && (!linear || stretchMm! > 0)) {
      const unfit = unfitFor(component, linear ? stretchMm! : 0, quantity);
      if (unfit) faults.push(`quantity: ${unfit}`);
    }
    const place = row.place === undefined ? null : (placeOf.get(row.place.toLowerCase()) ?? undefined);
    if (place === undefined) faults.push(`place: there is no place “${row.place!.slice(0, 30)}”.`);
    const plusMinus = row["plus minus"] === undefined ? 0 : numberOf(row["plus minus"], mark);
    if (plusMinus === null || plusMinus < 0) faults.push("plus minus: this is no number.");
    const cost = row.cost === undefined ? null : moneyOf(row.cost, mark);
    if (cost === undefined) faults.push(`cost: “${row.cost!.slice(0, 30)}” is no amount such as 4.20.`);
    if ((row.lot ?? "").length > 40) faults.push("lot: at most 40 characters.");
    if ((row.note ?? "").length > 500) faults.push("note: at most 500 characters.");
    if (faults.length > 0) return { status: "refused", faults, what };
    return {
      status: "new",
      what,
      kind: as,
      id: component.id,
      quantity: quantity!,
      stretchMm,
      place: place ?? null,
      lot: row.lot ?? "",
      note: row.note ?? "",
      cost: cost ?? null,
      u: plusMinus! / COVERAGE_95,
    };
  }
}

/** What a new component is where its row doesn't say: its form's kind and unit, a grey opaque thing. */
function componentRow(
  row: Record<string, string>,
  before: Component | undefined,
  what: string,
  mark: DecimalMark,
): PlannedRow {
  const said: Partial<Record<keyof ComponentInput, unknown>> = {};
  for (const [name, text] of Object.entries(row)) {
    const [field, as] = COMPONENT_FIELDS[name]!;
    const oneOf = INTAKE_COLUMNS.components.find((c) => c.name === name)?.oneOf;
    said[field] =
      as === "number"
        ? (numberOf(text, mark) ?? NaN)
        : as === "length"
          ? (lengthOf(text, mark) ?? NaN)
          : as === "list"
            ? listOf(text).map((t) => t.toLowerCase())
            : oneOf
              ? text.toLowerCase()
              : text;
  }
  const base = before ? inputOf(before) : {};
  const merged = { ...base, ...said };
  const form = (FORMS as readonly unknown[]).includes(merged.form) ? (merged.form as Form) : null;
  const filled =
    before || !form
      ? merged
      : {
          ...merged,
          ...filledIn(merged as Partial<ComponentInput>, form, (merged.size as string | undefined) ?? null),
        };
  const found = ComponentInput.safeParse({
    colour: "#8a8f94",
    finish: "opaque",
    kind: "bead",
    baseUnit: "piece",
    ...filled,
  });
  if (!found.success) {
    const names = new Map(Object.entries(COMPONENT_FIELDS).map(([name, [field]]) => [field as string, name]));
    return {
      status: "refused",
      what,
      faults: found.error.issues
        .slice(0, 5)
        .map((i) => `${names.get(String(i.path[0])) ?? i.path.join(" ")}: ${inWords(i)}`),
    };
  }
  if (before?.moved && before.baseUnit !== found.data.baseUnit)
    return { status: "refused", what, faults: [`unit: stock has moved in ${before.baseUnit}, so the unit is fixed.`] };
  const status = !before
    ? "new"
    : JSON.stringify(ComponentInput.parse(base)) === JSON.stringify(found.data)
      ? "same"
      : "changed";
  return {
    status,
    what: `${what}: ${found.data.name}`,
    kind: "components",
    id: before?.id ?? null,
    component: found.data,
  };
}

const FIELDS = Object.keys(ComponentInput.shape) as (keyof ComponentInput)[];
const inputOf = (c: Component) =>
  Object.fromEntries(FIELDS.filter((f) => c[f] !== undefined).map((f) => [f, c[f]])) as ComponentInput;

const TO_MM: Record<string, number> = { ft: 304.8, m: 1000, in: 25.4 };

function offerRow(
  row: Record<string, string>,
  component: Component,
  suppliers: ReadonlyMap<string, string>,
  mark: DecimalMark,
): Offer | string[] {
  const faults: string[] = [];
  const supplier = row.supplier === undefined ? null : suppliers.get(row.supplier.toLowerCase());
  if (supplier === undefined) faults.push(`supplier: there is no supplier “${row.supplier!.slice(0, 40)}” yet.`);
  const unit = (row["pack unit"] ?? component.baseUnit).toLowerCase();
  const amount = numberOf(row["pack holds"]!, mark) ?? NaN;
  const price = moneyOf(row.price!, mark);
  const found = Offer.safeParse({
    supplier: supplier ?? null,
    pack: row.pack,
    amount: amount * (TO_MM[unit] ?? 1),
    unit: unit in TO_MM ? "mm" : unit,
    price: price ?? "",
    steps: [],
    minimum: row.minimum === undefined ? 1 : (numberOf(row.minimum, mark) ?? NaN),
    leadDays: row["lead days"] === undefined ? null : (numberOf(row["lead days"], mark) ?? NaN),
  });
  const called: Record<string, string> = { amount: "pack holds", unit: "pack unit", leadDays: "lead days" };
  if (!found.success)
    faults.push(...found.error.issues.map((i) => `${called[String(i.path[0])] ?? String(i.path[0])}: ${inWords(i)}`));
  return faults.length > 0 || !found.success ? faults : found.data;
}

/** The columns of each table that hold numbers. */
const NUMBERS: Readonly<Record<Intake, readonly string[]>> = {
  components: Object.entries(COMPONENT_FIELDS).flatMap(([name, [, as]]) =>
    as === "number" || as === "length" ? [name] : [],
  ),
  offers: ["pack holds", "price", "minimum", "lead days"],
  deliveries: ["quantity", "piece length", "cost"],
  counts: ["quantity", "piece length", "plus minus"],
  sales: ["quantity", "paid", "offered"],
};

/** Which mark the numbers of a table are written with; null where a person must say it. */
export function markOfTable(kind: Intake, rows: readonly IntakeRow[]): DecimalMark | null {
  function* cells() {
    for (const row of rows) {
      for (const name of NUMBERS[kind]) {
        // The unit behind a length is no part of its number.
        const text = row[name]?.trim().replace(/[\p{L}"″”]+$/u, "");
        if (text) yield text;
      }
    }
  }
  return decimalMarkOf(cells());
}

/** A length by the mark of its table, mm; null for none. Fractions of an inch have no mark. */
function lengthOf(text: string, mark: DecimalMark): number | null {
  const [, number, unit] = /^([+-]?[\d.,\s'’]+?)\s*(\p{L}*|["″”])$/u.exec(text.trim()) ?? [];
  if (number === undefined) return readLength(text, "mm");
  const n = numberOf(number, mark);
  return n === null ? null : readLength(`${n}${unit ?? ""}`, "mm");
}

/**
 * Which of a component's packs a row of a table means: the same pack of the same supplier, else the same pack that
 * names nobody yet, which the row fills in. @returns its place, -1 where it is a new one
 */
export function offerMeant(offers: readonly Offer[], row: Offer): number {
  const isPack = (o: Offer) => o.pack.toLowerCase() === row.pack.toLowerCase();
  const its = offers.findIndex((o) => isPack(o) && (o.supplier ?? null) === (row.supplier ?? null));
  return its >= 0 ? its : offers.findIndex((o) => isPack(o) && o.supplier == null);
}

/** Whether a row says what is known of a pack already. A table has no price steps: those that are known stay. */
const saysTheSame = (known: Offer, row: Offer) =>
  known.pack === row.pack &&
  (known.supplier ?? null) === (row.supplier ?? null) &&
  known.amount === row.amount &&
  known.unit === row.unit &&
  known.minimum === row.minimum &&
  (known.leadDays ?? null) === (row.leadDays ?? null) &&
  Number(known.price) === Number(row.price);

const listOf = (text: string) =>
  text
    .split(/[;|]/)
    .map((t) => t.trim())
    .filter(Boolean);

/** What is wrong with a cell, where the schema has no words of its own for it. */
const inWords = ({ message }: { message: string }) => (/invalid input/i.test(message) ? "this is no number." : message);
