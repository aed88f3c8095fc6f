import type { Rooms, SaveRooms, SaveWorkshop, Workshop } from "@jar-count/core/contract";
import type { z } from "zod";
import { stale, wrongAt } from "../refusal/index.ts";
import { type Database, inTransaction } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { writeOnce } from "../store/requests.ts";
import { listRooms, putRooms } from "../store/rooms.ts";
import { putWorkshop, readWorkshop } from "../store/workshop.ts";

/** Changes the workshop's name, currency and address, if nobody changed them since. */
export function saveWorkshop(
  db: Database,
  { requestKey, version, workshop }: z.output<typeof SaveWorkshop>,
): Promise<Workshop> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { version, workshop },
      async () => {
        await takeRecord(session, "workshop", "1");
        const known = await readWorkshop(session);
        if (known.version !== version) throw stale("The workshop", known);
        if (known.currency !== workshop.currency && known.currencyFixed) {
          throw wrongAt(
            "/workshop/currency",
            `Something was ordered, received, sold or committed in ${known.currency} already, so it stays. An order ` +
              "may have a currency of its own.",
          );
        }
        await putWorkshop(session, workshop);
      },
      () => readWorkshop(session),
    ),
  );
}

/** Writes people, suppliers and places whole. What a place holds may be held back from here on, or free again. */
export function saveRooms(db: Database, { requestKey, version, rooms }: z.output<typeof SaveRooms>): Promise<Rooms> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { version, rooms },
      async () => {
        await takeRecord(session, "rooms", "1");
        const known = await listRooms(session);
        if (known.version !== version) throw stale("This list", known);
        await putRooms(session, rooms);
      },
      () => listRooms(session),
    ),
  );
}
