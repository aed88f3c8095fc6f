/** `npm start` and `npm run demo`: everything from a bare machine to an address, and cleanly down again. */
import { fork } from "node:child_process";
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
  root,
  step,
} from "./machine.mjs";

const demo = process.argv.includes("--demo");
const reset = process.argv.includes("--reset");
const option = (flag) => (process.argv.includes(flag) ? process.argv[process.argv.indexOf(flag) + 1] : undefined);
// Loopback unless asked: whoever can reach the address can read and change everything.
const listen = option("--listen");
const asked = option("--port");
const running = join(dataFolder, "running.json");
const name = demo ? "demo" : "workshop";

let cluster = null;
let server = null;
let stopping = null;

function stop(code) {
  stopping ??= (async () => {
    if (server && server.exitCode === null) {
      const ended = new Promise((resolve) => server.once("exit", resolve));
      server.kill("SIGTERM");
      await ended;
    }
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
  if (url && reset)
    throw new Missing(
      "--reset works on the project's own database only; DATABASE_URL names another one. Empty that one yourself.",
    );
  if (!url) {
    const programs = await ensurePostgres();
    const folder = clusterFolder(name);
    const how = reset ? "fresh database started" : "database started";
    await step(
      folder.startsWith(root) ? how : `${how} in ${folder}, since the postgres user can't enter ${root}`,
      async () => {
        cluster = await startCluster({ programs, folder, fresh: reset });
      },
    );
    cluster.ended.then(() => stopping || (console.error("The database ended by itself; stopping."), stop(1)));
    url = cluster.url;
  }
  await ensureBuild();
  if (stopping) await stopping;
  server = fork(join(root, "server/dist/main.js"), demo ? ["--demo"] : [], {
    env: {
      ...process.env,
      DATABASE_URL: url,
      ...(listen ? { LISTEN: listen } : {}),
      ...(asked ? { PORT: asked } : {}),
    },
    stdio: ["ignore", "pipe", "inherit", "ipc"],
    detached: true,
  });
  server.once("exit", (code) => stopping || (console.error("The server ended by itself; stopping."), stop(code ?? 1)));
  const port = await new Promise((resolve) => {
    server.stdout.on("data", (text) => {
      const found = /^listening (\d+)$/m.exec(String(text));
      if (found) resolve(found[1]);
    });
  });
  const address = `http://127.0.0.1:${port}`;
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
  if (cluster) await cluster.stop();
  failWith(error);
}
