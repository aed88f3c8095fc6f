import { defineConfig } from "vitest/config";

/** The tests that speak of bill, cost and stock: planted faults are held against these (`npm run mutants`). */
export default defineConfig({
  test: { include: ["core/test/{bill,box,moves,sheet,stock}.test.ts"], testTimeout: 120_000 },
});
