import type { PostStocktake, Stocktake, StocktakeLine } from "@jar-count/core/contract";
import { spotKey, unfitFor } from "@jar-count/core/stock";
import { exact } from "@jar-count/core/units";
import type { z } from "zod";
import { notFound, stale, wrongAt } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { writeOnce } from "../store/requests.ts";
import { beginStocktake, findStocktake, markPosted, putStocktakeLine } from "../store/stocktakes.ts";
import { openBook, postEntry } from "./book.ts";

export async function readStocktake(db: Session, id: string): Promise<Stocktake> {
  const found = await findStocktake(db, id);
  if (!found) throw notFound("This stocktake");
  return found;
}

export const begin = (db: Database, id: string): Promise<Stocktake> =>
  inTransaction(db, async (session) => {
    await beginStocktake(session, id);
    return readStocktake(session, id);
  });

/** Writes down one jar of a walk, with what the book says of it at this moment. */
export function countJar(db: Database, id: string, line: z.output<typeof StocktakeLine>): Promise<Stocktake> {
  return inTransaction(db, async (session) => {
    await readStocktake(session, id);
    const [component] = await findComponents(session, [line.component]);
    if (!component) throw wrongAt("/component", "There is no such component.");
    const unfit = line.how === "skipped" ? null : unfitFor(component, line.stretchMm ?? 0, line.counted);
    if (unfit) throw wrongAt("/counted", unfit);
    await putStocktakeLine(session, id, line);
    return readStocktake(session, id);
  });
}

/** Posts jars of a walk to the ledger. What moved since a jar was counted has moved: the count is carried along. */
export function postStocktake(db: Database, id: string, asked: z.output<typeof PostStocktake>): Promise<Stocktake> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      { id, asked },
      async () => {
        // Claimed first: whoever posts the same jars at the same time waits here, and then finds them posted.
        const claimed = await markPosted(session, id, asked.lines);
        const walk = await readStocktake(session, id);
        const chosen = asked.lines.map((wanted, i) => {
          const line = walk.lines.find((l) => spotKey(spotOf(l)) === spotKey(spotOf(wanted)));
          if (!line || line.how === "skipped") throw wrongAt(`/lines/${i}`, "This jar was not counted on this walk.");
          if (wanted.counted != null && wanted.counted !== line.counted) {
            throw stale("This jar's count", walk);
          }
          return line;
        });
        if (claimed < chosen.length) {
          throw wrongAt(
            "/lines",
            "Some of these jars were posted already, or are named twice. Look at the walk again.",
          );
        }
        const { spots } = await openBook(
          session,
          chosen.map((l) => l.component),
        );
        const moves = chosen.map((l) => {
          const spot = spotOf(l);
          const now = spots.get(spotKey(spot))?.quantity ?? 0;
          return { ...spot, counted: Math.max(0, exact(l.counted + now - l.book)), u: l.u, entered: l.entered };
        });
        const entry = {
          kind: "counted",
          requestKey: asked.requestKey,
          person: asked.person,
          note: "Stocktake",
        } as const;
        await postEntry(session, entry, moves, (i) => `/lines/${i}`);
      },
      () => readStocktake(session, id),
    ),
  );
}

const spotOf = (l: { component: string; place: string; lot: string; stretchMm?: number | null | undefined }) => ({
  component: l.component,
  place: l.place,
  lot: l.lot,
  stretchMm: l.stretchMm ?? 0,
});
