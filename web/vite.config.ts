import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { target: "es2022", chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": { target: `http://127.0.0.1:${process.env.API_PORT ?? 8000}` } } },
  test: { environment: "jsdom", globals: false, restoreMocks: true },
});
