import { z } from "zod";
import { RequestKey, Uuid } from "./values.ts";

/** What a table can bring in. */
export const INTAKES = ["components", "offers", "deliveries", "counts", "sales"] as const;
export type Intake = (typeof INTAKES)[number];

/** A table, row by row as read: column names and what stands in them. */
export const ImportRequest = z.strictObject({
  requestKey: RequestKey,
  person: Uuid.nullish(),
  /** What the file is called: it stands in the ledger. */
  name: z.string().max(200),
  rows: z
    .array(z.record(z.string(), z.string().max(5000)))
    .min(1, "There are no rows in it.")
    .max(50_000, "At most 50,000 rows at a time."),
});
export type ImportRequest = z.infer<typeof ImportRequest>;

/** How many rows were new, changed something, or were there already. */
export const Imported = z.object({ new: z.int(), changed: z.int(), same: z.int() });
export type Imported = z.infer<typeof Imported>;
