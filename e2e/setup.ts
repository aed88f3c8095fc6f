import { bringUpToDate, DEMO, EMPTY, makeDatabase, startServer } from "./fixtures.ts";

/** Makes an empty workshop's database and the demo's once; every test gets a copy of one of them. */
export default async function setup() {
  await bringUpToDate(await makeDatabase(undefined, EMPTY));
  const server = await startServer(await makeDatabase(EMPTY, DEMO), true);
  await server.stop();
}
