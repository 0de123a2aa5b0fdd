import tailwindcss from "@tailwindcss/vite";
import vue from "@vitejs/plugin-vue";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [
    vue(),
    tailwindcss(),
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src/shell/offline",
      filename: "serviceworker.ts",
      injectRegister: null,
      injectManifest: {
        globPatterns: ["**/*.{js,css,html,svg,woff2}"],
        globIgnores: ["**/*-{cyrillic,greek,vietnamese,latin-ext}*"],
      },
      manifest: {
        name: "Field Tally",
        short_name: "Field Tally",
        description: "Plan, score and judge side-by-side trials",
        start_url: "/",
        display: "standalone",
        background_color: "#e9ede8",
        theme_color: "#e9ede8",
        icons: [{ src: "/strokes.svg", sizes: "any", type: "image/svg+xml", purpose: "any" }],
      },
    }),
  ],
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  build: { manifest: true, target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  test: { env: { TZ: "UTC" }, environment: "happy-dom", include: ["src/**/*.test.ts"], testTimeout: 30_000 },
});
