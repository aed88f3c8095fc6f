import compression from "compression";
import express, { type Express } from "express";
import packedFiles from "express-static-gzip";
import helmet from "helmet";
import { existsSync } from "node:fs";
import { notFound, Refusal } from "../refusal/index.ts";
import type { Databases } from "../store/database.ts";
import { findWorkshop } from "../store/workshop.ts";
import { keepDoor } from "./door.ts";
import { makeHandlers } from "./handlers.ts";
import { answerWithProblem } from "./problem.ts";
import { makeRouter } from "./router.ts";

interface Door {
  /** The address that the server listens on. */
  listen: string;
  /** Where the simulated carrier and shop are reached; null where there are none. */
  standIns?: string | null;
  /** Whether this server is about to end: what is asked of it then is told to wait for the next one. */
  stopping?: () => boolean;
}

/** The whole server: the API under /api, and the built interface from `webFolder` for every other address. */
export function makeApp(databases: Databases, webFolder: string | null, door: Door = { listen: "127.0.0.1" }): Express {
  const { listen, standIns = null, stopping = () => false } = door;
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
          "base-uri": ["'none'"],
          "form-action": ["'self'"],
          "frame-ancestors": ["'none'"],
        },
      },
      strictTransportSecurity: false, // plain http on loopback
    }),
  );
  app.use((_req, res, next) => {
    if (!stopping()) return next();
    res.set("Connection", "close");
    throw new Refusal("away", "The server is being stopped. Nothing was saved; it is tried again.");
  });
  app.use(keepDoor(listen, async () => (await findWorkshop(databases.reading)).publicAddress));
  app.use("/api", compression({ threshold: 1024 }), makeRouter(makeHandlers(databases, standIns)), () => {
    throw notFound("This address");
  });

  if (webFolder && existsSync(webFolder)) {
    // The build packs each file once; here it is only sent.
    const serve = (folder: string, options: object) =>
      packedFiles(folder, { enableBrotli: true, orderPreference: ["br", "gz"], index: false, ...options });
    app.use("/assets", serve(`${webFolder}/assets`, { serveStatic: { immutable: true, maxAge: "1y" } }));
    app.use(serve(webFolder, {}));
    app.use((req, res, next) => {
      if (req.method !== "GET" && req.method !== "HEAD") {
        res.set("Allow", "GET, HEAD");
        throw new Refusal("wrong-method", `${req.method} is not done here: GET, HEAD.`);
      }
      // Every address of the interface is one page; a file that is not there is no address of it.
      if (/^\/[^/]+\.\w{1,8}$/.test(req.path) || req.path.startsWith("/assets/")) throw notFound("This file");
      next();
    });
    // The bench screen of packing is a page of its own, so that a phone need not fetch the rest.
    const page = (name: string) => (_req: express.Request, res: express.Response) => {
      res.set("Cache-Control", "no-cache").sendFile(name, { root: webFolder });
    };
    app.get("/pack/{*path}", (req, res) => {
      const box = /^\/pack\/([0-9a-f-]{36})$/.exec(req.path)?.[1];
      // What it will ask for first comes along with its code.
      if (box) res.set("Link", `</api/boxes/${box}/packing>; rel=preload; as=fetch; crossorigin`);
      page("pack.html")(req, res);
    });
    app.get("/{*path}", page("index.html"));
  }
  app.use(answerWithProblem);
  return app;
}
