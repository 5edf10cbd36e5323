import react from "@vitejs/plugin-react";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

/** Beside each file of script or style the same, packed, when all of them are as they stay: the server hands it out as it is. */
const packed = (): Plugin => ({
  name: "packed",
  apply: "build",
  writeBundle({ dir }, bundle) {
    for (const name of Object.keys(bundle)) {
      const file = join(dir ?? "", name);
      if (/\.(m?js|css)$/.test(name)) writeFileSync(`${file}.gz`, gzipSync(readFileSync(file), { level: 9 }));
    }
  },
});

export default defineConfig({
  plugins: [react(), packed()],
  build: { chunkSizeWarningLimit: 3000, target: "es2022", minify: "terser" },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
