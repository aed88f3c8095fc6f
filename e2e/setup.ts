import { DEMO, makeDatabase, startServer } from "./fixtures.ts";

/** Makes the demo's database once; every test gets a copy of it. */
export default async function setup() {
  const server = await startServer(await makeDatabase(undefined, DEMO), true);
  await server.stop();
}
