/**
 * Starts one server process. DATABASE_URL says which database; its role owns nothing there, and the job process
 * (jobs/main.ts) brings the schema up to date. PORT says which port (0 or none: a free one); LISTEN which address,
 * 127.0.0.1 unless somebody asked for more. Prints `listening PORT` when ready. Started by scripts/serve.mjs, it ends
 * with it.
 */
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { fileURLToPath } from "node:url";
import { seedDemo } from "./work/demo.ts";
import { makeApp } from "./http/app.ts";
import { describeApi } from "./http/openapi.ts";
import { endReaders, warmReader } from "./readers/pool.ts";
import { warmThreads } from "./threads/pool.ts";
import { serveStandIns } from "./standins/serve.ts";
import { closeDatabases, openDatabases } from "./store/database.ts";
import { isReady } from "./store/migrate.ts";
import { ownsTheBooks } from "./store/roles.ts";

const root = fileURLToPath(new URL("../../", import.meta.url));
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start with npm start or npm run demo.");
const databases = openDatabases(url);
const { work: db } = databases;

/** Waits until the job process has brought the schema up to date. */
async function schemaIsThere() {
  for (let said = false; !(await isReady(db, `${root}server/migrations`)); said = true) {
    if (!said) console.error("Waiting for the job process to bring the database up to date.");
    await new Promise((next) => setTimeout(next, 200));
  }
}
try {
  await schemaIsThere();
} catch (error) {
  console.error((error as Error).message);
  process.exit(1);
}
if (await ownsTheBooks(db)) {
  console.error(
    "The server's role owns the tables: the books are only as safe as the program. Give it a role of its own.",
  );
}
if (process.argv.includes("--demo")) await seedDemo(db);
await Promise.all([warmThreads(), warmReader()]);
describeApi(); // takes half a second once, and would hold up whoever is there then

const listen = process.env.LISTEN || "127.0.0.1";
const { url: standIns } = await serveStandIns();
let stopping = false;
const server = createServer(makeApp(databases, `${root}web/dist`, { listen, standIns, stopping: () => stopping }));
/** So many connections at once, and so long for the head and the whole of a request, ms. */
server.maxConnections = 512;
server.headersTimeout = 20_000;
server.requestTimeout = 120_000;
server.listen(Number(process.env.PORT ?? 0), listen, () => {
  console.log(`listening ${(server.address() as AddressInfo).port}`);
});

/** What is under way may come to its end for so long, ms; then it is cut off, and everything is over. */
const PATIENCE = { connections: 1000, everything: 4000 };
async function stop() {
  if (stopping) return;
  stopping = true;
  setTimeout(() => process.exit(0), PATIENCE.everything).unref();
  endReaders();
  // What comes from here on is told to wait; what was asked before is answered, and needs the database for that.
  const answered = new Promise((resolve) => server.close(resolve));
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), PATIENCE.connections).unref();
  await answered;
  await closeDatabases(databases).catch(() => {});
  process.exit(0);
}
process.on("SIGTERM", () => void stop());
process.on("SIGINT", () => void stop());
process.on("disconnect", () => void stop());
// Whoever started this may have gone while it came up.
if (process.send && !process.connected) void stop();
