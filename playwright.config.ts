import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "tests/browser",
  globalSetup: "./tests/browser/globalSetup.ts",
  // One demo for all, so one test at a time; main-path comes with its own weather.
  workers: 1,
  timeout: 120_000,
  expect: { timeout: 15_000 },
  use: {
    viewport: { width: 1280, height: 800 },
    timezoneId: "Europe/Oslo",
    locale: "en-GB",
    launchOptions: {
      executablePath: "/usr/bin/chromium",
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
