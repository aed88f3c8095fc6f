import { execFileSync } from "node:child_process";
import { chmodSync, cpSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";
import { expect, test } from "vitest";
import { startCluster } from "../../scripts/cluster.mjs";
import { postgresPrograms } from "../../scripts/machine.mjs";

const ask = async (url: string, sql: string) => {
  const client = new pg.Client(url);
  await client.connect();
  try {
    return (await client.query(sql)).rows as Record<string, unknown>[];
  } finally {
    await client.end();
  }
};

test(
  "a private cluster stops cleanly, comes back with its data, and recovers from being killed hard",
  { timeout: 60_000 },
  async () => {
    const programs = postgresPrograms()!;
    const outside = mkdtempSync(join(tmpdir(), "jar-count-"));
    chmodSync(outside, 0o755); // the postgres user must get in
    const folder = join(outside, "pg");
    const state = () =>
      execFileSync(join(programs, "pg_controldata"), [folder], { encoding: "utf8" }).match(/cluster state:\s+(.*)/)![1];

    const first = await startCluster({ programs, folder });
    expect(first.url).toContain("@127.0.0.1:");
    await ask(first.url, "create table kept as select 7 as n");
    await first.stop();
    expect(state()).toBe("shut down");

    const second = await startCluster({ programs, folder });
    expect(await ask(second.url, "select n from kept")).toEqual([{ n: 7 }]);
    await ask(second.url, "update kept set n = 8");
    const pid = Number(readFileSync(join(folder, "postmaster.pid"), "utf8").split("\n")[0]);
    process.kill(pid, "SIGKILL");
    await second.ended;

    const third = await startCluster({ programs, folder });
    expect(await ask(third.url, "select n from kept")).toEqual([{ n: 8 }]);

    // Its start script is gone, but the cluster lives on: the next start takes over.
    const fourth = await startCluster({ programs, folder });
    await third.ended;
    expect(await ask(fourth.url, "select n from kept")).toEqual([{ n: 8 }]);
    await fourth.stop();

    const fresh = await startCluster({ programs, folder, fresh: true });
    expect(await ask(fresh.url, "select to_regclass('kept') as kept")).toEqual([{ kept: null }]);
    await fresh.stop();
    rmSync(outside, { recursive: true });
  },
);

test(
  "the scripts of a clone that only its owner may enter make a cluster, wherever that has to be",
  { timeout: 60_000 },
  async () => {
    const clone = mkdtempSync(join(tmpdir(), "jar-count-clone-")); // mode 0700
    cpSync(fileURLToPath(new URL("../../scripts", import.meta.url)), join(clone, "scripts"), { recursive: true });
    const scripts: typeof import("../../scripts/cluster.mjs") = await import(join(clone, "scripts/cluster.mjs"));
    const folder = scripts.clusterFolder("trial");
    const cluster = await scripts.startCluster({ programs: postgresPrograms()!, folder });
    try {
      expect(await ask(cluster.url, "select 7 as n")).toEqual([{ n: 7 }]);
    } finally {
      await cluster.stop();
      if (!folder.startsWith(clone)) rmSync(dirname(folder), { recursive: true });
      rmSync(clone, { recursive: true });
    }
  },
);
