/** What a server thread does: heavy work that needs no database, by typed calls. */
import { billOf } from "@jar-count/core/bom";
import type { BoxDetail } from "@jar-count/core/contract";
import { billAsCsv, costOf } from "@jar-count/core/cost";
import { expose } from "comlink";
import nodeEndpoint from "comlink/dist/esm/node-adapter.mjs";
import { parentPort } from "node:worker_threads";
import { labelSheet } from "../labels/sheet.ts";

const work = {
  ready: () => true,
  /** A box's bill of materials with its cost, as CSV. */
  bill(detail: BoxDetail): string {
    const bill = billOf(detail);
    return billAsCsv(detail, bill, costOf(bill));
  },
  /** Sheets of jar labels as PDF. */
  labelSheet,
};
export type ThreadWork = typeof work;

if (parentPort) expose(work, nodeEndpoint(parentPort));
