import {
  CAUTIONS,
  type ComponentInput,
  FINISHES,
  FORMS,
  MATERIALS,
  METALS,
  TRANSPARENCIES,
  COMPONENT_KINDS,
  BASE_UNITS,
  type Intake,
} from "../contract/index.ts";

export interface IntakeColumn {
  name: string;
  required?: boolean;
  /** How other people head it, in small letters. */
  also?: readonly string[];
  /** Where only some words will do. */
  oneOf?: readonly string[];
}

const col = (name: string, also: string[] = [], more: Partial<IntakeColumn> = {}): IntakeColumn => ({
  name,
  also,
  ...more,
});
const code = col("code", ["sku", "item", "item code", "ref", "reference", "part"], { required: true });
const quantity = col("quantity", ["qty", "amount", "count", "counted", "number", "pieces"], { required: true });
const place = col("place", ["location", "shelf", "bin", "drawer"]);
const lot = col("lot", ["dye lot", "batch"]);
const piece = col("piece length", ["stretch", "stretch_mm", "length each", "spool length"]);

/** The columns of each table, in the order in which they are written out. */
export const INTAKE_COLUMNS: Readonly<Record<Intake, readonly IntakeColumn[]>> = {
  components: [
    code,
    col("name", ["description", "title"], { required: true }),
    col("kind", ["category"], { oneOf: COMPONENT_KINDS }),
    col("form", ["type", "shape"], { oneOf: FORMS }),
    col("colour", ["color", "hex"]),
    col("finish", [], { oneOf: FINISHES }),
    col("transparency", [], { oneOf: TRANSPARENCIES }),
    col("material", [], { oneOf: MATERIALS }),
    col("metal", [], { oneOf: METALS }),
    col("unit", ["base unit", "base_unit", "kept in"], { oneOf: BASE_UNITS }),
    col("size"),
    col("along mm", ["along", "along_mm", "length mm"]),
    col("across mm", ["across", "across_mm", "width mm"]),
    col("hole mm", ["hole", "hole_mm"]),
    col("link mm", ["link", "link_mm"]),
    col("coil mm", ["coil_mm"]),
    col("diameter mm", ["diameter", "diameter_mm", "gauge mm"]),
    col("pin mm", ["length_mm", "pin length"]),
    col("inner mm", ["inner_mm", "inside mm"]),
    col("thick mm", ["thickness", "thick_mm"]),
    col("break kg", ["break_kg", "strength"]),
    col("holes"),
    col("per gram", ["per_gram", "pieces per gram"]),
    col("mass g", ["mass_g", "weight g", "weight"]),
    col("reorder at", ["reorder_at", "reorder point", "minimum stock"]),
    col("cautions", ["warnings"], { oneOf: CAUTIONS }),
    col("notes", ["note", "remarks"]),
  ],
  offers: [
    code,
    col("supplier", ["vendor"]),
    col("pack", ["pack name", "unit of sale"], { required: true }),
    col("pack holds", ["amount", "holds", "pack size", "quantity"], { required: true }),
    col("pack unit", ["unit"], { oneOf: [...BASE_UNITS, "ft", "m", "in"] }),
    col("price", ["cost", "pack price"], { required: true }),
    col("minimum", ["min order", "moq"]),
    col("lead days", ["lead_days", "lead time"]),
  ],
  deliveries: [
    code,
    quantity,
    piece,
    col("cost", ["price", "line cost", "total"]),
    place,
    lot,
    col("note", ["notes", "remarks"]),
  ],
  counts: [
    code,
    quantity,
    piece,
    col("plus minus", ["±", "+/-", "uncertainty"]),
    place,
    lot,
    col("note", ["notes", "remarks"]),
  ],
  sales: [
    col("order", ["order no", "order number", "order id"], { required: true }),
    col("line", ["item", "line no", "line item", "position"]),
    col("kind", ["type"], { oneOf: ["sale", "return"] }),
    col("day", ["date", "ordered on", "sold on", "created at"], { required: true }),
    col("month", ["box month"]),
    col("box", ["theme", "product", "title"], { required: true }),
    col("colourway", ["option", "option 1", "colour", "variant"]),
    col("second", ["finish", "option 2", "metal"]),
    col("quantity", ["qty", "amount", "count", "number"]),
    col("paid", ["total", "line total", "price paid", "price"]),
    col("offered", ["stock", "on sale", "put on sale"]),
    col("shop", ["source", "channel"]),
  ],
};

/** Which of a file's headings is which column: by name or by what else it is called; each heading once. */
export function guessMapping(kind: Intake, headings: readonly string[]): Record<string, string> {
  const plain = (text: string) =>
    text
      .trim()
      .toLowerCase()
      .replace(/[_\s]+/g, " ");
  const free = new Map(headings.map((h) => [plain(h), h]));
  const mapping: Record<string, string> = {};
  for (const names of [(c: IntakeColumn) => [c.name], (c: IntakeColumn) => c.also ?? []]) {
    for (const column of INTAKE_COLUMNS[kind]) {
      if (mapping[column.name] !== undefined) continue;
      const found = names(column)
        .map(plain)
        .find((name) => free.has(name));
      if (found === undefined) continue;
      mapping[column.name] = free.get(found)!;
      free.delete(found);
    }
  }
  return mapping;
}

/** Which field of a component a column is, and how its text is read. */
export const COMPONENT_FIELDS: Readonly<
  Record<string, [field: keyof ComponentInput, as: "text" | "number" | "length" | "list"]>
> = {
  code: ["code", "text"],
  name: ["name", "text"],
  kind: ["kind", "text"],
  form: ["form", "text"],
  colour: ["colour", "text"],
  finish: ["finish", "text"],
  transparency: ["transparency", "text"],
  material: ["material", "text"],
  metal: ["metal", "text"],
  unit: ["baseUnit", "text"],
  size: ["size", "text"],
  "along mm": ["alongMm", "length"],
  "across mm": ["acrossMm", "length"],
  "hole mm": ["holeMm", "length"],
  "link mm": ["linkMm", "length"],
  "coil mm": ["coilMm", "length"],
  "diameter mm": ["diameterMm", "length"],
  "pin mm": ["lengthMm", "length"],
  "inner mm": ["innerMm", "length"],
  "thick mm": ["thickMm", "length"],
  "break kg": ["breakKg", "number"],
  holes: ["holes", "number"],
  "per gram": ["perGram", "number"],
  "mass g": ["massG", "number"],
  "reorder at": ["reorderAt", "number"],
  cautions: ["cautions", "list"],
  notes: ["notes", "text"],
};
