import { type KnownWorkshop, TRADE_SPARES, type Workshop, type WorkshopInput } from "@jar-count/core/contract";
import type { Session } from "./database.ts";
import { todayIn } from "./today.ts";

export async function findWorkshop(db: Session): Promise<KnownWorkshop> {
  const { rows } = await db.query<Omit<KnownWorkshop, "today">>(
    `select name, currency, public_address as "publicAddress", locale, ruler, time_zone as "timeZone", spares,
       version from workshop`,
  );
  const found = rows[0]!;
  return { ...found, spares: found.spares ?? [...TRADE_SPARES], today: todayIn(found.timeZone) };
}

/** It with what a page is told beside it: whether its currency stays. */
export async function readWorkshop(db: Session): Promise<Workshop> {
  const { rows } = await db.query<{ fixed: boolean }>(`select money_is_written() as fixed`);
  return { ...(await findWorkshop(db)), currencyFixed: rows[0]!.fixed };
}

/** Today in the workshop's time zone: the one day that everything goes by. */
export const today = async (db: Session): Promise<string> => (await findWorkshop(db)).today;

export async function putWorkshop(db: Session, workshop: WorkshopInput): Promise<void> {
  const { name, currency, publicAddress, locale, ruler, timeZone, spares } = workshop;
  await db.query(
    `update workshop set name = $1, currency = $2, public_address = $3, locale = $4, spares = $5,
       ruler = $6, time_zone = $7, version = version + 1`,
    [name, currency, publicAddress, locale, JSON.stringify(spares), ruler, timeZone],
  );
}

/** Which workshop this is: another after an archive took its place. */
export async function stampOf(db: Session): Promise<string> {
  const { rows } = await db.query<{ made: string }>(`select made from workshop`);
  return rows[0]!.made;
}
