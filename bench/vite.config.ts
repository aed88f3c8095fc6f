import { defineConfig } from "vite";

/** The counting benchmark with the core in it, for plain Node. */
export default defineConfig({
  build: {
    ssr: true,
    rollupOptions: { input: ["bench/counting.ts", "bench/fuzz.ts"] },
    outDir: "dist",
    target: "node20",
    emptyOutDir: true,
  },
  ssr: { noExternal: [/^\.\./] },
});
