import { defineConfig } from "vite";

/** The API's own page, by itself: nobody who draws has to fetch it. */
export default defineConfig({
  publicDir: false,
  base: "/api-docs/",
  build: { target: "es2022", outDir: "dist/api-docs", chunkSizeWarningLimit: 3000, rollupOptions: { input: "api-docs.html" } },
});
