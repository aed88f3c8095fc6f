import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    // The long limits: a busy machine is no failure, only what never ends is.
    projects: [
      {
        test: {
          name: "unit",
          testTimeout: 120_000,
          include: ["core/test/**/*.test.ts", "web/test/**/*.test.ts", "scripts/**/*.test.mjs"],
        },
      },
      { test: { name: "server", testTimeout: 120_000, hookTimeout: 120_000, include: ["server/test/**/*.test.ts"] } },
    ],
  },
});
