/**
 * One workshop's processes on a database: the job process, where the owner's connection is known, then the server.
 * Everything that starts the application goes through here: the start script, browser tests, benches.
 */
import { fork } from "node:child_process";
import { join } from "node:path";
import { Missing, root } from "./machine.mjs";

/** Settles with what a process prints when it is ready; with an error if it ends before. */
function ready(child, pattern, name) {
  return new Promise((resolve, reject) => {
    child.once("exit", (code) => reject(new Missing(`The ${name} ended by itself (${code}); why, it says above.`)));
    child.stdout.on("data", (text) => {
      const found = pattern.exec(String(text));
      if (found) resolve(found[1]);
    });
  });
}

const start = (file, args, env) =>
  fork(join(root, "server/dist", file), args, { env, stdio: ["ignore", "pipe", "inherit", "ipc"], detached: true });

/** Ends a process and waits until it is over; it may take 5 s. */
export async function end(child) {
  if (!child || child.exitCode !== null || child.signalCode !== null) return;
  const over = new Promise((resolve) => child.once("exit", resolve));
  child.kill("SIGTERM");
  await over;
}

/**
 * Starts the job process and waits until the schema is up to date.
 * @param {{ url: string, ownerUrl: string, backups?: string, programs?: string }} options
 */
export async function startJobs({ url, ownerUrl, backups, programs }) {
  const child = start("jobs.js", [], {
    ...process.env,
    DATABASE_URL: url,
    DATABASE_OWNER_URL: ownerUrl,
    ...(backups ? { BACKUP_FOLDER: backups } : {}),
    ...(programs ? { PG_PROGRAMS: programs } : {}),
  });
  await ready(child, /^(ready)$/m, "job process");
  return child;
}

/**
 * Starts a server. It must not know the owner's connection.
 * @param {{ url: string, demo?: boolean, port?: string | number, listen?: string }} options
 * @returns {Promise<{ child: import("node:child_process").ChildProcess, port: string, url: string }>}
 */
export async function startServer({ url, demo = false, port = 0, listen }) {
  const { DATABASE_OWNER_URL: _owner, ...env } = process.env;
  const child = start("main.js", demo ? ["--demo"] : [], {
    ...env,
    DATABASE_URL: url,
    PORT: String(port),
    ...(listen ? { LISTEN: listen } : {}),
  });
  const at = await ready(child, /^listening (\d+)$/m, "server");
  return { child, port: at, url: `http://127.0.0.1:${at}` };
}
