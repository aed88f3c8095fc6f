import { execFileSync } from "node:child_process";
import { chmodSync, cpSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
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
    // Who has no password gets in as nobody, and what lies on the disk would be seen to change.
    for (const url of [first.url, first.ownerUrl]) {
      const without = url.replace(/:[^:@/]+@/, "@");
      await expect(ask(without, "select 1")).rejects.toThrow(/password/);
    }
    expect(statSync(join(folder, "jarcount.secret")).mode & 0o777).toBe(0o600);
    expect(await ask(first.url, "show data_checksums")).toEqual([{ data_checksums: "on" }]);
    expect(await ask(first.url, "select rolsuper from pg_roles where rolname = current_user")).toEqual([
      { rolsuper: false },
    ]);
    await expect(ask(first.url, "copy (select 1) to program 'true'")).rejects.toThrow(/superuser/);
    await ask(first.ownerUrl, "create table kept as select 7 as n");
    await first.stop();
    expect(state()).toBe("shut down");

    const second = await startCluster({ programs, folder });
    expect(await ask(second.ownerUrl, "select n from kept")).toEqual([{ n: 7 }]);
    await ask(second.ownerUrl, "update kept set n = 8");
    const pid = Number(readFileSync(join(folder, "postmaster.pid"), "utf8").split("\n")[0]);
    process.kill(pid, "SIGKILL");
    await second.ended;

    const third = await startCluster({ programs, folder });
    expect(await ask(third.ownerUrl, "select n from kept")).toEqual([{ n: 8 }]);

    // Its start script is gone, but the cluster lives on: the next start takes over.
    const fourth = await startCluster({ programs, folder });
    await third.ended;
    expect(await ask(fourth.ownerUrl, "select n from kept")).toEqual([{ n: 8 }]);
    await fourth.stop();

    const fresh = await startCluster({ programs, folder, fresh: true });
    expect(await ask(fresh.ownerUrl, "select to_regclass('kept') as kept")).toEqual([{ kept: null }]);
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

test(
  "a cluster that trusted everybody is locked when it is started again, and keeps its data",
  { timeout: 60_000 },
  async () => {
    const programs = postgresPrograms()!;
    const outside = mkdtempSync(join(tmpdir(), "jar-count-"));
    chmodSync(outside, 0o755);
    const folder = join(outside, "pg");
    const first = await startCluster({ programs, folder });
    await ask(first.ownerUrl, "create table kept as select 7 as n");
    await first.stop();
    // As clusters were made before: no passwords, and every connection from this machine trusted.
    writeFileSync(join(folder, "pg_hba.conf"), "host all all 127.0.0.1/32 trust\n");
    rmSync(join(folder, "jarcount.secret"));
    const second = await startCluster({ programs, folder });
    await expect(ask(first.ownerUrl.replace(/:\d+\//, `:${second.port}/`), "select 1")).rejects.toThrow(/password/);
    expect(await ask(second.ownerUrl, "select n from kept")).toEqual([{ n: 7 }]);
    await second.stop();
    rmSync(outside, { recursive: true });
  },
);
