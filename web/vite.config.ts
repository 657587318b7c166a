import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Leaves scripts and styles compressed beside the plain ones, for the server to send. */
function compressed(): Plugin {
  return {
    name: "compressed",
    apply: "build",
    writeBundle({ dir }, bundle) {
      for (const [name, part] of Object.entries(bundle)) {
        if (!dir || !/\.(js|css)$/.test(name)) continue;
        writeFileSync(join(dir, `${name}.gz`), gzipSync(part.type === "chunk" ? part.code : part.source, { level: 9 }));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), compressed()],
  build: { chunkSizeWarningLimit: 800, assetsInlineLimit: 0 },
});
