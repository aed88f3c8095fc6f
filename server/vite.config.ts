import { defineConfig } from "vite";

/** Bundles the server with the core into dist/main.js; packages from the registry stay outside. */
export default defineConfig({
  build: { ssr: "src/main.ts", outDir: "dist", target: "node20", emptyOutDir: true },
  ssr: { noExternal: ["@jar-count/core"] },
});
