import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "e2e",
  globalSetup: "./e2e/setup.ts",
  testMatch: "*.test.ts",
  outputDir: "test-results",
  fullyParallel: true,
  workers: 2,
  forbidOnly: true,
  reporter: [["list"]],
  // Patient with a machine that stands still for a moment: what is there in time takes no longer for it.
  timeout: 120_000,
  expect: { timeout: 20_000 },
  use: {
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    actionTimeout: 20_000,
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
