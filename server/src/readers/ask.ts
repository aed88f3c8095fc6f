import { type Band, CarrierRates } from "@jar-count/core/contract";
import { beyondTable, MOST_DEPTH, sizeOfJson } from "../limits/index.ts";

/** What an answer from outside may be: a carrier's table of rates, and a shop's table of sales; bytes, unpacked. */
const MOST_BYTES = { rates: 2_000_000, sales: 20_000_000 };
const MOST_VALUES = 50_000;

/** Why there is no answer yet. */
export const LATE = "takes too long to answer";

/** What came of asking somebody outside: what they sent, or why it can't be used, in words. */
export type Asked<T> = T | { fault: string };

/** A page of somebody else's; or why there is none, in words that follow who it is. */
type Page = { status: number; type: string; bytes: Uint8Array } | { away: string };

/** Fetches bytes, of which no more than so many are ever held, however they were packed. */
async function fetchBytes(address: string, init: RequestInit, ms: number, most: number): Promise<Page> {
  const over = AbortSignal.timeout(ms);
  try {
    const answer = await fetch(address, { ...init, redirect: "error", signal: over });
    const parts: Uint8Array[] = [];
    let many = 0;
    for await (const part of (answer.body ?? []) as AsyncIterable<Uint8Array>) {
      many += part.length;
      if (many > most) return { away: "sends too much" };
      parts.push(part);
      if (over.aborted) return { away: LATE };
    }
    return {
      status: answer.status,
      type: answer.headers.get("content-type") ?? "",
      bytes: Buffer.concat(parts),
    };
  } catch {
    return { away: over.aborted ? LATE : "can't be reached" };
  }
}

/** Asks a carrier for its rates, all told within `ms`. */
export async function askCarrier(address: string, currency: string, ms: number): Promise<Asked<{ bands: Band[] }>> {
  const page = await fetchBytes(`${address}/rates?currency=${currency}`, {}, ms, MOST_BYTES.rates);
  if ("away" in page) return { fault: `The carrier ${page.away}.` };
  if (page.status !== 200) return { fault: `The carrier is closed just now (${page.status}).` };
  const size = sizeOfJson(page.bytes);
  const found =
    size.values > MOST_VALUES || size.depth > MOST_DEPTH.body ? null : CarrierRates.safeParse(jsonOf(page.bytes));
  if (!found?.success) return { fault: "What the carrier sends is no table of rates." };
  if (found.data.currency !== currency) {
    return { fault: `The carrier's rates are in ${found.data.currency}, this workshop counts in ${currency}.` };
  }
  return { bands: found.data.rates };
}

function jsonOf(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(bytes));
  } catch {
    return null;
  }
}

/** Asks a shop what it sold, as a table. */
export async function askShop(address: string, body: string, ms: number): Promise<Asked<{ csv: string }>> {
  const page = await fetchBytes(
    `${address}/sales`,
    { method: "POST", headers: { "content-type": "application/json", accept: "text/csv" }, body },
    ms,
    MOST_BYTES.sales,
  );
  if ("away" in page) return { fault: `The shop ${page.away}.` };
  if (page.status !== 200 || !page.type.includes("csv")) {
    return { fault: `The shop is closed just now, or sends no table (${page.status}).` };
  }
  const beyond = beyondTable(page.bytes, { lines: 50_001, cells: 1_500_000, widest: 100, longest: 5000 });
  if (beyond) return { fault: `What the shop sends can't be read: its table ${beyond}.` };
  return { csv: new TextDecoder().decode(page.bytes) };
}
