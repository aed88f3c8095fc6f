import { inputOf } from "@jar-count/core/component";
import type { ComponentInput, Imported, Intake } from "@jar-count/core/contract";
import { offerMeant } from "@jar-count/core/intake";
import type { Move } from "@jar-count/core/stock";
import { digestOf } from "@jar-count/core/units";
import { randomUUID } from "node:crypto";
import { Refusal } from "../refusal/index.ts";
import {
  findComponents,
  lockComponents,
  putComponents,
  tagOfWhatIsSaid,
  writeAllComponents,
} from "../store/components.ts";
import { type Database, DoFirst, inTransaction, type Session } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { doOnce } from "../store/requests.ts";
import { firstPlace, listRooms } from "../store/rooms.ts";
import { knownSales, putSales } from "../store/sales.ts";
import { inReader } from "../readers/pool.ts";
import type { Accepted, TableHead } from "../readers/table.ts";
import { atOnce } from "./ahead.ts";
import { postEntry } from "./book.ts";

/** So many rows are dealt with before others have their turn. */
const AT_A_TIME = 2000;
/** How long a table may take to be read and judged, s. */
const SECONDS = 120;

type AcceptedOf<K extends Accepted["kind"]> = Extract<Accepted, { kind: K }>;

/** What says that what a table is judged by changed. */
async function tagOf(session: Session, kind: Intake): Promise<string> {
  const { version } = await listRooms(session);
  const sold = kind === "sales" ? digestOf(JSON.stringify(await knownSales(session))) : "";
  return `${await tagOfWhatIsSaid(session)} ${version} ${sold}`;
}

async function readKnown(session: Session, kind: Intake) {
  const { places, suppliers } = await listRooms(session);
  const sold = kind === "sales" ? await knownSales(session) : { sales: [], boxes: [] };
  return { components: await writeAllComponents(session), places, suppliers, sold };
}

/**
 * A table of components, offers, deliveries, counts or sales: read and judged in a process of its own as in its
 * preview, then all of it or nothing. Nothing is locked while it is judged: where something changed meanwhile, it is
 * judged again.
 * @param body an `ImportRequest` as JSON, as it came
 * @param signal whether nobody waits for the answer any more; then nothing is written
 */
export function importTable(db: Database, kind: Intake, body: Buffer, signal: AbortSignal): Promise<Imported> {
  const goOn = async () => {
    await new Promise((next) => setImmediate(next));
    if (signal.aborted) throw new Refusal("stopped", "The import was stopped. Nothing was written.");
  };
  return inReader(
    async (reader) => {
      const read = await reader.readTable(kind, body);
      if ("faults" in read) throw refused(read.faults, read.faults.length);
      const { head } = read;
      const judge = async () => {
        const [tag, known] = await atOnce(db, async (session) => [
          await tagOf(session, kind),
          await readKnown(session, kind),
        ]);
        const judged = await reader.judgeTable(kind, known);
        if ("faults" in judged) throw refused(judged.faults, judged.refused);
        if (head.seen !== null && head.seen !== judged.seen) throw changed();
        const accepted: Accepted[] = [];
        for (let from = 0; from < judged.many; from += AT_A_TIME) {
          await goOn();
          accepted.push(...(await reader.tablePart(from, AT_A_TIME)));
        }
        return { tag, accepted };
      };
      let found = null as Awaited<ReturnType<typeof judge>> | null;
      return inTransaction(db, (session) =>
        doOnce(session, head.requestKey, { kind, hash: head.hash }, async () => {
          if (kind === "sales") await takeRecord(session, "sales", "1");
          await lockComponents(session);
          if (found?.tag !== (await tagOf(session, kind))) throw new DoFirst(async () => void (found = await judge()));
          return write(session, kind, head, found.accepted, goOn);
        }),
      );
    },
    { signal, seconds: SECONDS },
  );
}

const changed = () =>
  new Refusal(
    "stale",
    "What this table would do is something else now than was shown: somebody changed what it names. Nothing was " +
      "written; look at its lines again.",
  );

const refused = (errors: { pointer: string; detail: string }[], many: number) =>
  new Refusal("invalid", `${many} places in this table can't be accepted. Nothing was written.`, { errors });

/** Writes what was accepted, part by part: components and offers as they come, stock as one entry at the end. */
async function write(
  session: Session,
  kind: Intake,
  head: TableHead,
  accepted: readonly Accepted[],
  goOn: () => Promise<void>,
): Promise<Imported> {
  const done = { new: 0, changed: 0, same: 0 };
  const stock: AcceptedOf<"deliveries" | "counts">[] = [];
  const offers: AcceptedOf<"offers">[] = [];
  for (let from = 0; from < accepted.length; from += AT_A_TIME) {
    await goOn();
    const rows = accepted.slice(from, from + AT_A_TIME);
    for (const row of rows) done[row.status]++;
    const changing = rows.filter((row) => row.status !== "same");
    const only = <K extends Accepted["kind"]>(...kinds: K[]) =>
      changing.filter((row): row is AcceptedOf<K> => (kinds as string[]).includes(row.kind));
    const components = only("components").map((row) => ({ ...row.component, id: row.id ?? randomUUID() }));
    if (components.length > 0) await putComponents(session, components);
    const sales = only("sales").map((row) => row.sale);
    if (sales.length > 0) await putSales(session, sales);
    offers.push(...only("offers"));
    stock.push(...only("deliveries", "counts"));
  }
  await inParts(await withOffers(session, offers), goOn, (some) => putComponents(session, some));
  await postStock(session, kind, head, stock);
  await goOn();
  return done;
}

async function inParts<T>(list: readonly T[], goOn: () => Promise<void>, write: (part: T[]) => Promise<void>) {
  for (let i = 0; i < list.length; i += AT_A_TIME) {
    await goOn();
    await write(list.slice(i, i + AT_A_TIME));
  }
}

/** Components with offers of a table put in: in place of the same pack of the same supplier, else behind the others. */
async function withOffers(
  session: Session,
  rows: readonly AcceptedOf<"offers">[],
): Promise<({ id: string } & ComponentInput)[]> {
  const found = await findComponents(session, [...new Set(rows.map((row) => row.id))]);
  const byId = new Map(found.map((c) => [c.id, c]));
  for (const { id, offer } of rows) {
    const c = byId.get(id)!;
    const same = offerMeant(c.offers, offer);
    const known = c.offers[same];
    c.offers = known ? c.offers.with(same, { ...offer, id: known.id, steps: known.steps }) : [...c.offers, offer];
  }
  return [...byId.values()].map(inputOf);
}

async function postStock(
  session: Session,
  kind: Intake,
  { requestKey, person, name }: TableHead,
  rows: readonly AcceptedOf<"deliveries" | "counts">[],
) {
  if (rows.length === 0) return;
  const first = await firstPlace(session);
  const moves = rows.map((row): Move => {
    const spot = {
      component: row.id,
      place: row.place ?? first,
      lot: row.lot,
      stretchMm: row.stretchMm ?? 0,
      entered: row.note,
    };
    return row.kind === "counts"
      ? { ...spot, counted: row.quantity, u: row.u }
      : { ...spot, quantity: row.quantity, cost: row.cost };
  });
  const reason = kind === "counts" ? "counted" : "received";
  const entry = { kind: reason, requestKey, person, note: name.slice(0, 500) } as const;
  await postEntry(session, entry, moves, (i) => `/rows/${i}`);
}
