import {
  API,
  findUnfit,
  type RouteAnswer,
  type RouteName,
  type RouteRequest,
  ROUTE_NAMES,
  type RouteSpec,
} from "@jar-count/core/contract";
import express, { type Request, type Response, Router } from "express";
import { z } from "zod";
import type { IncomingMessage, ServerResponse } from "node:http";
import { MOST_DEPTH, sizeOfJson } from "../limits/index.ts";
import { readAs, readParams, Refusal, wrongAt } from "../refusal/index.ts";
import { Cached } from "./cached.ts";
import { type Answered, Reply } from "./reply.ts";

/** What a handler may need of the request beside what its contract says. */
export interface Context {
  /** The address by which the server was reached. */
  here: string;
  /** Aborted when nobody waits for the answer any more. */
  signal: AbortSignal;
}

export type Handler<N extends RouteName> = (
  request: RouteRequest<N>,
  context: Context,
) => Promise<Answered<RouteAnswer<N>>> | Answered<RouteAnswer<N>>;

/** One for each route of the table: none can be forgotten, and none can be made up. */
export type Handlers = { [N in RouteName]: Handler<N> };

/** The API's router, made from the table of its routes: reads by the contract, calls, sends. */
export function makeRouter(handlers: Handlers): Router {
  const router = Router();
  for (const name of ROUTE_NAMES) {
    const spec: RouteSpec = API[name];
    const params = z.object(spec.params ?? {});
    const query = z.object(spec.query ?? {});
    // The types meet here, once: what is read by a route's schemas is what its handler was written for.
    const handle = handlers[name] as (request: object, context: Context) => Promise<unknown>;
    const path = expressPath(spec);
    router[spec.method](path, ...readers(spec), async (req: Request, res: Response) => {
      const request = {
        params: readParams(params, req.params),
        query: readAs(query, readText(req.query)),
        body: bodyOf(spec, req),
      };
      const here = `${req.protocol}://${req.get("host") ?? "localhost"}`;
      const left = new AbortController();
      res.once("close", () => left.abort());
      const answer = await handle(request, { here, signal: left.signal });
      if (left.signal.aborted) return;
      if (answer instanceof Cached) sendCached(req, res, answer);
      else if (answer instanceof Reply) sendReply(res, answer);
      else if (spec.answer === null) res.status(204).end();
      else res.status(spec.status?.at(-1) ?? 200).json(answer);
    });
  }
  for (const [path, methods] of methodsByPath()) {
    router.all(path, (req, res) => {
      res.set("Allow", methods.join(", "));
      throw new Refusal("wrong-method", `${req.method} is not done here: ${methods.join(", ")}.`);
    });
  }
  return router;
}

const expressPath = ({ path }: RouteSpec) => path.replace(/\{(\w+)\}/g, ":$1");

/** Which methods an address takes: one that is asked in another way says so. Fixed words before parameters. */
function methodsByPath(): Map<string, string[]> {
  const methods = new Map<string, string[]>();
  for (const name of ROUTE_NAMES) {
    const spec: RouteSpec = API[name];
    const path = expressPath(spec);
    methods.set(path, [...(methods.get(path) ?? []), spec.method.toUpperCase()]);
  }
  return methods;
}

/** The most values in a JSON body, where its route says nothing. */
const MOST_VALUES = 100_000;

function readers(spec: RouteSpec) {
  if (spec.body === undefined) return [];
  const limit = spec.limit ?? "2mb";
  if (typeof spec.body === "string") return [express.raw({ type: spec.body, limit })];
  const most = spec.most ?? MOST_VALUES;
  const few = (_req: IncomingMessage, _res: ServerResponse, bytes: Buffer) => {
    const { values, depth } = sizeOfJson(bytes);
    if (values > most) {
      throw new Refusal("too-heavy", `This holds more than ${most.toLocaleString("en")} values. Split it.`);
    }
    if (depth > MOST_DEPTH.body) {
      throw new Refusal("invalid", `This goes more than ${MOST_DEPTH.body} levels deep, and nothing here does.`);
    }
  };
  return [
    spec.raw ? express.raw({ type: "application/json", limit, verify: few }) : express.json({ limit, verify: few }),
  ];
}

function bodyOf(spec: RouteSpec, req: Request): unknown {
  if (spec.body === undefined) return undefined;
  if (typeof spec.body !== "string" && !spec.raw) return readAs(spec.body, readText(req.body));
  if (!Buffer.isBuffer(req.body))
    throw new Refusal("wrong-media-type", `Send it as ${spec.raw ? "application/json" : spec.body}.`);
  return req.body;
}

/** Text that no database keeps is refused in its place, whatever the schema thinks of it. */
function readText(body: unknown): unknown {
  const unfit = findUnfit(body);
  if (unfit) throw wrongAt(unfit.pointer, unfit.detail);
  return body;
}

function sendReply(res: Response, { status, body, file }: Reply) {
  res.status(status);
  if (file) res.attachment(file.name).type(file.type).send(body);
  else res.json(body);
}

/** Bytes made before, packed where that is understood; 304 where the client has them. */
function sendCached(req: Request, res: Response, cached: Cached) {
  const tag = `"${cached.tag}"`;
  res.set({ ETag: tag, "Cache-Control": "no-cache", Vary: "Accept-Encoding" });
  if (req.get("If-None-Match") === tag) return void res.status(304).end();
  const packed = req.acceptsEncodings("gzip") === "gzip";
  if (packed) res.set("Content-Encoding", "gzip");
  res.type("json").send(packed ? cached.packed : cached.plain);
}
