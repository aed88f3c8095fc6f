import type { LookedBack, MeasuredRates } from "@jar-count/core/contract";
import { lookBack, measuredRates, PAUSE_SECONDS, type Timed, workOfBilled } from "@jar-count/core/price";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { findMoney } from "../store/money.ts";
import { listNeeds, listPacked, listSpent, listTimed } from "../store/packing.ts";
import { listPackedRuns } from "../store/runs.ts";
import { soldByVariant } from "../store/sales.ts";
import { findWorkshop } from "../store/workshop.ts";

/** What was planned and what came of it, box by box: those that are packed, in part or whole. */
export function readLookBack(db: Database): Promise<LookedBack[]> {
  return inTransaction(
    db,
    async (session) => {
      const runs = await listPackedRuns(session);
      const { currency } = await findWorkshop(session);
      const { rates } = await findMoney(session);
      const [timed, spent] = [
        await listTimed(session, PAUSE_SECONDS),
        await listSpent(
          session,
          runs.map((r) => r.run),
        ),
      ];
      const found: LookedBack[] = [];
      for (const { run, box, month, theme, state, bill } of runs) {
        const packed = new Map<string, number>();
        for (const { variant } of await listPacked(session, run)) packed.set(variant, (packed.get(variant) ?? 0) + 1);
        const happened = {
          bill,
          needs: await listNeeds(session, run),
          packed,
          spent: spent.filter((s) => s.run === run),
          timed: timed.filter((t) => t.run === run),
          sold: await soldByVariant(session, box),
        };
        found.push({ box, month, theme, state, ...lookBack(happened, rates, currency) });
      }
      return found;
    },
    "repeatable read, read only",
  );
}

/** What the bench's own times say of the rates of work; none where nobody packed box by box yet. */
export async function readMeasured(db: Session): Promise<MeasuredRates> {
  const { rates } = await findMoney(db);
  const rows = await listTimed(db, PAUSE_SECONDS);
  const works = new Map<string, Timed["work"]>();
  for (const { bill } of await listPackedRuns(db)) {
    for (const v of bill.variants) if (v.id) works.set(v.id, workOfBilled(bill, v));
  }
  const timed = rows.flatMap(({ variant, seconds }) => {
    const work = works.get(variant);
    return work ? [{ seconds, work }] : [];
  });
  return measuredRates(timed, rates) ?? { boxes: 0, seconds: 0, planned: 0, spread: 0, rates: [] };
}
