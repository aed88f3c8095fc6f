/**
 * What this project needs of the machine: dependencies, the generated parser, PostgreSQL and Chromium.
 * Node built-ins only, so that it runs before anything is installed.
 */
import { spawn } from "node:child_process";
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { createHash } from "node:crypto";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
/** What was made here of the sources; and where the workshops' own data lie, unless another folder is named. */
const made = join(root, ".data");
export const dataFolder = process.env.DATA_FOLDER ?? made;
export const isRoot = process.getuid?.() === 0;

/** One line a step, with the seconds it took if it took any. */
export async function step(what, work) {
  const start = Date.now();
  const result = await work();
  const seconds = (Date.now() - start) / 1000;
  if (result !== false) console.log(`  ${what}${seconds >= 1 ? ` (${seconds.toFixed(0)} s)` : ""}`);
  return result;
}

/** A missing right or tool, in a sentence that says what to do. */
export class Missing extends Error {}

let running = null;
process.on("exit", () => running?.kill("SIGTERM"));

/** Runs a command to its end without blocking signals; ends it if this process ends first. */
function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { ...options, stdio: ["ignore", "pipe", "pipe"] });
    running = child;
    let said = "";
    for (const stream of [child.stdout, child.stderr]) stream.on("data", (text) => (said = (said + text).slice(-4000)));
    child.once("error", reject);
    child.once("close", (code) => {
      running = null;
      if (code === 0) resolve();
      else reject(new Error(`${command} ${args.join(" ")} failed:\n${said}`));
    });
  });
}

/** Remembers what a step was done from, so that it is done again only when that changed. */
function changed(name, paths) {
  const hash = createHash("sha256");
  const add = (path) => {
    const full = join(root, path);
    if (!existsSync(full)) return;
    if (!statSync(full).isDirectory()) hash.update(path).update(readFileSync(full));
    else for (const entry of readdirSync(full).sort()) if (!/^(dist|node_modules)$/.test(entry)) add(join(path, entry));
  };
  paths.forEach(add);
  const stamp = join(made, `${name}.stamp`);
  const now = hash.digest("hex");
  const same = existsSync(stamp) && readFileSync(stamp, "utf8") === now;
  return { same, done: () => (mkdirSync(made, { recursive: true }), writeFileSync(stamp, now)) };
}

function npm(...args) {
  return run("npm", [...args, "--no-fund", "--no-audit", "--loglevel=error"], { cwd: root });
}

export async function ensureDependencies() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Missing(`Node 20.19 or newer is needed; this is ${process.versions.node}.`);
  const lock = changed("dependencies", ["package-lock.json", "package.json"]);
  if (!lock.same || !existsSync(join(root, "node_modules/.package-lock.json"))) {
    await step("dependencies installed", () => npm("ci"));
    lock.done();
  }
  const grammar = changed("grammar", ["core/src/shorthand/strand.grammar", "package-lock.json"]);
  if (!grammar.same || !existsSync(join(root, "core/src/shorthand/parser.ts"))) {
    await step("parser made from the grammar", () => npm("run", "-s", "grammar"));
    grammar.done();
  }
}

export async function ensureBuild() {
  const sources = changed("build", ["core", "server", "web", "package-lock.json"]);
  if (sources.same && existsSync(join(root, "web/dist/index.html")) && existsSync(join(root, "server/dist/main.js")))
    return;
  await step("interface built", () => npm("run", "-s", "build:web"));
  await step("server built", () => npm("run", "-s", "build:server"));
  sources.done();
}

function findIn(folders, name) {
  return folders
    .map((folder) => join(folder, name))
    .find((path) => {
      try {
        accessSync(path, constants.X_OK);
        return true;
      } catch {
        return false;
      }
    });
}

const pathFolders = () => (process.env.PATH ?? "").split(":");

/** The folder of PostgreSQL's own programs: Debian keeps them off the PATH. */
export function postgresPrograms() {
  const base = "/usr/lib/postgresql";
  const versions = existsSync(base)
    ? readdirSync(base)
        .map(Number)
        .filter((v) => v >= 15)
        .sort((a, b) => b - a)
    : [];
  const found = findIn([...versions.map((v) => `${base}/${v}/bin`), ...pathFolders()], "initdb");
  return found && findIn([dirname(found)], "pg_ctl") ? dirname(found) : null;
}

export function chromium() {
  return findIn(pathFolders().concat("/usr/bin"), "chromium") ?? null;
}

async function install(packageName, what) {
  const by = `Install it with: apt-get install ${packageName}`;
  if (!isRoot) throw new Missing(`${what} is missing, and without root it can't be installed from here. ${by}`);
  if (!findIn(pathFolders(), "apt-get"))
    throw new Missing(
      `${what} is missing, and there is no apt-get here. Install the package ${packageName} of your system.`,
    );
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  try {
    await run("apt-get", ["update", "-q"], { env });
    await run("apt-get", ["install", "-y", "-q", "--no-install-recommends", packageName], { env });
  } catch (error) {
    throw new Missing(`${what} could not be installed. ${by}\n${error.message}`);
  }
}

export async function ensurePostgres() {
  if (!postgresPrograms()) await step("PostgreSQL installed", () => install("postgresql", "PostgreSQL"));
  const found = postgresPrograms();
  if (!found)
    throw new Missing("PostgreSQL 15 or newer is needed and was not found after installing the package postgresql.");
  return found;
}

export async function ensureChromium() {
  if (!chromium()) await step("Chromium installed", () => install("chromium", "Chromium"));
  const found = chromium();
  if (!found) throw new Missing("Chromium was not found after installing the package chromium.");
  return found;
}

/** Ends the process with the sentence of what is missing, or with the whole error of anything else. */
export function failWith(error) {
  console.error(error instanceof Missing ? `\n${error.message}` : error);
  process.exit(1);
}
