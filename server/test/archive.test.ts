import { createHash, randomUUID } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, writeFileSync, readdirSync, cpSync, existsSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { ComponentDetail, ErrorBody, RestorePlan, Restoring } from "@jar-count/core/contract";
import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import fc from "fast-check";
import Papa from "papaparse";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { packArchive } from "../src/archive/index.ts";
import { backUpBeforeMigration, type Keeper, undump } from "../src/backup/index.ts";
import { type Kept, outdated } from "../src/backup/keep.ts";
import { restoreFile } from "../src/jobs/restore.ts";
import { addJob, doJobs, startJobs } from "../src/jobs/jobs.ts";
import { exportWorkshop } from "../src/store/archive.ts";
import { noteCare } from "../src/store/care.ts";
import { openDatabase } from "../src/store/database.ts";
import { migrate } from "../src/store/migrate.ts";
import { bringUpToDate, makeDatabase, MIGRATIONS, startServer, type TestServer } from "./harness.ts";
import { inDemo } from "../../core/test/demoDay.ts";

/** What comes out of a workshop comes back the same or not at all; and is made, proved and kept by itself. */
let demo: TestServer;
beforeAll(async () => {
  demo = await startServer({ demo: true });
});
afterAll(() => demo.stop());

const folders: string[] = [];
const folder = () => {
  const made = mkdtempSync(join(tmpdir(), "jar-count-backups-"));
  folders.push(made);
  return made;
};
afterEach(() => {
  for (const f of folders.splice(0)) rmSync(f, { recursive: true });
});
const keeperOf = (server: TestServer): Keeper => ({
  owner: server.owner,
  ownerUrl: server.ownerUrl,
  folder: folder(),
  migrations: MIGRATIONS,
});

const download = async (server: TestServer) =>
  new Uint8Array(await (await fetch(`${server.url}/api/archive`)).arrayBuffer());
async function send<T = ErrorBody>(server: TestServer, method: string, path: string, zip: Uint8Array) {
  const res = await fetch(`${server.url}${path}`, {
    method,
    headers: { "content-type": "application/zip" },
    body: Buffer.from(zip),
  });
  return { status: res.status, body: (await res.json()) as T };
}
const bring = (server: TestServer, zip: Uint8Array) => send(server, "POST", "/api/archive", zip);
const changed = (zip: Uint8Array, path: string, change: (text: string) => string | Uint8Array) => {
  const files = unzipSync(zip);
  const now = change(strFromU8(files[path]!));
  return zipSync({ ...files, [path]: typeof now === "string" ? strToU8(now) : now });
};
/** Changed, and the seal made to fit: as somebody would who means to. */
function resealed(zip: Uint8Array, path: string, change: (text: string) => string): Uint8Array {
  const bytes = strToU8(change(strFromU8(unzipSync(zip)[path]!)));
  return changed(
    changed(zip, path, () => bytes),
    "manifest.json",
    (text) => {
      const manifest = JSON.parse(text) as { files: Record<string, object> };
      const sha256 = createHash("sha256").update(bytes).digest("hex");
      manifest.files[path] = { ...manifest.files[path], bytes: bytes.length, sha256 };
      return JSON.stringify(manifest);
    },
  );
}
/** The whole workshop as it is, packed again with something of it changed: its seal is right. */
async function sealed(change: (archive: Awaited<ReturnType<typeof exportWorkshop>>) => void): Promise<Uint8Array> {
  const archive = await exportWorkshop(demo.owner);
  change(archive);
  return packArchive(archive);
}

describe("an archive that is not whole", () => {
  let empty: TestServer;
  beforeAll(async () => {
    empty = await startServer();
  });
  afterAll(() => empty.stop());
  const refused = async (zip: Uint8Array, pointer: string, detail: RegExp) => {
    const answer = await bring(empty, zip);
    expect(answer.status).toBe(422);
    expect(answer.body.errors?.find((e) => e.pointer === pointer)?.detail, JSON.stringify(answer.body)).toMatch(detail);
    expect((await empty.call("listComponents")).components).toEqual([]);
  };

  test("cut off at a line's end, changed by a letter, with a file too few or too many: by name", async () => {
    const zip = await download(demo);
    const cut = (text: string) => text.split("\r\n").slice(0, 40).join("\r\n") + "\r\n";
    await refused(changed(zip, "ledger.csv", cut), "/ledger.csv", /39 rows, and was written with 2630/);
    await refused(
      changed(zip, "people.csv", (t) => t.replace("Wren", "Wran")),
      "/people.csv",
      /changed since/,
    );
    const { "jars.csv": _jars, ...fewer } = unzipSync(zip);
    await refused(zipSync(fewer), "/jars.csv", /missing/);
    await refused(zipSync({ ...unzipSync(zip), "more.csv": strToU8("a\r\n") }), "/more.csv", /does not know/);
    const { "manifest.json": _manifest, ...bare } = unzipSync(zip);
    await refused(zipSync(bare), "/manifest.json", /missing/);
  });

  test("in broken UTF-8, or with text that no database keeps, is refused", async () => {
    const zip = await download(demo);
    await refused(
      changed(zip, "people.csv", (t) => Uint8Array.from([...strToU8(t), 0xc3, 0x28])),
      "/people.csv",
      /not UTF-8/,
    );
    const nul = await sealed((a) => (a.workshop.name = "Quarry\0Lane"));
    await refused(nul, "/workshop/name", /NUL/);
  });

  test("whose books do not follow from its ledger is refused, with the jar by its code", async () => {
    const value = await sealed((a) => {
      const line = a.ledger.find((l) => Number(l.value) > 1)!;
      line.value = String(Number(line.value) + 1);
    });
    await refused(value, "/ledger.csv", /The total of \S+ does not follow/);
    const balance = await sealed((a) => (a.balances[3]!.quantity += 1));
    await refused(balance, "/ledger.csv", /A balance of \S+ does not follow/);
    const received = await sealed((a) => {
      const order = a.orders.find((o) => !a.setAside.some((r) => r.orderLine === o.lines[0]!.id))!;
      order.received[order.lines[0]!.id] = order.lines[0]!.quantity + 7;
    });
    await refused(received, "/ledger.csv", /The total of/);
  });

  test("in which boxes speak for more than is to come, or a need is covered twice, is refused", async () => {
    const tooMuch = await sealed((a) => {
      const waiting = a.setAside.find((r) => r.orderLine != null)!;
      const order = a.orders.find((o) => o.lines.some((l) => l.id === waiting.orderLine))!;
      order.received[waiting.orderLine!] = order.lines.find((l) => l.id === waiting.orderLine)!.quantity;
    });
    await refused(tooMuch, "/set-aside.csv", /speak for more/);
    const twice = await sealed((a) => {
      const covering = a.setAside.find((r) => r.need != null)!;
      a.setAside.push({ ...covering, id: randomUUID() });
    });
    await refused(twice, "/set-aside.csv", /covered twice/);
    const stranger = randomUUID();
    const nobody = await sealed((a) => (a.runs[0]!.box = stranger));
    await refused(nobody, `/runs/${stranger}.json`, /no box/);
  });

  test("whose orders received what they never ordered, or in which every place is held, is refused", async () => {
    const zip = await sealed((a) => (a.orders[0]!.received[randomUUID()] = 5));
    const answer = await bring(empty, zip);
    expect(answer.body.errors?.[0]!.detail).toMatch(/line .* that it lacks/);
    const held = resealed(await download(demo), "places.csv", (text) => text.replaceAll(/,\r\n/g, ",yes\r\n"));
    expect((await bring(empty, held)).body.errors?.[0]!.detail).toMatch(/not for what is held back/);
  });
});

test("bytes that are any are refused, or are the archive itself: never half of one (property)", async () => {
  const zip = await download(demo);
  const { openArchive } = await import("../src/archive/index.ts");
  fc.assert(
    fc.property(fc.integer({ min: 0, max: zip.length - 1 }), fc.integer({ min: 1, max: 255 }), (at, by) => {
      const damaged = zip.slice();
      damaged[at] = damaged[at]! ^ by;
      const found = openArchive(damaged);
      // A sign in the zip's own bookkeeping (a time, a comment's length) may change and harm nothing.
      if ("archive" in found) expect(Buffer.from(packArchive(found.archive)).equals(zip)).toBe(true);
    }),
    { numRuns: 60 },
  );
});

test("what was counted keeps its worth, though its price is another by now", async () => {
  const [from, to] = await Promise.all([startServer(), startServer()]);
  const id = randomUUID();
  const component = (price: string) => ({
    code: "R6",
    name: "6 mm round",
    kind: "bead",
    colour: "#d9982f",
    finish: "clear",
    baseUnit: "piece",
    offers: [{ pack: "strand of 50", amount: 50, unit: "piece", price }],
  });
  await from.send("PUT", `/api/components/${id}`, { version: 0, component: component("2.80") });
  await from.send("POST", `/api/components/${id}/stock`, { requestKey: randomUUID(), kind: "counted", quantity: 100 });
  await from.send("PUT", `/api/components/${id}`, { version: 1, component: component("9.99") });
  const zip = await download(from);
  expect((await bring(to, zip)).status).toBe(201);
  const [before, after] = await Promise.all(
    [from, to].map(async (s) => (await s.send<ComponentDetail>("GET", `/api/components/${id}`)).body),
  );
  expect(after!.component).toEqual(before!.component);
  expect(after!.component.averageCost).toBe("0.05600000");
  expect(Buffer.from(await download(to)).equals(Buffer.from(zip))).toBe(true);
  await Promise.all([from.stop(), to.stop()]);
});

test("entries whose movements were written by turns go out one after the other, and come in the same", async () => {
  const [from, to] = await Promise.all([startServer(), startServer()]);
  const [a, b, c] = await Promise.all(
    ["A", "B", "C"].map(async (code) => {
      const id = randomUUID();
      const component = { code, name: code, kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece" };
      await from.send("PUT", `/api/components/${id}`, { version: 0, component });
      return id;
    }),
  );
  const [one, two] = [await from.owner.connect(), await from.owner.connect()];
  const begin = async (session: typeof one) => {
    await session.query("begin");
    const made = await session.query<{ id: string }>(
      `insert into entries (kind, request_key) values ('received', gen_random_uuid()) returning id`,
    );
    return (component: string, quantity: number) =>
      session.query(
        `insert into movements (entry_id, component_id, place_id, quantity, balance)
         select $1, $2, id, $3::numeric, $3::numeric from places`,
        [made.rows[0]!.id, component, quantity],
      );
  };
  const [first, second] = [await begin(one), await begin(two)];
  await first(a!, 3);
  await second(b!, 4);
  await first(c!, 5);
  for (const session of [one, two]) {
    await session.query("commit");
    session.release();
  }
  const zip = await download(from);
  expect(await bring(to, zip)).toMatchObject({ status: 201 });
  expect(Buffer.from(await download(to)).equals(Buffer.from(zip))).toBe(true);
  await Promise.all([from.stop(), to.stop()]);
});

test("an archive of the version before comes in with its stock, without a seal to be held against", async () => {
  const older = await startServer();
  const files: Record<string, Uint8Array> = {};
  const root = new URL("../../demo/", import.meta.url).pathname;
  for (const entry of readdirSync(root, { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name);
    if (entry.isFile()) files[path.slice(root.length)] = readFileSync(path);
  }
  // As that version wrote it: without what came since.
  const since = ["runs/", "money.json", "sales.csv"];
  const old = Object.fromEntries(Object.entries(files).filter(([path]) => !since.some((s) => path.startsWith(s))));
  const without = { "components.csv": ["thick_mm", "version"], "offers.csv": ["id"] };
  const books = {
    "ledger.csv": ["order_line", "run", "need"],
    "set-aside.csv": ["person", "released", "need", "order_line"],
  };
  for (const [path, columns] of Object.entries({ ...without, ...books })) {
    const { data } = Papa.parse<Record<string, string>>(strFromU8(files[path]!), {
      header: true,
      skipEmptyLines: true,
    });
    for (const row of data) for (const column of columns) delete row[column];
    old[path] = strToU8(Papa.unparse(data));
  }
  for (const path of Object.keys(old).filter((p) => p.startsWith("boxes/"))) {
    old[path] = strToU8(JSON.stringify({ ...(JSON.parse(strFromU8(old[path]!)) as object), prices: [], whatIfs: [] }));
  }
  // Its worth is told beforehand as that of the newer one.
  const [before, now] = await Promise.all(
    [zipSync(old), await download(demo)].map((z) => send<RestorePlan>(older, "POST", "/api/archive/plan", z)),
  );
  // Its files are of another day, so what moved last is too.
  expect(inDemo(before!.body.archive), JSON.stringify(before!.body)).toEqual(now!.body.archive);
  expect((await bring(older, zipSync(old))).status).toBe(201);
  const stock = async (of: TestServer) =>
    (await of.call("listComponents")).components.map(({ code, onHand, averageCost }) => [code, onHand, averageCost]);
  expect(await stock(older)).toEqual(await stock(demo));
  // One that only says that it is so old is told by what is in it.
  const relabelled = await bring(older, zipSync(files));
  expect(relabelled).toMatchObject({ status: 422, body: { code: "invalid" } });
  expect(relabelled.body.errors!.map((e) => e.pointer)).toContain("/ledger.csv");
  await older.stop();
});

describe("in the place of what is there", () => {
  test("both are shown first, what was here is kept in a proved archive, and every tag is new", async () => {
    const here = await startServer();
    const keeper = keeperOf(here);
    const id = randomUUID();
    await here.send("PUT", `/api/components/${id}`, {
      version: 0,
      component: { code: "ONLY", name: "here", kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece" },
    });
    await here.send("POST", `/api/components/${id}/stock`, {
      requestKey: randomUUID(),
      kind: "received",
      quantity: 4,
      cost: "2",
    });
    expect((await here.call("listComponents")).components).toHaveLength(1);
    const before = await download(here);
    const zip = await download(demo);
    expect((await bring(here, zip)).body.code).toBe("not-empty");
    expect((await send<object>(here, "POST", "/api/archive/plan", zip)).body).toMatchObject({
      here: { components: 1, movements: 1, value: "2.00", openOrders: 0 },
      archive: { name: "Quarry Lane Bead Post", components: 122, designs: 16, boxes: 5, movements: 2630 },
    });
    const restore = randomUUID();
    // Where nobody does it, nothing is laid down.
    expect((await send(here, "PUT", `/api/restores/${restore}`, zip)).body.code).toBe("no-jobs");
    await noteCare(here.owner, "jobs", { folder: keeper.folder });
    expect((await send(here, "PUT", `/api/restores/${restore}`, zip)).status).toBe(202);
    expect((await send<Restoring>(here, "PUT", `/api/restores/${restore}`, zip)).body.state).toBe("waiting");
    await doJobs(keeper);
    const done = await here.call("readRestore", { params: { id: restore } });
    expect(done).toMatchObject({ state: "done", fault: null });
    expect(readFileSync(join(keeper.folder, done.kept!)).equals(Buffer.from(before))).toBe(true);
    expect(readdirSync(keeper.folder)).toEqual([done.kept]);
    expect((await here.call("readCare")).backups).toMatchObject([{ file: done.kept, reason: "before a restore" }]);
    // What the server held of the old one is not taken for the new one's.
    expect((await here.call("listComponents")).components).toHaveLength(122);
    expect(Buffer.from(await download(here)).equals(Buffer.from(zip))).toBe(true);
    // And what appends only is appended to only, again.
    await expect(here.owner.query("delete from movements")).rejects.toThrow(/append-only/);
    await here.stop();
  });

  test("an archive that turns out not to fit leaves everything as it was, and says why", async () => {
    const here = await startServer({ demo: true });
    const keeper = keeperOf(here);
    await noteCare(here.owner, "jobs", { folder: keeper.folder });
    const zip = await sealed((a) => (a.balances[3]!.quantity += 1));
    const id = randomUUID();
    expect((await send(here, "PUT", `/api/restores/${id}`, zip)).status).toBe(202);
    await doJobs(keeper);
    const failed = await here.call("readRestore", { params: { id } });
    expect(failed).toMatchObject({ state: "failed", fault: expect.stringMatching(/do not agree/) });
    // What was kept of what is all still here is not kept twice.
    expect(readdirSync(keeper.folder)).toEqual([]);
    expect(Buffer.from(await download(here)).equals(Buffer.from(await download(demo)))).toBe(true);
    await here.stop();
  });
});

test("a restore whose job process was killed in its midst is taken up by the next one", async () => {
  const here = await startServer();
  const keeper = keeperOf(here);
  await noteCare(here.owner, "jobs", { folder: keeper.folder });
  const zip = await download(demo);
  const id = randomUUID();
  expect((await send(here, "PUT", `/api/restores/${id}`, zip)).status).toBe(202);
  // As a killed one leaves it: taken by a worker that is not there any more.
  await here.owner.query(`update graphile_worker._private_jobs set locked_at = now(), locked_by = 'gone'`);
  const jobs = await startJobs(keeper);
  while ((await here.call("readRestore", { params: { id } })).state === "waiting") {
    await new Promise((next) => setTimeout(next, 50));
  }
  await jobs.stop();
  expect(await here.call("readRestore", { params: { id } })).toMatchObject({ state: "done", kept: null });
  expect(Buffer.from(await download(here)).equals(Buffer.from(zip))).toBe(true);
  await here.stop();
});

describe("backup by itself", () => {
  test("is made, proved to the byte in a scratch database that is gone again, and shown", async () => {
    const keeper = keeperOf(demo);
    expect((await demo.call("health")).backupOld).toBe(true);
    await noteCare(demo.owner, "jobs", { folder: keeper.folder });
    await demo.call("askBackUp");
    await doJobs(keeper);
    const care = await demo.call("readCare");
    expect(care).toMatchObject({ jobs: true, old: false, folder: keeper.folder, books: null });
    const [backup] = care.backups;
    expect(backup).toMatchObject({ reason: "asked for", fault: null, provedAt: expect.any(String) });
    expect(readFileSync(join(keeper.folder, backup!.file)).equals(Buffer.from(await download(demo)))).toBe(true);
    const { rows } = await demo.owner.query(`select from pg_database where datname like 'jarcount\\_scratch\\_%'`);
    expect(rows).toEqual([]);
    await addJob(demo.owner, "check-books");
    await doJobs(keeper);
    expect(await demo.call("health")).toMatchObject({ backupOld: false, booksDiffer: 0 });
    // One at every start would be too many.
    await addJob(demo.owner, "back-up-if-old");
    await doJobs(keeper);
    expect(readdirSync(keeper.folder)).toHaveLength(1);
  });

  test("from an empty machine by its file; in the place of something only when that is said", async () => {
    const keeper = keeperOf(demo);
    const file = join(keeper.folder, "mine.jarcount.zip");
    writeFileSync(file, await download(demo));
    const { url, ownerUrl } = await makeDatabase();
    const owner = openDatabase(ownerUrl);
    const other = { ...keeper, owner, ownerUrl };
    await restoreFile(other, file, false, () => bringUpToDate(url, ownerUrl));
    const there = await startServer({ beside: { databaseUrl: url, ownerUrl } as TestServer });
    expect(Buffer.from(await download(there)).equals(readFileSync(file))).toBe(true);
    await expect(restoreFile(other, file, false, () => Promise.resolve())).rejects.toThrow(/--replace/);
    await restoreFile(other, file, true, () => Promise.resolve());
    expect(readdirSync(keeper.folder).filter((f) => f.includes("before-a-restore"))).toHaveLength(1);
    await there.stop();
    await owner.end();
  });

  test("before a migration: a dump, proved table by table, that brings the old state back", async () => {
    const { url, ownerUrl } = await makeDatabase();
    const older = folder();
    for (const name of readdirSync(MIGRATIONS).sort().slice(0, 5)) cpSync(join(MIGRATIONS, name), join(older, name));
    await migrate(ownerUrl, older);
    const owner = openDatabase(ownerUrl);
    await owner.query(`update workshop set name = 'As it was'`);
    const kept = folder();
    let dumped = "";
    await migrate(ownerUrl, MIGRATIONS, {
      before: async () => {
        dumped = (await backUpBeforeMigration(ownerUrl, kept)).file;
      },
    });
    expect(existsSync(join(kept, dumped))).toBe(true);
    // Nothing to migrate any more: nothing is dumped.
    await migrate(ownerUrl, MIGRATIONS, { before: () => Promise.reject(new Error("dumped again")) });
    await owner.query(`update workshop set name = 'Changed'`);
    await undump(ownerUrl, join(kept, dumped));
    expect((await owner.query(`select name from workshop`)).rows).toEqual([{ name: "As it was" }]);
    expect((await owner.query(`select to_regclass('backups') as there`)).rows).toEqual([{ there: null }]);
    await bringUpToDate(url, ownerUrl);
    await owner.end();
  });

  test("a file that does not prove itself stands in the list with its fault, and fails the job", async () => {
    const here = await startServer({ demo: true });
    const keeper = { ...keeperOf(here), migrations: "/nowhere" };
    await addJob(here.owner, "back-up");
    await doJobs(keeper);
    expect(await here.call("readCare")).toMatchObject({
      fault: expect.stringMatching(/nowhere/),
      backups: [{ provedAt: null, fault: expect.stringMatching(/nowhere/) }],
    });
    expect((await here.call("health")).backupOld).toBe(true);
    await here.stop();
  });
});

describe("which backups are kept", () => {
  const at = (day: string, over: Partial<Kept> = {}): Kept => ({
    file: `${day} ${JSON.stringify(over)}`,
    madeAt: new Date(day),
    proved: true,
    before: false,
    ...over,
  });
  const now = new Date("2027-12-31T12:00:00Z");
  const nightly = Array.from({ length: 400 }, (_, i) =>
    at(new Date(now.getTime() - i * 86_400_000).toISOString().slice(0, 10) + "T02:30:00Z"),
  );

  test("of a year of nights: seven days, five weeks, twelve months", () => {
    const gone = new Set(outdated(nightly, now));
    const kept = nightly.filter((b) => !gone.has(b.file)).map((b) => b.file.slice(0, 10));
    // Worked by hand with a calendar of 2027: the week of 31 December began on Monday 27.
    expect(kept).toEqual([
      ...["2027-12-31", "2027-12-30", "2027-12-29", "2027-12-28", "2027-12-27", "2027-12-26", "2027-12-25"],
      ...["2027-12-19", "2027-12-12", "2027-12-05", "2027-11-30", "2027-10-31", "2027-09-30", "2027-08-31"],
      ...["2027-07-31", "2027-06-30", "2027-05-31", "2027-04-30", "2027-03-31", "2027-02-28", "2027-01-31"],
    ]);
  });
  test("one that is not proved keeps no other from staying, and one from before a change stays five weeks", () => {
    const list = [
      at("2027-12-30T02:30:00Z"),
      at("2027-12-30T08:00:00Z", { proved: false }),
      at("2027-12-01T02:30:00Z", { proved: false }),
      at("2027-12-10T09:00:00Z", { before: true }),
      at("2027-12-10T10:00:00Z"),
      at("2027-10-10T09:00:00Z", { before: true }),
      at("2027-10-10T10:00:00Z"),
    ];
    expect(outdated(list, now).map((f) => f.slice(0, 16))).toEqual(["2027-12-01T02:30", "2027-10-10T09:00"]);
  });
});
