import { defineConfig } from "vitest/config";

export default defineConfig({
  root: "..",
  test: { include: ["tests/web/**/*.test.ts"], environment: "node" },
});
