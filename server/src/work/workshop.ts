import type { Rooms, Workshop } from "@jar-count/core/contract";
import { wrongAt } from "../refusal/index.ts";
import { listComponentIds } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { refreshPromises } from "../store/ledger.ts";
import { listRooms, putRooms } from "../store/rooms.ts";
import { findWorkshop, putWorkshop } from "../store/workshop.ts";

export async function saveWorkshop(db: Session, workshop: Workshop): Promise<Workshop> {
  await putWorkshop(db, workshop);
  return findWorkshop(db);
}

/** Writes people, suppliers and places whole. What a place holds may be held back from here on, or free again. */
export function saveRooms(db: Database, rooms: Rooms): Promise<Rooms> {
  if (rooms.places.every((p) => p.held)) {
    throw wrongAt("/places", "Keep at least one place that is not for what is held back.");
  }
  return inTransaction(db, async (session) => {
    await putRooms(session, rooms);
    await refreshPromises(session, await listComponentIds(session));
    return listRooms(session);
  });
}
