import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
  test: {
    environment: "jsdom",
    // One page for all test files: each cleans up after itself, and starting a page is the slow part.
    pool: "threads",
    isolate: false,
    setupFiles: ["src/testing/setup.test.ts"],
    testTimeout: 30_000,
    exclude: ["node_modules/**", "src/testing/**"],
  },
});
