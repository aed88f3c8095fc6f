import { defineConfig } from "vite";

/**
 * Bundles the server with the core into dist/main.js, the job process into dist/jobs.js, and what their threads run
 * into dist/thread.js, and the process that reads what others made into dist/reader.js; packages from the registry
 * stay outside.
 */
export default defineConfig({
  build: {
    ssr: true,
    rollupOptions: {
      input: {
        main: "src/main.ts",
        jobs: "src/jobs/main.ts",
        thread: "src/threads/thread.ts",
        reader: "src/readers/reader.ts",
      },
      // Beside one another, since the pools look for the threads' and readers' files next to themselves.
      output: { chunkFileNames: "[name].js" },
    },
    outDir: "dist",
    target: "node20",
    emptyOutDir: true,
  },
  ssr: { noExternal: ["@jar-count/core"] },
});
