import { expanded } from "../units/index.ts";
import Papa from "papaparse";
import type { Component, Intake, Order, Place, ShelfJar, Sale } from "../contract/index.ts";
import { COMPONENT_FIELDS, INTAKE_COLUMNS } from "./columns.ts";
import { plainCell, writeSheet } from "../table/index.ts";
import type { IntakeRow } from "./plan.ts";

/** A file's headings and rows, whatever separates them; what is broken in it is reported by line. */
export function readTable(text: string): {
  headings: string[];
  rows: Record<string, string>[];
  faults: { line: number; message: string }[];
} {
  const { data, meta, errors } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ""), {
    header: true,
    skipEmptyLines: "greedy",
  });
  return {
    headings: meta.fields ?? [],
    rows: data,
    faults: errors
      .filter((e) => e.code !== "UndetectableDelimiter")
      .slice(0, 20)
      .map((e) => ({ line: (e.row ?? 0) + 2, message: e.message })),
  };
}

/** A row by our columns' names. */
export const mapped = (row: Record<string, string>, mapping: Record<string, string>): IntakeRow =>
  Object.fromEntries(
    Object.entries(mapping).flatMap(([name, heading]) => {
      const cell = plainCell(row[heading]?.trim() ?? "");
      return cell ? [[name, cell]] : [];
    }),
  );

/** Rows as CSV (RFC 4180) by a table's own columns; what is left over stands behind them. */
export function writeTable(kind: Intake, rows: readonly IntakeRow[], behind: readonly string[] = []): string {
  return writeSheet([...INTAKE_COLUMNS[kind].map((c) => c.name), ...behind], rows);
}

const say = (value: unknown) => (value == null ? "" : Array.isArray(value) ? value.join("; ") : String(value));

/** What the workshop has, as the table that would bring it in. */
export function tableOf(
  kind: Intake,
  known: {
    components: readonly Component[];
    places: readonly Place[];
    suppliers: readonly { id: string; name: string }[];
    jars: readonly ShelfJar[];
    orders: readonly Order[];
    sales: readonly Sale[];
  },
): IntakeRow[] {
  const codeOf = new Map(known.components.map((c) => [c.id, c.code]));
  const placeOf = new Map(known.places.map((p) => [p.id, p.code]));
  const supplierOf = new Map(known.suppliers.map((s) => [s.id, s.name]));
  switch (kind) {
    case "components":
      return known.components.map((c) =>
        Object.fromEntries(Object.entries(COMPONENT_FIELDS).map(([name, [field]]) => [name, say(c[field])])),
      );
    case "offers":
      return known.components.flatMap((c) =>
        c.offers.map((o) => ({
          code: c.code,
          supplier: o.supplier ? supplierOf.get(o.supplier)! : "",
          pack: o.pack,
          "pack holds": say(o.amount),
          "pack unit": o.unit,
          price: o.price,
          minimum: say(o.minimum),
          "lead days": say(o.leadDays),
        })),
      );
    case "sales":
      return known.sales.map((s) => ({
        order: s.order,
        line: s.line,
        kind: s.kind,
        day: s.day,
        month: s.month,
        box: s.theme,
        colourway: s.colourway,
        second: s.second,
        quantity: say(s.quantity),
        paid: s.paid ?? "",
        offered: say(s.offered),
        shop: s.source,
      }));
    case "counts":
      return known.jars.map((j) => ({
        code: codeOf.get(j.component)!,
        quantity: say(j.quantity),
        "piece length": j.stretchMm ? `${j.stretchMm}mm` : "",
        "plus minus": j.u > 0 ? say(Math.round(expanded(j.u) * 10) / 10) : "",
        place: placeOf.get(j.place)!,
        lot: j.lot,
      }));
    case "deliveries":
      // What is still to come, to be ticked off and sent back when it is there.
      return known.orders.flatMap((o) =>
        o.lines.flatMap((l) => {
          const open = l.quantity - (o.received[l.id] ?? 0);
          const linear = known.components.find((c) => c.id === l.component)?.baseUnit === "mm";
          const each = l.quantity / l.packs;
          return open > 0
            ? [
                {
                  code: codeOf.get(l.component)!,
                  quantity: say(linear ? Math.round(open / each) : open),
                  "piece length": linear ? `${each}mm` : "",
                  note: `Order ${o.number}`,
                },
              ]
            : [];
        }),
      );
  }
}
