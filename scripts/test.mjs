/**
 * `npm test`: types, lint, unit, server and browser tests, all their set-up included. A kind's name runs that alone.
 */
import { spawn } from "node:child_process";
import { rmSync } from "node:fs";
import { clusterFolder, startCluster } from "./cluster.mjs";
import {
  chromium,
  ensureBuild,
  ensureChromium,
  ensureDependencies,
  ensurePostgres,
  postgresPrograms,
  root,
} from "./machine.mjs";

// One day for a whole run, which may last over midnight: this day, or the one that is asked for.
process.env.JAR_COUNT_TODAY ||= new Date().toISOString().slice(0, 10);

const KINDS = ["types", "lint", "unit", "server", "browser"];
const [asked, ...rest] = process.argv.slice(2);
const wanted = asked && !asked.startsWith("-") ? [asked] : KINDS;
let cluster = null;
let folder = null;

async function end(code) {
  if (cluster) await cluster.stop();
  if (folder) rmSync(folder, { recursive: true, force: true });
  process.exit(code);
}
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => end(130));

/** What tests need of the cluster: the server's address, the owner's, and PostgreSQL's programs. */
const databases = () => ({
  TEST_DATABASE_URL: cluster.url,
  TEST_OWNER_URL: cluster.ownerUrl,
  PG_PROGRAMS: postgresPrograms(),
});

function tool(name, args, env = {}) {
  return new Promise((resolve, reject) => {
    console.log(`\n== ${name} ${args.join(" ")}`);
    const [command, all] = name === "node" ? [name, args] : ["npx", ["--no-install", name, ...args]];
    const child = spawn(command, all, {
      cwd: root,
      stdio: "inherit",
      env: { ...process.env, ...env },
    });
    child.once("exit", (code) => (code === 0 ? resolve() : reject(new Error(`${name} failed`))));
  });
}

const RUN = {
  types: async () => {
    for (const project of ["core", "server", "web", "e2e"]) await tool("tsc", ["-p", project]);
  },
  lint: async () => {
    await tool("prettier", ["--check", "--log-level", "warn", "."]);
    await tool("eslint", [".", "--max-warnings", "0"]);
    await tool("node", ["scripts/arrows.mjs", "--quiet"]);
  },
  unit: () => tool("vitest", ["run", "--project", "unit", ...rest]),
  server: () => tool("vitest", ["run", "--project", "server", ...rest], databases()),
  browser: () => tool("playwright", ["test", ...rest], { ...databases(), CHROMIUM: chromium() }),
};

try {
  if (wanted.some((kind) => !KINDS.includes(kind)))
    throw new Error(`There is no kind of test called ${asked}: ${KINDS.join(", ")}.`);
  const started = Date.now();
  console.log("Jar Count: tests");
  await ensureDependencies();
  if (wanted.includes("server") || wanted.includes("browser")) {
    const programs = await ensurePostgres();
    folder = clusterFolder(`test-${process.pid}`);
    cluster = await startCluster({ programs, folder, safe: false });
  }
  if (wanted.includes("browser")) await ensureChromium();
  if (wanted.includes("server") || wanted.includes("browser")) await ensureBuild(); // threads run from the build
  for (const kind of wanted) await RUN[kind]();
  console.log(`\nAll passed in ${((Date.now() - started) / 1000).toFixed(0)} s.`);
  await end(0);
} catch (error) {
  console.error(`\n${error.message}`);
  await end(1);
}
