import { defineConfig } from "vitest/config";

const setupFiles = ["core/test/seed.ts"];
/** Of each test, in ms. */
const limit = 120_000 * Math.max(1, Number(process.env.LAWS ?? 0));

export default defineConfig({
  test: {
    // The long limits: a busy machine is no failure, only what never ends is.
    projects: [
      {
        test: {
          name: "unit",
          testTimeout: limit,
          setupFiles,
          include: ["core/test/**/*.test.ts", "web/test/**/*.test.ts", "scripts/**/*.test.mjs"],
        },
      },
      {
        test: {
          name: "server",
          testTimeout: 120_000,
          hookTimeout: 120_000,
          setupFiles,
          include: ["server/test/**/*.test.ts"],
        },
      },
    ],
  },
});
