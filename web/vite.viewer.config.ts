import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** The review viewer as one script and one sheet of styles, all inside: they go into the HTML files that a model leaves as. */
export default defineConfig({
  plugins: [react()],
  publicDir: false,
  build: {
    target: "es2022",
    outDir: "dist/viewer",
    assetsInlineLimit: 10_000_000,
    chunkSizeWarningLimit: 3000,
    cssCodeSplit: false,
    modulePreload: false,
    rollupOptions: {
      input: "src/review/page.tsx",
      output: { format: "es", inlineDynamicImports: true, entryFileNames: "review.js", assetFileNames: "review[extname]" },
    },
  },
});
