import { defineConfig } from "vitest/config";

/** The tests of the core that planted faults are held against; `npm run mutants` plants them. */
export default defineConfig({ test: { include: ["core/test/**/*.test.ts"], testTimeout: 120_000 } });
