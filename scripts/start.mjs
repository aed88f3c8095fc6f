/** `npm start` and `npm run demo`: everything from a bare machine to an address, and cleanly down again. */
import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
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
import { end, startJobs, startServer } from "./serve.mjs";

const demo = process.argv.includes("--demo");
const reset = process.argv.includes("--reset");
const option = (flag) => (process.argv.includes(flag) ? process.argv[process.argv.indexOf(flag) + 1] : undefined);
// Loopback unless asked: whoever can reach the address can read and change everything.
const listen = option("--listen");
const asked = option("--port");
const running = join(dataFolder, "running.json");
const name = demo ? "demo" : "workshop";
const backups = option("--backups") ?? process.env.BACKUP_FOLDER ?? join(dataFolder, "backups", name);

/** So often what ended by itself is started again; after so long that it ran well, it counts anew, ms. */
const AGAIN = 5;
const WELL = 600_000;

let cluster = null;
let jobs = null;
let server = null;
let stopping = null;

function stop(code) {
  stopping ??= (async () => {
    await Promise.all([end(server?.child), end(jobs)]);
    if (cluster) await cluster.stop();
    rmSync(running, { force: true });
    process.exit(code);
  })();
  return stopping;
}
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => stop(0));
// npm or the shell between may be killed without a word; then nobody is left to ask for a stop.
const parent = process.ppid;
setInterval(() => process.ppid !== parent && stop(0), 500).unref();

const tries = new Map();
/** Whether something that ended may be started once more. */
function mayTryAgain(what) {
  const { many, since } = tries.get(what) ?? { many: 0, since: 0 };
  const fresh = Date.now() - since > WELL;
  tries.set(what, { many: fresh ? 1 : many + 1, since: Date.now() });
  return fresh || many < AGAIN;
}

/** Brings the database up again on its port when it ends by itself: the server waits for it and says so. */
function watchDatabase(options) {
  cluster.ended.then(async () => {
    if (stopping) return;
    if (!mayTryAgain("database")) {
      console.error("The database ends by itself again and again; stopping.");
      return stop(1);
    }
    console.error("The database ended by itself; starting it again.");
    try {
      cluster = await startCluster({ ...options, fresh: false, port: cluster.port });
      watchDatabase(options);
    } catch (error) {
      console.error(error.message);
      return stop(1);
    }
  });
}

/** Keeps the job process there; without it the workshop goes on, and its page says that nobody makes backups. */
async function keepJobs(options) {
  jobs = await startJobs(options);
  jobs.once("exit", async () => {
    for (; !stopping && mayTryAgain("jobs"); await new Promise((r) => setTimeout(r, 1000))) {
      try {
        return await keepJobs(options);
      } catch (error) {
        console.error(error.message);
      }
    }
    if (!stopping) console.error("The job process ended by itself: no backups are made until the next start.");
  });
}

/** Keeps the server there, on its port: pages wait for it meanwhile. */
async function keepServer(options) {
  server = await startServer(options);
  const { port } = server;
  server.child.once("exit", async () => {
    for (; !stopping && mayTryAgain("server"); await new Promise((r) => setTimeout(r, 1000))) {
      console.error("The server ended by itself; starting it again.");
      try {
        return await keepServer({ ...options, demo: false, port });
      } catch (error) {
        console.error(error.message);
      }
    }
    if (stopping) return;
    console.error("The server ends by itself again and again; stopping.");
    return stop(1);
  });
}

try {
  const other = inUseBy(running);
  if (other) {
    console.log(`Jar Count is already running at ${other.url} (process ${other.pid}).`);
    process.exit(0);
  }
  mkdirSync(dataFolder, { recursive: true });
  console.log("Jar Count");
  await ensureDependencies();
  let url = process.env.DATABASE_URL;
  // Whoever brings a database of their own may give it to the job process, by its owner; else it is only served.
  let ownerUrl = process.env.DATABASE_OWNER_URL;
  if (url && reset)
    throw new Missing(
      "--reset works on the project's own database only; DATABASE_URL names another one. Empty that one yourself.",
    );
  let programs = postgresPrograms() ?? undefined;
  if (!url) {
    programs = await ensurePostgres();
    const folder = clusterFolder(name);
    const how = reset ? "fresh database started" : "database started";
    const options = { programs, folder, fresh: reset };
    await step(
      folder.startsWith(root) ? how : `${how} in ${folder}, since the postgres user can't enter ${root}`,
      async () => {
        cluster = await startCluster(options);
      },
    );
    watchDatabase(options);
    ({ url, ownerUrl } = cluster);
  }
  await ensureBuild();
  if (stopping) await stopping;
  if (ownerUrl) await keepJobs({ url, ownerUrl, backups, programs });
  else console.log("  no DATABASE_OWNER_URL: migrations and backups are the operator's");
  await keepServer({ url, demo, listen, port: asked });
  const { port, url: address } = server;
  writeFileSync(running, JSON.stringify({ pid: process.pid, url: address }));
  if (listen) {
    console.log(
      `\nListening on ${listen}, port ${port}: everybody who can reach this machine can read and change ` +
        "everything, since there are no passwords yet.",
    );
    console.log("Do this only in a network that you trust. Write the address that labels should carry under Workshop.");
  }
  console.log(`\n${address}\n\nCtrl-C stops it. The data stays${demo ? "; npm run demo -- --reset starts over" : ""}.`);
} catch (error) {
  stopping ??= Promise.resolve();
  await Promise.all([end(server?.child), end(jobs)]);
  if (cluster) await cluster.stop();
  failWith(error);
}
