import { useEffect, useRef, useState } from "react";
import type { Remote } from "comlink";
import type { BenchWorker } from "../../workers/bench.ts";
import { useWorker } from "../../workers/useWorker.ts";

const startWorker = () => new Worker(new URL("../../workers/bench.ts", import.meta.url), { type: "module" });

/**
 * What the bench's worker finds, asked anew whenever `question` changes; null while it is at work, and where nothing is
 * asked. An earlier question's answer is let go.
 */
export function useWays<T>(question: string | null, ask: (worker: Remote<BenchWorker>) => Promise<T>): T | null {
  const worker = useWorker<BenchWorker>(startWorker);
  const [found, setFound] = useState<{ of: string; is: T } | null>(null);
  const latest = useRef(ask);
  useEffect(() => {
    latest.current = ask;
  });
  useEffect(() => {
    if (question === null) return;
    let gone = false;
    void latest.current(worker.ask()).then((is) => gone || setFound({ of: question, is }));
    return () => {
      gone = true;
    };
  }, [question, worker]);
  return found !== null && found.of === question ? found.is : null;
}
