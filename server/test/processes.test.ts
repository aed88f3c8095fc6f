import { type ChildProcess, fork, type Serializable } from "node:child_process";
import { randomUUID } from "node:crypto";
import { chmodSync, cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { Agent, createServer, get } from "node:http";
import { type AddressInfo, connect } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import type { ErrorBody } from "@jar-count/core/contract";
import pg from "pg";
import { afterEach, describe, expect, test } from "vitest";
import { clusterFolder } from "../../scripts/cluster.mjs";
import { end, startJobs, startServer as startProcess } from "../../scripts/serve.mjs";
import { makeApp } from "../src/http/app.ts";
import { closeDatabases, inTransaction, openDatabase, openDatabases } from "../src/store/database.ts";
import { isReady, lacking, migrate, NewerDatabase } from "../src/store/migrate.ts";
import { bringUpToDate, makeDatabase, MIGRATIONS, startServer } from "./harness.ts";

/** The processes of a workshop: started at the same time, cut off, started again. */
const root = fileURLToPath(new URL("../../", import.meta.url));
const running: ChildProcess[] = [];
const folders: string[] = [];
const folder = () => {
  const made = mkdtempSync(join(tmpdir(), "jar-count-"));
  folders.push(made);
  return made;
};
afterEach(async () => {
  await Promise.all(running.splice(0).map((child) => end(child)));
  for (const f of folders.splice(0)) rmSync(f, { recursive: true, force: true });
});
const keep = <T extends ChildProcess>(child: T): T => (running.push(child), child);
const over = (child: ChildProcess) =>
  new Promise<number | null>((ended) => (child.exitCode === null ? child.once("exit", ended) : ended(child.exitCode)));
async function until<T>(ask: () => Promise<T | null | undefined | false>): Promise<T> {
  for (;;) {
    const found = await ask().catch(() => null);
    if (found) return found;
    await new Promise((next) => setTimeout(next, 50));
  }
}

describe("the schema", () => {
  test("three that start at once on an empty database take turns, each with its job process and server", async () => {
    const { url, ownerUrl } = await makeDatabase();
    const backups = folder();
    const programs = process.env.PG_PROGRAMS;
    const started = await Promise.all(
      [1, 2, 3].map(async () => {
        // The server waits for the schema, whichever job process makes it.
        const server = startProcess({ url }).then((s) => (keep(s.child), s));
        keep(await startJobs({ url, ownerUrl, backups, programs }));
        return server;
      }),
    );
    for (const { url: address } of started) {
      expect(await (await fetch(`${address}/api/health`)).json()).toMatchObject({ status: "ok" });
    }
    const client = new pg.Client(ownerUrl);
    await client.connect();
    const { rows } = await client.query(
      `select count(*)::int as n, count(distinct name)::int as names from migrations`,
    );
    await client.end();
    const many = readdirSync(MIGRATIONS).length;
    expect(rows).toEqual([{ n: many, names: many }]);
  });

  test("one that is made, but of which the server's role is given nothing yet, is waited for", async () => {
    const { url, ownerUrl } = await makeDatabase();
    const db = openDatabase(url);
    expect(await isReady(db, MIGRATIONS)).toBe(false);
    await migrate(ownerUrl, MIGRATIONS);
    expect(await isReady(db, MIGRATIONS)).toBe(false);
    await bringUpToDate(url, ownerUrl);
    expect(await isReady(db, MIGRATIONS)).toBe(true);
    await db.end();
  });

  test("one that is newer than the program is refused with a sentence, by either process", async () => {
    const { url, ownerUrl } = await makeDatabase();
    await bringUpToDate(url, ownerUrl);
    const newer = folder();
    for (const name of readdirSync(MIGRATIONS)) cpSync(join(MIGRATIONS, name), join(newer, name));
    writeFileSync(join(newer, "0999_tomorrow.sql"), "-- Up Migration\nselect 1;\n");
    await migrate(ownerUrl, newer);
    await expect(migrate(ownerUrl, MIGRATIONS)).rejects.toThrow(NewerDatabase);
    const db = openDatabase(url);
    await expect(lacking(db, MIGRATIONS)).rejects.toThrow(/newer than this program: it has 0999_tomorrow/);
    await db.end();
    await expect(startProcess({ url })).rejects.toThrow(/ended by itself \(1\)/);
  });
});

describe("waiting has an end", () => {
  /** A server of our own with short limits, on a database of its own. */
  async function impatient(limits: Parameters<typeof openDatabase>[1]) {
    const whole = await startServer();
    const databases = openDatabases(whole.databaseUrl, limits);
    const { work: db } = databases;
    const server = createServer(makeApp(databases, null));
    await new Promise<void>((up) => server.listen(0, "127.0.0.1", up));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    return {
      db,
      owner: whole.owner,
      ask: async (path: string) => {
        const res = await fetch(`${url}${path}`);
        return { status: res.status, body: (await res.json()) as ErrorBody };
      },
      stop: async () => {
        await new Promise((closed) => server.close(closed));
        await closeDatabases(databases);
        await whole.stop();
      },
    };
  }
  const held = async <T>(owner: pg.Pool, sql: string, meanwhile: () => Promise<T>): Promise<T> => {
    const session = await owner.connect();
    await session.query("begin");
    await session.query(sql);
    try {
      return await meanwhile();
    } finally {
      await session.query("rollback");
      session.release();
    }
  };

  test("for a lock, for a statement, and for who does nothing inside a transaction", async () => {
    const locks = await impatient({ lock_timeout: 50 });
    const lock = "lock table heartbeat in access exclusive mode";
    const busy = await held(locks.owner, lock, () => locks.ask("/api/health"));
    expect(busy).toMatchObject({
      status: 503,
      body: { code: "busy", detail: expect.stringMatching(/Nothing was saved/) },
    });
    expect((await locks.ask("/api/health")).status).toBe(200);
    await locks.stop();

    const statements = await impatient({ lock_timeout: 0, statement_timeout: 50 });
    const slow = await held(statements.owner, lock, () => statements.ask("/api/health"));
    expect(slow).toMatchObject({ status: 503, body: { code: "busy" } });
    await statements.stop();

    const idle = await impatient({ idle_in_transaction_session_timeout: 50 });
    const gone = inTransaction(idle.db, async (session) => {
      await new Promise<void>((cut) => session.once("error", () => cut()));
      await session.query("select 1");
    });
    await expect(gone).rejects.toThrow();
    expect((await idle.ask("/api/health")).status).toBe(200);
    await idle.stop();
  });

  test("a disk without room fails the health check, with what to do", async () => {
    const whole = await impatient({});
    // The database's own code for a full disk (PostgreSQL's manual, appendix A: 53100).
    await whole.owner.query(
      `create function no_room() returns trigger language plpgsql as
         $$ begin raise exception 'could not extend file' using errcode = '53100'; end $$;
       create trigger no_room before update on heartbeat for each row execute function no_room()`,
    );
    expect(await whole.ask("/api/health")).toMatchObject({
      status: 507,
      body: { code: "disk-full", detail: expect.stringMatching(/make room/) },
    });
    await whole.stop();
  });

  test("a server that is told to stop is over, though somebody waits in it for a lock that never comes", async () => {
    const { url, ownerUrl } = await makeDatabase();
    await bringUpToDate(url, ownerUrl);
    const { child, url: address } = await startProcess({ url });
    keep(child);
    const owner = openDatabase(ownerUrl);
    await held(owner, "lock table workshop in access exclusive mode", async () => {
      const asked = fetch(`${address}/api/workshop`).then(
        (res) => `answered ${res.status}`,
        () => "cut off",
      );
      await until(async () => (await owner.query(`select from pg_locks where not granted`)).rowCount! > 0);
      child.kill("SIGTERM");
      expect(await over(child)).toBe(0);
      expect(await asked).toBe("cut off");
    });
    await owner.end();
  });
});

test("more connections than anybody needs are closed at once, and who is connected goes on being served", async () => {
  const { url, ownerUrl } = await makeDatabase();
  await bringUpToDate(url, ownerUrl);
  const { child, url: address } = await startProcess({ url });
  keep(child);
  const port = Number(new URL(address).port);
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const ask = () =>
    new Promise<number>((done, fail) => {
      get(`${address}/api/workshop`, { agent }, (res) => {
        res.resume().once("end", () => done(res.statusCode!));
      }).once("error", fail);
    });
  expect(await ask()).toBe(200);
  const sockets = Array.from({ length: 600 }, () => connect(port, "127.0.0.1"));
  const ends = await Promise.all(
    sockets.map(
      (socket) =>
        new Promise<"closed" | "open">((end) => {
          socket.on("error", () => {});
          socket.once("close", () => end("closed"));
          // Whoever was let in is answered; the rest hears nothing before it is closed.
          socket.once("data", () => end("open"));
          socket.write("GET /api/workshop HTTP/1.1\r\nHost: localhost\r\n\r\n");
        }),
    ),
  );
  expect(ends.filter((e) => e === "closed").length).toBeGreaterThanOrEqual(600 - 512);
  expect(ends.filter((e) => e === "open").length).toBeGreaterThan(400);
  expect(await ask()).toBe(200);
  for (const socket of sockets) socket.destroy();
  agent.destroy();
});

describe("the start script", () => {
  test("brings database and server up again where they ended by themselves, and stops cleanly", async () => {
    const data = folder();
    chmodSync(data, 0o755); // the postgres user must get in
    const script = keep(
      fork(join(root, "scripts/start.mjs"), [], {
        env: { ...process.env, DATA_FOLDER: data, DATABASE_URL: "", DATABASE_OWNER_URL: "" },
        stdio: ["ignore", "pipe", "pipe", "ipc"],
      }),
    );
    const said: Serializable[] = [];
    for (const stream of [script.stdout!, script.stderr!]) stream.on("data", (text: Buffer) => said.push(String(text)));
    const file = join(data, "running.json");
    await until(async () => Promise.resolve(existsSync(file)));
    const { url } = JSON.parse(readFileSync(file, "utf8")) as { url: string };
    const save = async (version: number, name: string) =>
      (
        await fetch(`${url}/api/workshop`, {
          method: "PUT",
          headers: { "content-type": "application/json" },
          body: JSON.stringify({ requestKey: randomUUID(), version, workshop: { name, currency: "GBP" } }),
        })
      ).status;
    expect(await save(1, "Before")).toBe(200);
    const pid = Number(readFileSync(join(clusterOf(data), "postmaster.pid"), "utf8").split("\n")[0]);
    process.kill(pid, "SIGKILL");
    const health = async () => (await fetch(`${url}/api/health`)).status;
    await until(async () => (await health()) === 503 || said.join("").includes("starting it again"));
    await until(async () => (await health()) === 200);
    expect(await (await fetch(`${url}/api/workshop`)).json()).toMatchObject({ name: "Before" });
    expect(await save(2, "After")).toBe(200);
    // So is a server that ended by itself, on its port.
    const { pid: parent } = script;
    const children = readFileSync(`/proc/${parent}/task/${parent}/children`, "utf8").trim().split(" ").map(Number);
    const main = children.find((child) => readFileSync(`/proc/${child}/cmdline`, "utf8").includes("main.js"))!;
    process.kill(main, "SIGKILL");
    await until(async () => said.join("").includes("The server ended by itself; starting it again"));
    await until(async () => (await health()) === 200);
    expect(await save(3, "After that")).toBe(200);
    script.kill("SIGTERM");
    expect(await over(script), said.join("")).toBe(0);
    expect(existsSync(file)).toBe(false);
  });
});

/** Where the cluster of a data folder lies. */
function clusterOf(data: string): string {
  const here = join(data, "workshop");
  return existsSync(here) ? here : clusterFolder("workshop");
}
