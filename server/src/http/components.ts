import { ComponentDetail, SaveComponent, StockEntry } from "@jar-count/core/contract";
import { Router } from "express";
import { findComponents, listComponents, listMovements, lockComponent, moveStock, putComponent } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { once } from "../store/requests.ts";
import { notFound, stale, wrongAt } from "../refusal.ts";
import { read, readId } from "./problem.ts";

export function componentRoutes(db: Database): Router {
  const routes = Router();

  routes.get("/", async (_req, res) => {
    res.json(await listComponents(db));
  });

  routes.get("/:id", async (req, res) => {
    res.json(await detail(db, readId(req.params.id)));
  });

  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    const { version, component } = read(SaveComponent, req.body);
    const saved = await inTransaction(db, async (session) => {
      const known = await lockComponent(session, id);
      if ((known?.version ?? 0) !== version) throw stale("This component", known && (await detail(session, id)));
      const before = known && (await detail(session, id)).component;
      if (before?.moved && before.baseUnit !== component.baseUnit) {
        throw wrongAt("/component/baseUnit", `Stock has moved in ${before.baseUnit}, so the unit is fixed. Make a new component for another unit.`);
      }
      await putComponent(session, id, component);
      return detail(session, id);
    });
    res.status(version === 0 ? 201 : 200).json(saved);
  });

  routes.post("/:id/stock", async (req, res) => {
    const id = readId(req.params.id);
    const entry = read(StockEntry, req.body) as Required<StockEntry>;
    const answer = await inTransaction(db, (session) =>
      once(session, entry.requestKey, { id, entry }, async () => {
        const component = await lockComponent(session, id);
        if (!component) throw notFound("This component");
        if (component.baseUnit === "piece" && !Number.isInteger(entry.quantity)) {
          throw wrongAt("/quantity", "This is kept in pieces: write a whole number.");
        }
        await moveStock(session, id, entry);
        return detail(session, id);
      }),
    );
    res.status(201).json(answer);
  });

  return routes;
}

async function detail(db: Session, id: string): Promise<ComponentDetail> {
  const [component] = await findComponents(db, [id]);
  if (!component) throw notFound("This component");
  return { component, movements: await listMovements(db, id) };
}
