import compression from "compression";
import express, { type Express } from "express";
import packedFiles from "express-static-gzip";
import helmet from "helmet";
import { existsSync } from "node:fs";
import { notFound } from "../refusal/index.ts";
import type { Database } from "../store/database.ts";
import { makeHandlers } from "./handlers.ts";
import { answerWithProblem } from "./problem.ts";
import { makeRouter } from "./router.ts";

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
  app.use("/api", compression({ threshold: 1024 }), makeRouter(makeHandlers(db)), () => {
    throw notFound("This address");
  });

  if (webFolder && existsSync(webFolder)) {
    // The build packs each file once; here it is only sent.
    const serve = (folder: string, options: object) =>
      packedFiles(folder, { enableBrotli: true, orderPreference: ["br", "gz"], index: false, ...options });
    app.use(
      "/assets",
      serve(`${webFolder}/assets`, { serveStatic: { immutable: true, maxAge: "1y", fallthrough: false } }),
    );
    app.use(serve(webFolder, {}));
    app.get("/{*path}", (_req, res) => {
      res.set("Cache-Control", "no-cache").sendFile("index.html", { root: webFolder });
    });
  }
  app.use(answerWithProblem);
  return app;
}
