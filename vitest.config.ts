import path from "node:path";
import { defineConfig } from "vitest/config";

const alias = { "@": path.resolve(import.meta.dirname, "src") };

export default defineConfig({
  resolve: { alias },
  test: {
    projects: [
      {
        resolve: { alias },
        test: { name: "unit", include: ["src/**/*.test.ts", "standins/**/*.test.ts"] },
      },
      {
        resolve: { alias },
        test: {
          name: "integration",
          include: ["tests/integration/**/*.test.ts"],
          globalSetup: "tests/integration/globalSetup.ts",
          testTimeout: 60_000,
          hookTimeout: 60_000,
          // Each file has a database of its own; two at a time is what two cores carry.
          maxWorkers: 2,
          env: { BARNLAMP_LOG_LEVEL: "silent" },
        },
      },
    ],
  },
});
