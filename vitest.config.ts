import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    projects: [
      { test: { name: "unit", include: ["core/test/**/*.test.ts", "web/test/**/*.test.ts", "scripts/**/*.test.mjs"] } },
      { test: { name: "server", include: ["server/test/**/*.test.ts"] } },
    ],
  },
});
