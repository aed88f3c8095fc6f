import { coinPlaces } from "@jar-count/core/cost";
import { Refusal } from "../refusal/index.ts";
import { priceList } from "../standins/supplier.ts";
import { listComponents } from "../store/components.ts";
import type { Session } from "../store/database.ts";
import { listRooms } from "../store/rooms.ts";
import { findWorkshop } from "../store/workshop.ts";

/**
 * Asks a supplier for its price list of this month. Until suppliers are reached for real, a stand-in sends it.
 * @throws Refusal where there is no such supplier, or it sells nothing that is known here
 */
export async function askPriceList(db: Session, id: string): Promise<{ name: string; csv: string }> {
  const supplier = (await listRooms(db)).suppliers.find((s) => s.id === id);
  if (!supplier) throw new Refusal("not-found", "This supplier is not in the workshop.");
  const sold = (await listComponents(db)).flatMap(({ code, offers }) =>
    offers.filter((offer) => offer.supplier === id).map((offer) => ({ code, offer })),
  );
  if (sold.length === 0) {
    throw new Refusal("not-found", `Nothing here is sold by ${supplier.name} yet. Name it at a pack of a component.`);
  }
  const { today, currency } = await findWorkshop(db);
  const month = today.slice(0, 7);
  return {
    name: `${supplier.name}, prices of ${month}.csv`,
    csv: priceList(supplier.name, sold, month, coinPlaces(currency)),
  };
}
