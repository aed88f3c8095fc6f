import type { Design, FitCheck, LengthWay, WayOut } from "@jar-count/core/contract";
import type { CountOptions } from "@jar-count/core/count";
import { equalStrands, type LengthsAsked, type Unequal, waysToLength } from "@jar-count/core/length";
import { waysOut } from "@jar-count/core/ways";
import { expose } from "comlink";

/** What of the bench takes longer than a frame: ways out of what does not fit, and ways to a length. */
const work = {
  waysOut: (design: Design, asked: CountOptions, check: FitCheck): WayOut[] => waysOut(design, asked, check),
  waysToLength: (design: Design, asked: LengthsAsked): LengthWay[] => waysToLength(design, asked),
  equalStrands: (design: Design, part: string, asked: CountOptions): Unequal | null =>
    equalStrands(design, part, asked),
};
export type BenchWorker = typeof work;

expose(work);
