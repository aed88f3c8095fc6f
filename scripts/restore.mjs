/**
 * `npm run restore -- FILE [--replace]`: brings a backup into the workshop, from an empty machine too. Without
 * --replace it only goes into an empty one; `--demo` brings it into the demo's.
 */
import { spawn } from "node:child_process";
import { mkdirSync } from "node:fs";
import { join, resolve } from "node:path";
import { clusterFolder, inUseBy, startCluster } from "./cluster.mjs";
import {
  dataFolder,
  ensureBuild,
  ensureDependencies,
  ensurePostgres,
  failWith,
  Missing,
  postgresPrograms,
  root,
  step,
} from "./machine.mjs";

const args = process.argv.slice(2);
const file = args.find((a) => !a.startsWith("--"));
const name = args.includes("--demo") ? "demo" : "workshop";
let cluster = null;
try {
  if (!file) throw new Missing("Say which file: npm run restore -- FILE (.jarcount.zip or .dump).");
  const other = inUseBy(join(dataFolder, "running.json"));
  if (other) {
    throw new Missing(
      `Jar Count is running at ${other.url}. Stop it first, or bring the archive in there, under Workshop.`,
    );
  }
  mkdirSync(dataFolder, { recursive: true });
  console.log("Jar Count: restore");
  await ensureDependencies();
  let { DATABASE_URL: url, DATABASE_OWNER_URL: ownerUrl } = process.env;
  if (url && !ownerUrl) throw new Missing("DATABASE_URL names another database: give DATABASE_OWNER_URL as well.");
  let programs = postgresPrograms() ?? undefined;
  if (!url) {
    programs = await ensurePostgres();
    await step("database started", async () => {
      cluster = await startCluster({ programs, folder: clusterFolder(name) });
    });
    ({ url, ownerUrl } = cluster);
  }
  await ensureBuild();
  const code = await new Promise((ended) => {
    const how = ["restore", resolve(file), ...args.filter((a) => a === "--replace")];
    const child = spawn("node", [join(root, "server/dist/jobs.js"), ...how], {
      stdio: "inherit",
      env: {
        ...process.env,
        DATABASE_URL: url,
        DATABASE_OWNER_URL: ownerUrl,
        BACKUP_FOLDER: process.env.BACKUP_FOLDER ?? join(dataFolder, "backups", name),
        ...(programs ? { PG_PROGRAMS: programs } : {}),
      },
    });
    child.once("exit", ended);
  });
  if (cluster) await cluster.stop();
  if (code === 0) console.log(`Start it with npm ${name === "demo" ? "run demo" : "start"}.`);
  process.exit(code ?? 1);
} catch (error) {
  if (cluster) await cluster.stop();
  failWith(error);
}
