import { inputOf } from "@jar-count/core/component";
import type { ComponentInput, Imported, ImportRequest, Intake } from "@jar-count/core/contract";
import { intakeOf, type PlannedRow } from "@jar-count/core/intake";
import type { Move } from "@jar-count/core/stock";
import { randomUUID } from "node:crypto";
import { Refusal } from "../refusal/index.ts";
import { findComponents, listComponents, lockComponents, putComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { doOnce } from "../store/requests.ts";
import { firstPlace, listRooms } from "../store/rooms.ts";
import { postEntry } from "./book.ts";

/** So many rows are dealt with before others have their turn. */
const AT_A_TIME = 2000;

type Accepted = Exclude<PlannedRow, { status: "refused" }>;
type AcceptedOf<K extends Accepted["kind"]> = Extract<Accepted, { kind: K }>;

/**
 * A table of components, offers, deliveries or counts: judged again here as in its preview, then all of it or nothing.
 * @param gone whether nobody waits for the answer any more; then nothing is written
 */
export function importTable(db: Database, kind: Intake, asked: ImportRequest, gone: () => boolean): Promise<Imported> {
  const goOn = async () => {
    await new Promise((next) => setImmediate(next));
    if (gone()) throw new Refusal("stopped", "The import was stopped. Nothing was written.");
  };
  return inTransaction(db, (session) =>
    doOnce(session, asked.requestKey, { kind, rows: asked.rows }, async () => {
      await lockComponents(session);
      const accepted = await judge(session, kind, asked.rows, goOn);
      const changing = accepted.filter((row) => row.status !== "same");
      const only = <K extends Accepted["kind"]>(...kinds: K[]) =>
        changing.filter((row): row is AcceptedOf<K> => (kinds as string[]).includes(row.kind));
      const components = only("components").map((row) => ({ ...row.component, id: row.id ?? randomUUID() }));
      await inParts(components, goOn, (part) => putComponents(session, part));
      await inParts(await withOffers(session, only("offers")), goOn, (part) => putComponents(session, part));
      await postStock(session, kind, asked, only("deliveries", "counts"));
      await goOn();
      const many = (status: string) => accepted.filter((row) => row.status === status).length;
      return { new: many("new"), changed: many("changed"), same: many("same") };
    }),
  );
}

async function judge(
  session: Session,
  kind: Intake,
  rows: ImportRequest["rows"],
  goOn: () => Promise<void>,
): Promise<Accepted[]> {
  const { places, suppliers } = await listRooms(session);
  const plan = intakeOf(kind, { components: await listComponents(session), places, suppliers });
  const accepted: Accepted[] = [];
  const errors: { pointer: string; detail: string }[] = [];
  for (const [i, row] of rows.entries()) {
    if (i % AT_A_TIME === 0) await goOn();
    const found = plan(row);
    if (found.status === "refused") errors.push(...found.faults.map((detail) => ({ pointer: `/rows/${i}`, detail })));
    else accepted.push(found);
  }
  if (errors.length === 0) return accepted;
  throw new Refusal("invalid", `${errors.length} places in this table can't be accepted. Nothing was written.`, {
    errors: errors.slice(0, 1000),
  });
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
    const same = c.offers.findIndex(
      (o) => o.pack.toLowerCase() === offer.pack.toLowerCase() && (o.supplier ?? null) === (offer.supplier ?? null),
    );
    c.offers = same < 0 ? [...c.offers, offer] : c.offers.with(same, { ...offer, steps: c.offers[same]!.steps });
  }
  return [...byId.values()].map(inputOf);
}

async function postStock(
  session: Session,
  kind: Intake,
  { requestKey, person, name }: ImportRequest,
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
