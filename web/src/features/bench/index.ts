import { ShorthandEditor } from "./Bench.tsx";

export { Bench } from "./Bench.tsx";

/** Fetches what the bench needs before it is opened. */
export const prepare = () => ShorthandEditor.load();
