import { defineConfig } from "vite";

/**
 * Bundles the server with the core into dist/main.js, and what its threads run into dist/thread.js; packages from the
 * registry stay outside.
 */
export default defineConfig({
  build: {
    ssr: true,
    rollupOptions: { input: { main: "src/main.ts", thread: "src/threads/thread.ts" } },
    outDir: "dist",
    target: "node20",
    emptyOutDir: true,
  },
  ssr: { noExternal: ["@jar-count/core"] },
});
