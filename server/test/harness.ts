import type { AddressInfo } from "node:net";
import { createServer, type Server } from "node:http";
import { randomUUID } from "node:crypto";
import { fileURLToPath } from "node:url";
import {
  addressOf,
  API,
  type RouteAnswer,
  type RouteArguments,
  type RouteName,
  type RouteSpec,
} from "@jar-count/core/contract";
import pg from "pg";
import { expect, vi } from "vitest";
import { seedDemo } from "../src/work/demo.ts";
import { makeApp } from "../src/http/app.ts";
import { makeQueue } from "../src/jobs/jobs.ts";
import { closeDatabases, type Database, type Databases, openDatabase, openDatabases } from "../src/store/database.ts";
import { serveStandIns } from "../src/standins/serve.ts";
import { migrate } from "../src/store/migrate.ts";
import { grantTo } from "../src/store/roles.ts";

const root = fileURLToPath(new URL("../../", import.meta.url));

export const MIGRATIONS = `${root}server/migrations`;

export interface TestServer {
  /** As the server has it: its role owns nothing. */
  db: Database;
  databases: Databases;
  /** As the job process has it. */
  owner: Database;
  ownerUrl: string;
  url: string;
  databaseUrl: string;
  /** Where the simulated carrier and shop are. */
  standIns: string;
  /** Sends JSON and answers status and parsed body. */
  send: <T = unknown>(
    method: string,
    path: string,
    body?: unknown,
  ) => Promise<{ status: number; body: T; headers: Headers }>;
  /** Calls a route by its name; an answer that its contract does not know is an error. */
  call: <N extends RouteName>(name: N, ...call: RouteArguments<N>) => Promise<RouteAnswer<N>>;
  stop: () => Promise<void>;
}

/**
 * A server of its own on a database of its own, in the test cluster that scripts/test.mjs starts; or a second one on
 * another's.
 */
export async function startServer({
  demo = false,
  beside,
}: { demo?: boolean; beside?: TestServer } = {}): Promise<TestServer> {
  if (beside) return serve(beside.databaseUrl, beside.ownerUrl);
  const { url, ownerUrl } = await makeDatabase();
  await bringUpToDate(url, ownerUrl);
  if (demo) {
    const db = openDatabase(url);
    await seedDemo(db);
    await db.end();
  }
  return serve(url, ownerUrl);
}

/** An empty database in the test cluster that scripts/test.mjs starts: its address for the server and for the owner. */
export async function makeDatabase(): Promise<{ url: string; ownerUrl: string }> {
  const [url, ownerUrl] = [process.env.TEST_DATABASE_URL, process.env.TEST_OWNER_URL];
  if (!url || !ownerUrl) throw new Error("TEST_DATABASE_URL is not set: run these tests with npm run test:server.");
  const name = `test_${randomUUID().replaceAll("-", "")}`;
  const admin = new pg.Client(ownerUrl);
  await admin.connect();
  await admin.query(`create database ${name}`);
  await admin.end();
  const on = (address: string) => address.replace(/\/[^/]*$/, `/${name}`);
  return { url: on(url), ownerUrl: on(ownerUrl) };
}

/** What the job process does before a server starts. */
export async function bringUpToDate(url: string, ownerUrl: string): Promise<void> {
  const owner = openDatabase(ownerUrl);
  await migrate(ownerUrl, MIGRATIONS, {
    after: async (client) => {
      await makeQueue(owner);
      await grantTo(client, new URL(url).username);
    },
  });
  await owner.end();
}

/**
 * The carrier's table once it was asked with this result: again and again, since on a busy machine any answer may be
 * a late one.
 * @param fault what is wrong with the answer
 */
export const postageWith = (server: TestServer, fault: RegExp | null) =>
  vi.waitFor(
    async () => {
      const answer = await server.call("readPostage");
      if (fault) expect(answer.fault).toMatch(fault);
      else expect(answer.fault).toBeNull();
      return answer;
    },
    { timeout: 60_000 },
  );

/** Writes people, suppliers and places over what is there now. */
export async function putRooms(server: TestServer, rooms: object) {
  const { version } = await server.call("readRooms");
  return server.send("PUT", "/api/rooms", { version, rooms });
}

async function serve(url: string, ownerUrl: string): Promise<TestServer> {
  const databases = openDatabases(url);
  const { work: db } = databases;
  const owner = openDatabase(ownerUrl);
  const standIns = await serveStandIns();
  const server: Server = createServer(makeApp(databases, null, { listen: "127.0.0.1", standIns: standIns.url }));
  // Longer than a test pauses: a connection that is closed just as it is used again fails its request.
  server.keepAliveTimeout = 120_000;
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const send: TestServer["send"] = async <T>(method: string, path: string, body?: unknown) => {
    const init =
      body === undefined
        ? {}
        : {
            headers: { "content-type": "application/json" },
            body: typeof body === "string" ? body : JSON.stringify(body),
          };
    const res = await fetch(`${base}${path}`, { method, ...init });
    const text = await res.text();
    const json = /json/.test(res.headers.get("content-type") ?? "");
    return { status: res.status, headers: res.headers, body: (json ? JSON.parse(text) : text) as T };
  };
  return {
    db,
    databases,
    owner,
    ownerUrl,
    url: base,
    databaseUrl: url,
    standIns: standIns.url,
    send,
    async call<N extends RouteName>(name: N, ...[call]: RouteArguments<N>) {
      const spec: RouteSpec = API[name];
      const answer = await send(spec.method.toUpperCase(), addressOf(name, call?.params, call?.query), call?.body);
      if (answer.status >= 300) throw new Error(`${name}: ${JSON.stringify(answer.body)}`);
      return read(spec.answer, answer.body) as RouteAnswer<N>;
    },
    async stop() {
      await new Promise((resolve) => server.close(resolve));
      standIns.server.closeAllConnections();
      standIns.server.close();
      await closeDatabases(databases);
      await owner.end();
    },
  };
}

/** Reads an answer by its schema; a field that the schema does not know is an error as well. */
function read(answer: RouteSpec["answer"], body: unknown): unknown {
  if (answer === null || typeof answer === "string") return body;
  const found = answer.parse(body);
  expect(found).toEqual(body);
  return found;
}
