import tailwindcss from "@tailwindcss/vite";
import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [vue(), tailwindcss()],
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  test: { environment: "happy-dom", include: ["src/**/*.test.ts"], testTimeout: 30_000 },
});
