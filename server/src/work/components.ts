import { inputOf } from "@jar-count/core/component";
import type {
  ChangeComponents,
  ComponentDetail,
  ComponentList,
  Movement,
  PlaceComponents,
  SaveComponent,
} from "@jar-count/core/contract";
import { movesTo } from "@jar-count/core/stock";
import type { z } from "zod";
import { notFound, Refusal, stale, wrongAt } from "../refusal/index.ts";
import {
  findByCode,
  findComponents,
  findVersion,
  listChanged,
  putComponents,
  readAsOf,
  whatIsWritten,
  writeAllComponents,
} from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { stampOf } from "../store/workshop.ts";
import { findEntryBy, listBalances, listMovements, lockTotals } from "../store/ledger.ts";
import { dueOf } from "../store/orders.ts";
import { doOnce, writeOnce } from "../store/requests.ts";
import { listReservations } from "../store/reservations.ts";
import { listRooms } from "../store/rooms.ts";
import { listSpokenBy } from "../store/runs.ts";
import { openBook, postEntry } from "./book.ts";

/** So many movements of a jar come at once. */
const PAGE = 50;
/** So many changed components come at once. */
const CHANGES = 1000;

/** Every component as JSON text of a `ComponentList`: made by the database, for there may be thousands. */
export async function allComponents(db: Session): Promise<string> {
  // Asked first: what commits while the list is read is sent again, and nothing is missed.
  const asOf = await readAsOf(db);
  return `{"workshop":"${await stampOf(db)}","asOf":"${asOf}","components":${await writeAllComponents(db)}}`;
}

/** The components that changed since an earlier list, in parts. */
export async function changedComponents(db: Session, since: string, after: string | null): Promise<ComponentList> {
  const asOf = await readAsOf(db);
  const components = await listChanged(db, since, after, CHANGES);
  return {
    workshop: await stampOf(db),
    components,
    asOf,
    next: components.length === CHANGES ? components.at(-1)!.id : null,
  };
}

/** One component with what stands in its jars, what moved lately, and what is set aside and on order. */
export async function readJar(db: Session, id: string): Promise<ComponentDetail> {
  const [component] = await findComponents(db, [id]);
  if (!component) throw notFound("This component");
  return {
    component,
    balances: await listBalances(db, id),
    ...(await movementsOf(db, id, null)),
    setAside: await listReservations(db, id),
    spokenBy: await listSpokenBy(db, id),
    due: await dueOf(db, id),
  };
}

export async function readJarByCode(db: Session, code: string): Promise<ComponentDetail> {
  const id = await findByCode(db, code);
  if (!id) throw notFound(`A jar with the code ${code.slice(0, 40)}`);
  return readJar(db, id);
}

/** A page of a component's movements, and whether there are older ones. */
export async function movementsOf(
  db: Session,
  id: string,
  before: string | null,
): Promise<{ movements: Movement[]; older: boolean }> {
  const movements = await listMovements(db, id, before, PAGE + 1);
  return { movements: movements.slice(0, PAGE), older: movements.length > PAGE };
}

export function saveComponent(
  db: Database,
  id: string,
  { requestKey, version, component }: z.output<typeof SaveComponent>,
): Promise<ComponentDetail> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { id, version, component },
      async () => {
        await takeRecord(session, "component", id);
        await lockTotals(session, [id]);
        const known = await findVersion(session, id);
        if ((known?.version ?? 0) !== version) throw stale("This component", known && (await readJar(session, id)));
        if (known && known.baseUnit !== component.baseUnit) {
          const written = await whatIsWritten(session, id);
          if (written.length > 0) {
            throw wrongAt(
              "/component/baseUnit",
              `The unit is fixed, since ${written.join(", and ")}. Make a new component for another unit.`,
            );
          }
        }
        await putComponents(session, [{ id, ...component }]);
      },
      () => readJar(session, id),
    ),
  );
}

/** Changes some fields of several components, all or none. */
export function changeComponents(
  db: Database,
  { requestKey, changes }: z.output<typeof ChangeComponents>,
): Promise<{ changed: number }> {
  return inTransaction(db, (session) =>
    doOnce(session, requestKey, { changes }, async () => {
      const ids = changes.map((c) => c.id);
      await lockTotals(session, ids);
      const known = new Map((await findComponents(session, ids)).map((c) => [c.id, c]));
      const missing = changes.findIndex((c) => !known.has(c.id));
      if (missing >= 0) throw wrongAt(`/changes/${missing}/id`, "There is no such component.");
      const newer = changes.filter((c) => known.get(c.id)!.version !== c.version);
      if (newer.length > 0) {
        const { name } = known.get(newer[0]!.id)!;
        const others = newer.length > 1 ? ` and ${newer.length - 1} more` : "";
        throw new Refusal("stale", `${name}${others} changed since you looked. Nothing was changed; look again.`);
      }
      await putComponents(
        session,
        changes.map(({ id, set }) => ({ ...inputOf(known.get(id)!), ...set })),
      );
      return { changed: changes.length };
    }),
  );
}

/** Moves all that there is of several components to one place, as one entry of the ledger; what is held back stays. */
export function placeComponents(
  db: Database,
  asked: z.output<typeof PlaceComponents>,
): Promise<{ entry: string | null; moved: number }> {
  return inTransaction(db, (session) =>
    doOnce(session, asked.requestKey, asked, async () => {
      const { places } = await listRooms(session);
      const to = places.find((p) => p.id === asked.place);
      if (!to || to.held) throw wrongAt("/place", to ? "What is held back can't be used there." : "No such place.");
      const { spots } = await openBook(session, asked.components);
      const moves = movesTo(to.id, spots.values(), new Set(places.filter((p) => p.held).map((p) => p.id)));
      if (moves.length === 0) return { entry: null, moved: 0 };
      await postEntry(session, { kind: "moved", requestKey: asked.requestKey, person: asked.person }, moves, () => "");
      return {
        entry: await findEntryBy(session, asked.requestKey),
        moved: new Set(moves.map((m) => m.component)).size,
      };
    }),
  );
}
