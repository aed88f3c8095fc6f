/** Lengths and gauges: what people write, what files keep (millimetres) and what screens show. */
export { gaugeMm, MM_PER_INCH, plainNumber, readLength, sayCut, sayLength, sayRun, type LengthUnit } from "./length.ts";
