import { type Remote, wrap } from "comlink";
import { useEffect, useRef, useState } from "react";

/** A worker begun when it is first asked; ended by the page, or by whoever stops what it does. */
export interface WorkerHandle<T> {
  ask: () => Remote<T>;
  /** Ends the worker with all that it does and holds; the next question begins a new one. */
  stop: () => void;
}

/** How long until a worker whose code can't be loaded is begun anew, ms. */
const AGAIN_MS = 2000;

/** @param lost told where its code can't be loaded: what it was asked is never answered then */
function handle<T>(start: () => Worker, lost: () => void): WorkerHandle<T> {
  let running: { worker: Worker; remote: Remote<T> } | null = null;
  return {
    ask: () => {
      if (!running) {
        const worker = start();
        // A fault in code that runs is an event with a message, and told to whoever asked.
        worker.addEventListener("error", (event) => !(event instanceof ErrorEvent) && lost());
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
 * through a function passed with comlink's `proxy`; stopping is ending the worker. Where its code can't be loaded,
 * another one takes its place until one comes: an effect that asks it names it, and asks again.
 */
export function useWorker<T>(start: () => Worker): WorkerHandle<T> {
  const again = useRef<ReturnType<typeof setTimeout>>(undefined);
  const make = () =>
    handle<T>(start, () => {
      clearTimeout(again.current);
      again.current = setTimeout(() => setWorker(make), AGAIN_MS);
    });
  const [worker, setWorker] = useState(make);
  useEffect(
    () => () => {
      clearTimeout(again.current);
      worker.stop();
    },
    [worker],
  );
  return worker;
}
