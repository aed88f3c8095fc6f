/** The scale at the elbow: a real one over the serial port, or the simulated one that ships. */
export { ScalePanel } from "./ScalePanel.tsx";
export { Weigh, type Weighed } from "./Weigh.tsx";
export { useReadability, useScale } from "./useScale.ts";
