import { defineConfig } from "vitest/config";

/**
 * The tests that speak of the count, of bill, cost and stock: planted faults are held against these (`npm run
 * mutants`).
 */
export default defineConfig({
  test: {
    setupFiles: ["core/test/seed.ts"],
    include: ["core/test/{bill,box,cases,examples,language,moves,origins,sheet,stock,trial,written}.test.ts"],
    testTimeout: 120_000,
  },
});
