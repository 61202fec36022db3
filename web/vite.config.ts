import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const api = process.env.HUVREN_API ?? "http://127.0.0.1:8421";

export default defineConfig(({ command, mode }) => ({
  base: command === "build" ? "/static/" : "/",
  plugins: [react(), tailwindcss()],
  // A build that tells what it draws, for the tests.
  resolve: {
    alias: mode === "profiling" ? [{ find: "react-dom/client", replacement: "react-dom/profiling" }] : [],
  },
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": { target: api, changeOrigin: true } } },
  test: {
    environment: "happy-dom",
    include: ["src/**/*.test.{ts,tsx}"],
    isolate: false,
    setupFiles: ["src/testing/fresh.ts"],
  },
}));
