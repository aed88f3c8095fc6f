import type { SoldMonths } from "@jar-count/core/contract";
import { dayAfter } from "@jar-count/core/day";
import { Refusal } from "../refusal/index.ts";
import type { Session } from "../store/database.ts";
import { findMoney } from "../store/money.ts";
import { lastDay, lastTakenIn, listOnSale, listSoldMonths } from "../store/sales.ts";
import { today } from "../store/workshop.ts";
import { askOutside } from "../readers/pool.ts";

/** What was sold of each box, the oldest first. */
export async function readSoldMonths(db: Session): Promise<SoldMonths> {
  return { months: await listSoldMonths(db), asOf: await lastTakenIn(db) };
}

/** How long the shop may take to answer, ms. */
const PATIENCE = 10_000;

/**
 * Asks the shop what it sold of the boxes here: a table that can be looked at and brought in like any other.
 * @param standIns where the simulated one is
 * @throws Refusal where the shop can't be reached; what was brought in before stays as it is
 */
export async function askShop(
  db: Session,
  standIns: string | null,
  signal: AbortSignal,
): Promise<{ name: string; csv: string }> {
  const { shop } = await findMoney(db);
  const address = shop || (standIns && `${standIns}/shop`);
  if (!address)
    throw new Refusal("out-of-reach", "No shop is named in Workshop yet. A file of sales can be brought in.");
  // Where its last sale is of today or later, it is asked for a week more each time.
  const day = await today(db);
  const last = await lastDay(db);
  const until = last < day ? day : dayAfter(last, 7);
  const body = JSON.stringify({ boxes: await listOnSale(db), until });
  const away = (why: string) =>
    new Refusal("out-of-reach", `${why} What was brought in before is still here; a file of sales can be brought in.`);
  const at = address.replace(/\/$/, "");
  const found = await askOutside("shop", (reader) => reader.askShop(at, body, PATIENCE), PATIENCE, signal);
  if ("fault" in found) throw away(found.fault);
  return { name: `sales until ${until}.csv`, csv: found.csv };
}
