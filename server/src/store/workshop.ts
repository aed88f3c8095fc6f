import type { Workshop, WorkshopInput } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

export async function findWorkshop(db: Session): Promise<Workshop> {
  const { rows } = await db.query<Workshop>(
    `select name, currency, public_address as "publicAddress", locale, version from workshop`,
  );
  return rows[0]!;
}

export async function putWorkshop(db: Session, workshop: WorkshopInput): Promise<void> {
  const { name, currency, publicAddress, locale } = workshop;
  await db.query(
    `update workshop set name = $1, currency = $2, public_address = $3, locale = $4, version = version + 1`,
    [name, currency, publicAddress, locale],
  );
}

/** Which workshop this is: another after an archive took its place. */
export async function stampOf(db: Session): Promise<string> {
  const { rows } = await db.query<{ made: string }>(`select made from workshop`);
  return rows[0]!.made;
}
