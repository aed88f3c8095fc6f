import { CountRequest, Workshop } from "@jar-count/core/contract";
import { count } from "@jar-count/core/count";
import express, { type Express } from "express";
import helmet from "helmet";
import { existsSync } from "node:fs";
import type { Database } from "../store/database.ts";
import { archiveRoutes } from "./archive.ts";
import { boxRoutes } from "./boxes.ts";
import { componentRoutes } from "./components.ts";
import { designRoutes } from "./designs.ts";
import { importRoutes } from "./imports.ts";
import { labelRoutes } from "./labels.ts";
import { orderRoutes } from "./orders.ts";
import { entryRoutes } from "./entries.ts";
import { roomRoutes } from "./rooms.ts";
import { stocktakeRoutes } from "./stocktakes.ts";
import { notFound } from "../refusal.ts";
import { describeApi } from "./openapi.ts";
import { answerWithProblem, read } from "./problem.ts";

/** The whole server: the API under /api, and the built interface from `webFolder` for every other address. */
export function makeApp(db: Database, webFolder: string | null): Express {
  const app = express();
  app.disable("x-powered-by");
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        // The editor writes its own style element; nothing else is inline.
        directives: {
          "default-src": ["'self'"],
          "style-src": ["'self'", "'unsafe-inline'"],
          "img-src": ["'self'", "data:", "blob:"],
          "object-src": ["'none'"],
          "frame-ancestors": ["'none'"],
        },
      },
      strictTransportSecurity: false, // plain http on loopback
    }),
  );
  app.use("/api/imports", importRoutes(db));
  app.use(express.json({ limit: "10mb" }));

  app.get("/api/health", async (_req, res) => {
    await db.query("select 1");
    res.json({ status: "ok", database: "ok" });
  });
  app.post("/api/count", (req, res) => {
    const { design, size, option, components } = read(CountRequest, req.body);
    res.json(count(design, { size: size ?? null, option: option ?? null, colourway: components ?? null }));
  });
  app.get("/api/workshop", async (_req, res) => {
    const { rows } = await db.query<Workshop>(`select name, currency, public_address as "publicAddress" from workshop`);
    res.json(rows[0]);
  });
  app.put("/api/workshop", async (req, res) => {
    const workshop = read(Workshop, req.body) as Workshop;
    await db.query(`update workshop set name = $1, currency = $2, public_address = $3`, [
      workshop.name,
      workshop.currency,
      workshop.publicAddress,
    ]);
    res.json(workshop);
  });
  app.use("/api/archive", archiveRoutes(db));
  app.get("/api/openapi.json", (_req, res) => {
    res.json(describeApi());
  });
  app.use("/api/components", componentRoutes(db));
  app.use("/api/entries", entryRoutes(db));
  app.use("/api/labels", labelRoutes(db));
  app.use("/api/rooms", roomRoutes(db));
  app.use("/api/orders", orderRoutes(db));
  app.use("/api/stocktakes", stocktakeRoutes(db));
  app.use("/api/designs", designRoutes(db));
  app.use("/api/boxes", boxRoutes(db));
  app.use("/api", () => {
    throw notFound("This address");
  });

  if (webFolder && existsSync(webFolder)) {
    app.use("/assets", express.static(`${webFolder}/assets`, { immutable: true, maxAge: "1y", fallthrough: false }));
    app.use(express.static(webFolder, { index: false }));
    app.get("/{*path}", (_req, res) => {
      res.set("Cache-Control", "no-cache").sendFile("index.html", { root: webFolder });
    });
  }
  app.use(answerWithProblem);
  return app;
}
