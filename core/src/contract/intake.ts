import { z } from "zod";
import { RequestKey, Uuid } from "./values.ts";

/** What a table can bring in. */
export const INTAKES = ["components", "offers", "deliveries", "counts", "sales"] as const;
export type Intake = (typeof INTAKES)[number];

/** A table, row by row as read: column names and what stands in them. */
/** How much a table may hold: rows, and signs in a cell. A preview holds to it as well. */
export const MOST_OF_IMPORT = { rows: 50_000, cell: 5000 };

export const ImportRequest = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  /** What the file is called: it stands in the ledger. */
  name: z.string().max(200),
  /** What stands before the decimals of its numbers; where nothing is said, it must follow from the numbers. */
  decimal: z.enum([".", ","]).nullish(),
  /** What a preview made of the rows (`seenOf` in core): where it would be otherwise now, nothing is written. */
  seen: z.string().max(64).nullish(),
  rows: z
    .array(z.record(z.string(), z.string().max(MOST_OF_IMPORT.cell)))
    .min(1, "There are no rows in it.")
    .max(MOST_OF_IMPORT.rows, `At most ${MOST_OF_IMPORT.rows.toLocaleString("en")} rows at a time.`),
});
export type ImportRequest = z.infer<typeof ImportRequest>;

/** How many rows were new, changed something, or were there already. */
export const Imported = z.object({ new: z.int(), changed: z.int(), same: z.int() });
export type Imported = z.infer<typeof Imported>;
