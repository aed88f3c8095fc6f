import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { randomUUID } from "node:crypto";
import { addressOf, API, ROUTE_NAMES, type RouteName, type RouteSpec } from "@jar-count/core/contract";
import pg from "pg";
import { makeApp } from "../../src/http/app.ts";
import { closeDatabases, type Databases, openDatabase, openDatabases } from "../../src/store/database.ts";
import { balancesThatDiffer } from "../../src/store/ledger.ts";
import { bringUpToDate, makeDatabase } from "../harness.ts";

/** How long anything may take to be answered, ms. */
const LIMIT = 30_000;

export interface Sent {
  status: number;
  body: unknown;
}

/** Something that must never be: what was asked, and what came of it. */
export class Found extends Error {}

interface Running {
  server: Server;
  databases: Databases;
  url: string;
  /** What it was asked and has not answered yet. */
  under: Set<string>;
}

async function serve(databaseUrl: string): Promise<Running> {
  const databases = openDatabases(databaseUrl);
  const app = makeApp(databases, null);
  const under = new Set<string>();
  let nr = 0;
  const server = createServer((request, response) => {
    const asked = `${++nr}: ${request.method} ${request.url}`;
    under.add(asked);
    response.once("close", () => under.delete(asked));
    app(request, response);
  });
  await new Promise<void>((up) => server.listen(0, "127.0.0.1", up));
  return { server, databases, url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, under };
}

async function end({ server, databases }: Running) {
  server.closeAllConnections();
  await new Promise((over) => server.close(over));
  await closeDatabases(databases);
}

/** A schema to copy: making it anew for each sequence would take longer than the sequence. */
export class Template {
  private constructor(
    private readonly admin: pg.Client,
    private readonly name: string,
    private readonly urls: { url: string; ownerUrl: string },
  ) {}

  static async make(): Promise<Template> {
    const urls = await makeDatabase();
    await bringUpToDate(urls.url, urls.ownerUrl);
    const admin = new pg.Client(process.env.TEST_OWNER_URL!);
    await admin.connect();
    return new Template(admin, new URL(urls.url).pathname.slice(1), urls);
  }

  /** A database of its own, for as long as something is done with it. */
  async copy<T>(use: (urls: { url: string; ownerUrl: string }) => Promise<T>): Promise<T> {
    const name = `fuzz_${randomUUID().replaceAll("-", "")}`;
    await this.admin.query(`create database ${name} template ${this.name}`);
    const on = (address: string) => address.replace(/\/[^/]*$/, `/${name}`);
    try {
      return await use({ url: on(this.urls.url), ownerUrl: on(this.urls.ownerUrl) });
    } finally {
      await this.admin.query(`drop database if exists ${name} with (force)`);
    }
  }

  end = () => this.admin.end();
}

/** A workshop with two servers, what is known of it, and what must hold of it at any time. */
export class World {
  /** Ids by what they are of. */
  ids: Record<string, string[]> = {};
  /** Writes that were answered, to be sent again. */
  kept: { method: string; path: string; body: unknown; status: number }[] = [];
  writes = 0;
  statuses = new Map<number, number>();
  private log: string[] = [];

  private constructor(
    private readonly running: readonly [Running, Running],
    private readonly owner: pg.Pool,
  ) {}

  static async open({ url, ownerUrl }: { url: string; ownerUrl: string }): Promise<World> {
    return new World([await serve(url), await serve(url)], openDatabase(ownerUrl));
  }

  async close() {
    await Promise.allSettled(this.running.map(end));
    await this.owner.end();
  }

  know(what: string, id: string) {
    (this.ids[what] ??= []).push(id);
  }

  private fault(why: string): Found {
    return new Found(`${why}\n${this.log.slice(-40).join("\n")}`);
  }

  /** Sends to one of the servers, and as the page does, reads again what is told to wait. */
  async send(which: number, method: string, path: string, body?: unknown): Promise<Sent> {
    for (let tries = 1; ; tries++) {
      const sent = await this.sendOnce(which, method, path, body);
      if (method !== "GET" || sent.status !== 503) return sent;
      if (tries === 20) throw this.fault(`${path} is told to wait for good: ${JSON.stringify(sent.body)}`);
      await new Promise((next) => setTimeout(next, 20 * tries));
    }
  }

  /** Anything but an answer in time is found, and so is a fault of ours. */
  private async sendOnce(which: number, method: string, path: string, body?: unknown): Promise<Sent> {
    const isBytes = body instanceof Uint8Array;
    if (method !== "GET") this.writes++;
    this.log.push(`${method} ${path} ${isBytes ? `${body.length} bytes` : (JSON.stringify(body) ?? "").slice(0, 600)}`);
    const at = this.log.length - 1;
    let answer: Response;
    let text: string;
    const began = performance.now();
    const late = setTimeout(() => void this.lookAround(), LIMIT / 2);
    try {
      answer = await fetch(this.running[which % 2]!.url + path, {
        method,
        signal: AbortSignal.timeout(LIMIT),
        ...(body === undefined ? {} : { body: isBytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
        ...(body === undefined
          ? {}
          : { headers: { "content-type": isBytes ? "application/zip" : "application/json" } }),
      });
      text = await answer.text();
    } catch (error) {
      throw this.fault(`Not answered: ${method} ${path}: ${(error as Error).message}`);
    } finally {
      clearTimeout(late);
    }
    const ms = performance.now() - began;
    if (process.env.SLOW && ms > Number(process.env.SLOW)) {
      console.log(`${Math.round(ms)} ms ${answer.status} ${this.log[at]!.slice(0, 200)}`);
    }
    this.log[at] += ` → ${answer.status}`;
    this.statuses.set(answer.status, (this.statuses.get(answer.status) ?? 0) + 1);
    const parsed: unknown = /json/.test(answer.headers.get("content-type") ?? "") ? JSON.parse(text) : text;
    if (answer.status === 500) throw this.fault(`A fault: ${method} ${path}: ${text}`);
    return { status: answer.status, body: parsed };
  }

  /** Where something takes long: what servers and database are at, for whoever looks for why. */
  private async lookAround(): Promise<void> {
    for (const [i, { under, databases }] of this.running.entries()) {
      const pools = Object.entries(databases).map(
        ([name, p]) => `${name} ${p.totalCount} (${p.idleCount} idle, ${p.waitingCount} wait)`,
      );
      this.log.push(`server ${i}: ${[...under].join("; ")}; connections: ${pools.join(", ")}`);
    }
    const { rows } = await this.owner.query(
      `select state, wait_event_type || ' ' || wait_event as waits, now() - query_start as since,
         left(query, 300) as query
       from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`,
    );
    for (const row of rows) this.log.push(`database: ${JSON.stringify(row)}`);
  }

  /** A write that may be sent again later. */
  async write(which: number, method: string, path: string, body: unknown): Promise<Sent> {
    const sent = await this.send(which, method, path, body);
    if (sent.status < 500) this.kept.push({ method, path, body, status: sent.status });
    if (this.kept.length > 30) this.kept.shift();
    return sent;
  }

  /** Asks, and is gone after so many ms. */
  async abort(which: number, ms: number, method: string, path: string, body?: unknown): Promise<void> {
    if (method !== "GET") this.writes++;
    this.log.push(`${method} ${path} given up after ${ms} ms`);
    await fetch(this.running[which % 2]!.url + path, {
      method,
      signal: AbortSignal.timeout(ms),
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { "content-type": "application/json" } }),
    })
      .then((answer) => answer.arrayBuffer())
      .catch(() => {});
  }

  /** Cuts the servers' connections to the database, some in the midst of their work. */
  async cut(): Promise<void> {
    this.log.push("connections cut");
    await this.owner.query(
      `select pg_terminate_backend(pid) from pg_stat_activity
       where datname = current_database() and usename <> current_user and pid <> pg_backend_pid()`,
    );
  }

  /** What must hold after whatever was done. */
  async check(elsewhere: Template): Promise<void> {
    const differ = await balancesThatDiffer(this.owner);
    if (differ.length > 0) throw this.fault(`Books that differ: ${JSON.stringify(differ)}`);
    for (const [what, sql] of Object.entries(NEVER)) {
      const { rows } = await this.owner.query<{ n: number }>(`select count(*)::int as n from (${sql}) x`);
      if (rows[0]!.n > 0) throw this.fault(`${rows[0]!.n} × ${what}`);
    }
    await this.readAll();
    const out = await this.archive(this.running[0]!.url);
    await elsewhere.copy(async (urls) => {
      const there = await serve(urls.url);
      try {
        const headers = { "content-type": "application/zip" };
        const taken = await fetch(`${there.url}/api/archive`, {
          method: "POST",
          headers,
          body: out as Uint8Array<ArrayBuffer>,
        });
        if (taken.status !== 201) throw this.fault(`An archive that does not come in: ${await taken.text()}`);
        const again = await this.archive(there.url);
        if (!again.equals(out)) throw this.fault("An archive that is another one when it is brought in.");
      } finally {
        await end(there);
      }
    });
  }

  private async archive(url: string): Promise<Buffer> {
    const answer = await fetch(`${url}/api/archive`, { signal: AbortSignal.timeout(LIMIT) });
    if (answer.status !== 200) throw this.fault(`No archive: ${answer.status} ${await answer.text()}`);
    return Buffer.from(await answer.arrayBuffer());
  }

  /** Everything that pages read answers, and by the contract. */
  private async readAll(): Promise<void> {
    for (const name of ROUTE_NAMES) {
      const spec: RouteSpec = API[name];
      if (spec.method !== "get" || spec.answer === null || SKIPPED.has(name)) continue;
      // Sheets take long to make, and say what the rest says.
      if (spec.answer === "application/pdf" && this.writes % 8 !== 0) continue;
      const kind = /^\/(\w+)/.exec(spec.path)![1]!;
      const params = Object.keys(spec.params ?? {});
      if (params.length > 1 || (params.length === 1 && params[0] !== "id")) continue;
      const targets = params.length === 0 ? [undefined] : (this.ids[kind] ?? []).slice(-3);
      for (const id of targets) {
        const asked = spec.query?.before ? { before: "1" } : spec.query?.line ? null : {};
        if (asked === null) continue;
        const { status, body } = await this.send(0, "GET", addressOf(name, id ? { id } : {}, asked));
        if (status >= 500) throw this.fault(`${name} is not answered: ${JSON.stringify(body)}`);
        if (status !== 200 || typeof spec.answer === "string") continue;
        const found = spec.answer.safeParse(body);
        if (!found.success) throw this.fault(`${name} answers what its contract does not know: ${found.error.message}`);
      }
    }
  }
}

/** Not asked for themselves: what goes out of the machine, and what is asked of everything at the end. */
const SKIPPED = new Set<RouteName>(["askShop", "readPostage", "downloadArchive", "emptyArchive", "readPriceList"]);

/** What must be true of no row, beside what the books say themselves. */
const NEVER: Record<string, string> = {
  "balances below zero": `select from balances where quantity < 0`,
  "reservations of boxes that are sent or stopped": `select from reservations r join run_needs n on n.id = r.need_id
     join runs u on u.id = n.run_id where u.state = 'sent' or u.stopped_at is not null`,
  "needs of a variant in a planned run, or of none in another": `select from run_needs n join runs u on u.id = n.run_id
     where (u.state = 'planned') <> (n.variant_id is null)`,
  "packed boxes of a run that is not packed": `select from packed_boxes k join runs u on u.id = k.run_id
     where u.state not in ('packing', 'sent')`,
  "runs that are packing without a packed box": `select from runs u where u.state = 'packing'
     and not exists (select from packed_boxes k where k.run_id = u.id)`,
  "order lines of which boxes speak for more than is to come": `select from order_lines l where l.spoken_for >
     greatest(l.quantity - l.received, 0)`,
  "entries without a movement": `select from entries e
     where not exists (select from movements m where m.entry_id = e.id)`,
  "entries that are reversed twice": `select reverses from entries where reverses is not null group by 1
     having count(*) > 1`,
  "values left where nothing is": `select from component_totals where on_hand = 0 and value <> 0`,
};
