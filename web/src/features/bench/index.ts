import { ShorthandEditor } from "./Rows.tsx";

export { Bench, LessonBench } from "./Bench.tsx";

/** Fetches what the bench needs before it is opened. */
export const prepare = () => ShorthandEditor.load();
