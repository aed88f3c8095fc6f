export { Library } from "./Library.tsx";
export { designFileName, download, handOver } from "./files.ts";
