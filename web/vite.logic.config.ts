import { defineConfig } from "vite";

// The logic of the front end as one script, for its tests; it is not shipped.
export default defineConfig({
  publicDir: false,
  define: { "process.env.NODE_ENV": JSON.stringify("production") },
  build: {
    lib: { entry: "src/logic.ts", formats: ["iife"], name: "unused", fileName: () => "logic.js" },
    outDir: "../build/logic",
    emptyOutDir: true,
    minify: false,
  },
});
