import {
  type CostAnswer,
  type HowManyAnswer,
  type HowManyRequest,
  type MoneyTerms,
  type Postage,
  type PriceAnswer,
  type PriceRequest,
  type SaveMoney,
} from "@jar-count/core/contract";
import { priceFor, type Terms } from "@jar-count/core/price";
import { isDeepStrictEqual } from "node:util";
import type { z } from "zod";
import { Refusal, stale, wrongAt } from "../refusal/index.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { findBands, findMoney, putBands, putMoney } from "../store/money.ts";
import { writeOnce } from "../store/requests.ts";
import { findWorkshop } from "../store/workshop.ts";
import { askOutside } from "../readers/pool.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";

/** Writes what costs and prices go by, if nobody changed it since. */
export function saveMoney(db: Database, asked: z.output<typeof SaveMoney>): Promise<MoneyTerms> {
  const { requestKey, version, money } = asked;
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { version, money },
      async () => {
        await takeRecord(session, "money", "1");
        const known = await findMoney(session);
        if (known.version !== version) throw stale("What costs go by", known);
        await putMoney(session, money);
      },
      () => findMoney(session),
    ),
  );
}

/** How long another's computer may take to answer, ms. */
const PATIENCE = 3000;

/**
 * Asks the carrier for its table: what it says is kept, so that it holds while the carrier is away.
 * @param standIns where the simulated ones are
 */
export async function readPostage(db: Database, standIns: string | null): Promise<Postage> {
  const { carrier } = await findMoney(db);
  const known = await findBands(db);
  const address = carrier || (standIns && `${standIns}/carrier`);
  if (!address) return { bands: known?.bands ?? [], asOf: known?.asOf ?? null, fault: "No carrier is named yet." };
  const told = (fault: string): Postage => ({ bands: known?.bands ?? [], asOf: known?.asOf ?? null, fault });
  const { currency } = await findWorkshop(db);
  const at = address.replace(/\/$/, "");
  const found = await askOutside("carrier", (reader) => reader.askCarrier(at, currency, PATIENCE), PATIENCE);
  if ("fault" in found) return told(found.fault);
  const now = { asOf: `${new Date().toISOString().slice(0, 19)}Z`, bands: found.bands };
  const old = !known || Date.parse(now.asOf) - Date.parse(known.asOf) > 3_600_000;
  if (old || !isDeepStrictEqual(known.bands, now.bands)) await inTransaction(db, (session) => putBands(session, now));
  return { ...now, fault: null };
}

/** All that a box's cost goes by; posting as the carrier said it last. */
export async function findTerms(db: Session): Promise<Terms> {
  const { version: _version, ...money } = await findMoney(db);
  const { currency } = await findWorkshop(db);
  return { currency, money, bands: (await findBands(db))?.bands ?? [] };
}

/** What each variant of a box costs, by steps. Where the carrier was never asked, it is asked now. */
export async function readCost(db: Database, id: string, standIns: string | null): Promise<CostAnswer> {
  const detail = await readBox(db, id);
  if (!(await findBands(db))) await readPostage(db, standIns);
  const terms = await findTerms(db);
  return inThread((work) => work.cost(detail, terms));
}

/** @throws Refusal where no price does it */
export function price(asked: PriceRequest): PriceAnswer {
  const found = priceFor(asked);
  if (!found) {
    const [pointer, what] = asked.margin != null ? ["/margin", "margin"] : ["/markup", "markup"];
    throw wrongAt(pointer, `No price reaches this ${what}: with tax and fees, nothing of the price would be left.`);
  }
  return found;
}

/** How long the number to make may take, s. */
const SECONDS = 10;

/** @throws Refusal where a cost is not above 0 */
export async function numberToMake(asked: HowManyRequest, signal: AbortSignal): Promise<HowManyAnswer> {
  const found = await inThread((work) => work.howMany(asked), { signal, seconds: SECONDS });
  if (!found) {
    throw new Refusal("invalid", "One too many and one too few must each cost more than nothing.", {
      errors: (["over", "under"] as const)
        .filter((field) => Number(asked[field]) <= 0)
        .map((field) => ({ pointer: `/${field}`, detail: "More than 0." })),
    });
  }
  return found;
}
