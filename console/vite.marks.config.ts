import { defineConfig } from "vite";

/** The script that previewed pages load: one file of its own, beside the console. */
export default defineConfig({
  publicDir: false,
  build: {
    outDir: "../src/hawthorn/console_dist/preview",
    emptyOutDir: true,
    lib: { entry: "src/preview/marks.ts", formats: ["iife"], name: "hawthorn", fileName: () => "marks.js" },
  },
});
