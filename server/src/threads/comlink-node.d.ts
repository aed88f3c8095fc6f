/** The package ships its adapter for Node's threads without a declaration under this path. */
declare module "comlink/dist/esm/node-adapter.mjs" {
  import type { Endpoint } from "comlink";
  import type { MessagePort, Worker } from "node:worker_threads";
  export default function nodeEndpoint(port: Worker | MessagePort): Endpoint;
}
