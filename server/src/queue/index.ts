/** Who waits for a worker that does one thing at a time, and gets it: threads, and processes that read. */
export { type Bounds, queueOf, TooBusy, TooHeavy, type Worker } from "./queue.ts";
