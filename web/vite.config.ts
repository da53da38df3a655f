import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

// A build in another language: CORRIENTE_LANGUAGE=fr takes words.fr.ts wherever one stands beside a words.ts.
const language = process.env.CORRIENTE_LANGUAGE;
const plain = [".mjs", ".js", ".mts", ".ts", ".jsx", ".tsx", ".json"];

export default defineConfig({
  ...(language ? { resolve: { extensions: [`.${language}.ts`, ...plain] } } : {}),
  plugins: [
    react(),
    // The interface opens from the browser's cache. The core is fetched when a job opens, not before.
    VitePWA({
      registerType: "autoUpdate",
      injectRegister: null,
      manifest: {
        name: "Corriente",
        short_name: "Corriente",
        display: "standalone",
        start_url: "/",
        background_color: "#f4f0e8",
        theme_color: "#9a4f1e",
        id: "/",
        lang: "en",
        description: "Finds out why a motor does not do its work.",
        icons: [
          { src: "/icon.svg", sizes: "any", type: "image/svg+xml" },
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
          { src: "/icon-maskable.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
        ],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg,woff2}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//, /^\/(healthz|readyz)/],
        clientsClaim: true,
        skipWaiting: true,
        runtimeCaching: [
          {
            urlPattern: ({ url }) => url.pathname.endsWith(".wasm"),
            handler: "CacheFirst",
            options: { cacheName: "core" },
          },
          {
            // Small photos that were seen are seen without a connection too; signing out takes them away.
            urlPattern: ({ url }) => url.pathname.startsWith("/api/photos/") && url.searchParams.has("thumb"),
            handler: "CacheFirst",
            options: { cacheName: "photos", expiration: { maxEntries: 300 } },
          },
        ],
      },
    }),
  ],
  server: { proxy: { "/api": process.env.CORRIENTE_API ?? "http://127.0.0.1:8080" } },
  worker: { format: "es" },
  build: { target: "es2022", chunkSizeWarningLimit: 900 },
});
