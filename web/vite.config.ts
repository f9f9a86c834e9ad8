import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";
import { runtime } from "./runtime.ts";

const works = runtime();

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    works.plugin,
    // The page itself without a server: scripts, styles and fonts are laid up when it is first opened. What a job is like is kept by the page (api/kept).
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: null,
      manifest: false,
      workbox: {
        globPatterns: ["**/*.{js,css,html,woff2}"],
        globIgnores: ["**/*-latin-ext-*"],
        cleanupOutdatedCaches: true,
        navigateFallback: null,
        directoryIndex: null as unknown as string,
        runtimeCaching: [
          {
            // What works jobs out on this device is large and not needed by everybody: laid up when it is first loaded, by names that say what is in it.
            urlPattern: ({ url, sameOrigin }) => sameOrigin && (url.pathname.startsWith("/assets/runtime-") || url.pathname.startsWith("/engine/")),
            handler: "CacheFirst",
            options: { cacheName: "works-here", expiration: { maxEntries: 8 } },
          },
          {
            // The page is always the server's own while there is one; addresses of the API are none of its business.
            urlPattern: ({ request, url }) => request.mode === "navigate" && !url.pathname.startsWith("/api/"),
            handler: "NetworkOnly",
            options: { precacheFallback: { fallbackURL: "index.html" } },
          },
        ],
      },
    }),
  ],
  define: { __RUNTIME__: JSON.stringify(works.address) },
  worker: { format: "es" },
  build: { target: "es2022", chunkSizeWarningLimit: 900 },
  server: { proxy: Object.fromEntries(["/api", "/engine"].map((path) => [path, { target: `http://127.0.0.1:${process.env.API_PORT ?? 8000}` }])) },
  test: {
    restoreMocks: true,
    // How long a test takes says how busy the machine is; one that hangs is ended all the same.
    testTimeout: 120_000,
    hookTimeout: 120_000,
    // What draws nothing needs no page around it: making one takes longer than most of these tests.
    projects: [
      { extends: true, test: { name: "plain", environment: "node", include: ["src/**/*.test.ts"] } },
      { extends: true, test: { name: "drawn", environment: "jsdom", include: ["src/**/*.test.tsx"], isolate: false, setupFiles: ["src/ui/patient.ts"] } },
    ],
  },
});
