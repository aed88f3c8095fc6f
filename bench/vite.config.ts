import { defineConfig } from "vite";

/** The benchmarks of the core with the core in them, for plain Node. */
export default defineConfig({
  build: {
    ssr: true,
    rollupOptions: { input: ["bench/counting.ts", "bench/fit.ts", "bench/fuzz.ts"] },
    outDir: "dist",
    target: "node20",
    emptyOutDir: true,
  },
  ssr: { noExternal: [/^\.\./] },
});
