import { PostStocktake, StocktakeLine } from "@jar-count/core/contract";
import { spotKey } from "@jar-count/core/stock";
import { Router } from "express";
import type { z } from "zod";
import { type Database, inTransaction } from "../store/database.ts";
import { openBook, postEntry } from "../store/ledger.ts";
import { once } from "../store/requests.ts";
import {
  beginStocktake,
  findStocktake,
  listStocktakes,
  markPosted,
  putStocktakeLine,
  shelf,
} from "../store/stocktakes.ts";
import { notFound, wrongAt } from "../refusal.ts";
import { read, readId } from "./problem.ts";

/** Walks along the shelf. */
export function stocktakeRoutes(db: Database): Router {
  const routes = Router();
  routes.get("/", async (_req, res) => {
    res.json(await listStocktakes(db));
  });
  routes.get("/shelf", async (_req, res) => {
    res.json(await shelf(db));
  });
  routes.get("/:id", async (req, res) => {
    const found = await findStocktake(db, readId(req.params.id));
    if (!found) throw notFound("This stocktake");
    res.json(found);
  });
  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    await beginStocktake(db, id);
    res.status(201).json(await findStocktake(db, id));
  });
  routes.put("/:id/line", async (req, res) => {
    const id = readId(req.params.id);
    const line = read(StocktakeLine, req.body) as z.output<typeof StocktakeLine>;
    if (!(await findStocktake(db, id))) throw notFound("This stocktake");
    await putStocktakeLine(db, id, line);
    res.json(await findStocktake(db, id));
  });
  routes.post("/:id/post", async (req, res) => {
    const id = readId(req.params.id);
    const asked = read(PostStocktake, req.body) as z.output<typeof PostStocktake>;
    const answer = await inTransaction(db, (session) =>
      once(session, asked.requestKey, { id, asked }, async () => {
        const found = await findStocktake(session, id);
        if (!found) throw notFound("This stocktake");
        const chosen = asked.lines.map((l, i) => {
          const line = found.lines.find(
            (x) =>
              x.component === l.component &&
              x.place === l.place &&
              x.lot === l.lot &&
              (x.stretchMm ?? 0) === (l.stretchMm ?? 0),
          );
          if (!line || line.how === "skipped") throw wrongAt(`/lines/${i}`, "This jar was not counted on this walk.");
          if (line.posted) throw wrongAt(`/lines/${i}`, "This jar was posted already.");
          return line;
        });
        const { held } = await openBook(
          session,
          chosen.map((l) => l.component),
        );
        // What moved since the jar was counted has moved: the count is carried along with it.
        const moves = chosen.map((l) => {
          const spot = { component: l.component, place: l.place, lot: l.lot, stretchMm: l.stretchMm ?? 0 };
          const now = held.get(spotKey(spot))?.quantity ?? 0;
          return {
            ...spot,
            counted: Math.max(0, Math.round((l.counted + now - l.book) * 1000) / 1000),
            u: l.u,
            entered: l.entered,
          };
        });
        await postEntry(
          session,
          { kind: "counted", requestKey: asked.requestKey, person: asked.person, note: "Stocktake" },
          moves,
          (i) => `/lines/${i}`,
        );
        await markPosted(session, id, asked.lines);
        return findStocktake(session, id);
      }),
    );
    res.status(201).json(answer);
  });
  return routes;
}
