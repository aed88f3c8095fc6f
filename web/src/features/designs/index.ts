export { Library } from "./Library.tsx";
export { designFileName, download } from "./files.ts";
