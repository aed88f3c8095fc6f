import { Uuid } from "@jar-count/core/contract";
import { Router } from "express";
import { z } from "zod";
import { labelSheet, labelsASheet } from "../labels/sheet.ts";
import { findComponents } from "../store/components.ts";
import type { Database } from "../store/database.ts";
import { notFound } from "../refusal.ts";
import { read } from "./problem.ts";

export const LabelRequest = z.strictObject({
  components: z.array(Uuid).min(1, "Choose at least one jar.").max(2000, "At most 2,000 labels at a time."),
  paper: z.enum(["a4", "letter"]),
  /** How many labels of the first sheet are used up already. */
  skip: z.int().min(0).max(29).default(0),
});

/** Sheets of labels for jars, as PDF. */
export function labelRoutes(db: Database): Router {
  const routes = Router();
  routes.post("/", async (req, res) => {
    const { components, paper, skip } = read(LabelRequest, req.body) as z.output<typeof LabelRequest>;
    const found = new Map((await findComponents(db, components)).map((c) => [c.id, c]));
    const { rows } = await db.query<{ address: string }>(`select public_address as address from workshop`);
    const list = components.flatMap((id) => found.get(id) ?? []);
    if (list.length === 0) throw notFound("These jars");
    const address = rows[0]!.address || `${req.protocol}://${req.get("host") ?? "localhost"}`;
    res
      .attachment("jar labels.pdf")
      .type("application/pdf")
      .send(await labelSheet(list, address, paper, Math.min(skip, labelsASheet(paper) - 1)));
  });
  return routes;
}
