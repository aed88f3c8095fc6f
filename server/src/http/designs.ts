import { Design, SaveDesign, Trial } from "@jar-count/core/contract";
import { Router } from "express";
import { z } from "zod";
import { type Database, inTransaction } from "../store/database.ts";
import {
  addRevision,
  findDesign,
  findRevision,
  listDesigns,
  listRevisions,
  listTrials,
  lockDesign,
  putTrial,
  setArchived,
  tagOfDesigns,
} from "../store/designs.ts";
import { notFound, stale } from "../refusal.ts";
import { read, readId } from "./problem.ts";
import { heldList } from "./unchanged.ts";

export function designRoutes(db: Database): Router {
  const routes = Router();

  routes.get(
    "/",
    heldList(
      () => tagOfDesigns(db),
      () => listDesigns(db),
    ),
  );

  routes.get("/:id", async (req, res) => {
    const found = await findDesign(db, readId(req.params.id));
    if (!found) throw notFound("This design");
    res.json(found);
  });

  routes.get("/:id/file", async (req, res) => {
    const found = await findDesign(db, readId(req.params.id));
    if (!found) throw notFound("This design");
    res
      .attachment(`${found.name}.jarcount.json`)
      .type("json")
      .send(`${JSON.stringify(Design.parse(found.design), null, 2)}\n`);
  });

  routes.get("/:id/revisions", async (req, res) => {
    res.json(await listRevisions(db, readId(req.params.id)));
  });

  routes.get("/:id/revisions/:no", async (req, res) => {
    const no = Number(req.params.no);
    const found =
      Number.isSafeInteger(no) && no > 0 && no < 2 ** 31
        ? await findRevision(db, readId(req.params.id), no)
        : undefined;
    if (!found) throw notFound("This revision");
    res.json(found);
  });

  routes.get("/:id/trials", async (req, res) => {
    res.json(await listTrials(db, readId(req.params.id)));
  });

  routes.put("/:id/trials/:trial", async (req, res) => {
    const id = readId(req.params.id);
    const trial = read(Trial, { ...(req.body as object), id: req.params.trial }) as Trial;
    await putTrial(db, id, trial);
    res.json(await listTrials(db, id));
  });

  routes.put("/:id/archived", async (req, res) => {
    const id = readId(req.params.id);
    const { archived } = read(z.strictObject({ archived: z.boolean() }), req.body);
    if (!(await setArchived(db, id, archived))) throw notFound("This design");
    res.json(await findDesign(db, id));
  });

  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    const { revision, reason, design } = read(SaveDesign, req.body);
    const saved = await inTransaction(db, async (session) => {
      const newest = (await lockDesign(session, id)) ?? 0;
      if (newest !== revision) throw stale("This design", await findDesign(session, id));
      await addRevision(session, id, revision + 1, design, reason);
      return findDesign(session, id);
    });
    res.status(revision === 0 ? 201 : 200).json(saved);
  });

  return routes;
}
