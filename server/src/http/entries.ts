import { Reverse } from "@jar-count/core/contract";
import { Router } from "express";
import type { z } from "zod";
import { type Database, inTransaction } from "../store/database.ts";
import { reverseEntry } from "../store/ledger.ts";
import { once } from "../store/requests.ts";
import { notFound } from "../refusal.ts";
import { read } from "./problem.ts";

/** One click takes a mistake back. */
export function entryRoutes(db: Database): Router {
  const routes = Router();
  routes.post("/:id/reverse", async (req, res) => {
    if (!/^\d{1,18}$/.test(req.params.id)) throw notFound("This entry");
    const by = read(Reverse, req.body) as z.output<typeof Reverse>;
    const components = await inTransaction(db, (session) =>
      once(session, by.requestKey, { id: req.params.id, by }, () => reverseEntry(session, req.params.id, by)),
    );
    res.status(201).json({ components });
  });
  return routes;
}
