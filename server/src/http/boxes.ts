import { billAsCsv, billOf } from "@jar-count/core/bom";
import { type BoxDetail, SaveBox } from "@jar-count/core/contract";
import { costOf } from "@jar-count/core/cost";
import { Router } from "express";
import { deleteBox, findBox, listBoxes, lockBox, putBox, tagOfBox } from "../store/boxes.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { pinnedDesigns } from "../store/designs.ts";
import { notFound, stale } from "../refusal.ts";
import { read, readId } from "./problem.ts";
import { heldList } from "./unchanged.ts";

export function boxRoutes(db: Database): Router {
  const routes = Router();

  routes.get("/", async (_req, res) => {
    res.json(await listBoxes(db));
  });

  routes.get(
    "/:id",
    heldList(
      (req) => tagOfBox(db, readId(req.params.id)),
      (req) => detail(db, readId(req.params.id)),
    ),
  );

  routes.get("/:id/bill.csv", async (req, res) => {
    const found = await detail(db, readId(req.params.id));
    const bill = billOf(found);
    res.attachment(`${found.box.month} ${found.box.theme}.csv`).type("text/csv; charset=utf-8");
    res.send(billAsCsv(found, bill, costOf(bill)));
  });

  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    const { version, box } = read(SaveBox, req.body);
    const saved = await inTransaction(db, async (session) => {
      const known = (await lockBox(session, id)) ?? 0;
      if (known !== version) throw stale("This box", known > 0 ? await detail(session, id) : undefined);
      await putBox(session, id, box);
      return detail(session, id);
    });
    res.status(version === 0 ? 201 : 200).json(saved);
  });

  routes.delete("/:id", async (req, res) => {
    const id = readId(req.params.id);
    await inTransaction(db, async (session) => {
      const known = await lockBox(session, id);
      if (known === undefined) throw notFound("This box");
      if (String(known) !== req.query.version) throw stale("This box", await detail(session, id));
      await deleteBox(session, id);
    });
    res.status(204).end();
  });

  return routes;
}

async function detail(db: Session, id: string): Promise<BoxDetail> {
  const box = await findBox(db, id);
  if (!box) throw notFound("This box");
  const designs = await pinnedDesigns(db, id);
  const components = await findComponents(db, [...new Set(box.picks.map((p) => p.component))]);
  return { box, designs, components };
}
