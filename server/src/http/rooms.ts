import { Rooms } from "@jar-count/core/contract";
import { Router } from "express";
import { type Database, inTransaction } from "../store/database.ts";
import { refreshPromises } from "../store/ledger.ts";
import { listRooms, putRooms } from "../store/rooms.ts";
import { wrongAt } from "../refusal.ts";
import { read } from "./problem.ts";

/** People, suppliers and places. */
export function roomRoutes(db: Database): Router {
  const routes = Router();
  routes.get("/", async (_req, res) => {
    res.json(await listRooms(db));
  });
  routes.put("/", async (req, res) => {
    const rooms = read(Rooms, req.body) as Rooms;
    if (rooms.places.every((p) => p.held))
      throw wrongAt("/places", "Keep at least one place that is not for what is held back.");
    await inTransaction(db, async (session) => {
      const { rows } = await session.query<{ id: string }>(`select component_id as id from component_totals`);
      await putRooms(session, rooms);
      await refreshPromises(
        session,
        rows.map((r) => r.id),
      );
    });
    res.json(await listRooms(db));
  });
  return routes;
}
