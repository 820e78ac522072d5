import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vitest/config";

/** Names every file that was built, so that the service worker can keep all of them on the device. */
function listAssets(): Plugin {
  return {
    name: "list-assets",
    generateBundle(_, bundle) {
      const source = JSON.stringify(Object.keys(bundle).map((file) => `/${file}`).filter((f) => f.startsWith("/assets/")));
      this.emitFile({ type: "asset", fileName: "assets.json", source });
    },
  };
}

export default defineConfig({
  plugins: [react(), listAssets()],
  // A class keeps its name: tests name some of them. `scripts/styles.mjs` holds that none is there twice.
  css: {
    modules: { generateScopedName: "[local]" },
    // Bootstrap 5 is written for the Sass of its time.
    preprocessorOptions: {
      scss: {
        quietDeps: true,
        silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
      },
    },
  },
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
  test: {
    environment: "jsdom",
    css: { modules: { classNameStrategy: "non-scoped" } },
    // One page for all test files: each cleans up after itself, and starting a page is the slow part.
    pool: "threads",
    isolate: false,
    setupFiles: ["src/testing/setup.test.ts"],
    testTimeout: 30_000,
    exclude: ["node_modules/**", "src/testing/**"],
  },
});
