import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  // Tests of components share the machine with others; what hangs still ends.
  test: { testTimeout: 20_000, maxWorkers: 2 },
  server: { proxy: { "/api": "http://localhost:7070" } },
});
