import { type Remote, wrap } from "comlink";
import { useEffect, useState } from "react";

/** A worker begun when it is first asked; ended by the page, or by whoever stops what it does. */
export interface WorkerHandle<T> {
  ask: () => Remote<T>;
  /** Ends the worker with all that it does and holds; the next question begins a new one. */
  stop: () => void;
}

function handle<T>(start: () => Worker): WorkerHandle<T> {
  let running: { worker: Worker; remote: Remote<T> } | null = null;
  return {
    ask: () => {
      if (!running) {
        const worker = start();
        running = { worker, remote: wrap<T>(worker) };
      }
      return running.remote;
    },
    stop: () => {
      running?.worker.terminate();
      running = null;
    },
  };
}

/**
 * A worker for as long as this component is there. Calls are typed, go by ids and may overlap; progress comes back
 * through a function passed with comlink's `proxy`; stopping is ending the worker.
 */
export function useWorker<T>(start: () => Worker): WorkerHandle<T> {
  const [worker] = useState(() => handle<T>(start));
  useEffect(() => worker.stop, [worker]);
  return worker;
}
