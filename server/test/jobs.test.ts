import { randomUUID } from "node:crypto";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import type { Keeper } from "../src/backup/index.ts";
import { addJob, doJobs } from "../src/jobs/jobs.ts";
import { MIGRATIONS, startServer, type TestServer } from "./harness.ts";

let server: TestServer;
let keeper: Keeper;
beforeAll(async () => {
  server = await startServer({ demo: true });
  const folder = mkdtempSync(join(tmpdir(), "jar-count-backups-"));
  keeper = { owner: server.owner, ownerUrl: server.ownerUrl, folder, migrations: MIGRATIONS };
});
afterAll(async () => {
  await server.stop();
  rmSync(keeper.folder, { recursive: true });
});

const failed = async () =>
  (
    await server.owner.query<{ task: string; error: string }>(
      `select task_identifier as task, last_error as error from graphile_worker.jobs where last_error is not null`,
    )
  ).rows;

test("answers are forgotten a month after they were given, and no sooner", async () => {
  const [old, fresh] = [randomUUID(), randomUUID()];
  await server.db.query(
    `insert into requests (key, body_hash, answer, answered_at)
     values ($1, '', '{}', now() - interval '31 days'), ($2, '', '{}', now() - interval '29 days')`,
    [old, fresh],
  );
  await addJob(server.owner, "forget-requests");
  await addJob(server.owner, "forget-requests");
  await doJobs(keeper);
  const { rows } = await server.db.query<{ key: string }>(`select key from requests where key = any($1)`, [
    [old, fresh],
  ]);
  expect(rows).toEqual([{ key: fresh }]);
  expect(await failed()).toEqual([]);
});

test("books that agree with the ledger pass the check; ones that do not fail it, and stay in sight", async () => {
  await addJob(server.owner, "check-books");
  await doJobs(keeper);
  expect(await failed()).toEqual([]);
  const right = await server.call("checkBooks");
  expect(right.differ).toEqual([]);
  expect(right.movements).toBeGreaterThan(100);

  await server.owner.query(`update balances set quantity = quantity + 1 where ctid = (select min(ctid) from balances)`);
  await addJob(server.owner, "check-books");
  await doJobs(keeper);
  expect(await failed()).toEqual([{ task: "check-books", error: expect.stringContaining("differ from the ledger") }]);
  const { differ } = await server.call("checkBooks");
  expect(differ).toEqual([expect.objectContaining({ code: expect.any(String), name: expect.any(String) })]);
  expect(differ[0]!.balance - differ[0]!.ledger).toBe(1);
});
