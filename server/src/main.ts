/**
 * Starts one server process. DATABASE_URL says which database; PORT which port (0 or none: a free one);
 * LISTEN which address, 127.0.0.1 unless somebody asked for more.
 * Prints `listening PORT` when ready. Started by scripts/start.mjs, it ends with it.
 */
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { fileURLToPath } from "node:url";
import { seedDemo } from "./work/demo.ts";
import { makeApp } from "./http/app.ts";
import { startJobs } from "./jobs/index.ts";
import { warmThreads } from "./threads/pool.ts";
import { migrate, openDatabase } from "./store/database.ts";

const root = fileURLToPath(new URL("../../", import.meta.url));
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start with npm start or npm run demo.");

await migrate(url, `${root}server/migrations`);
const db = openDatabase(url);
if (process.argv.includes("--demo")) await seedDemo(db, `${root}demo`);

const jobs = await startJobs(db);
await warmThreads();

const server = createServer(makeApp(db, `${root}web/dist`));
server.listen(Number(process.env.PORT ?? 0), process.env.LISTEN || "127.0.0.1", () => {
  console.log(`listening ${(server.address() as AddressInfo).port}`);
});

let stopping = false;
async function stop() {
  if (stopping) return;
  stopping = true;
  server.close();
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), 1000).unref();
  await jobs.stop();
  await db.end();
  process.exit(0);
}
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
process.on("disconnect", stop);
