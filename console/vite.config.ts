import { svelte } from "@sveltejs/vite-plugin-svelte";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vitest/config";
import { catalogue } from "./catalogue.ts";
import { guides } from "./guides.ts";

const service = process.env.HAWTHORN_URL ?? "http://127.0.0.1:8400";

export default defineConfig({
  plugins: [tailwindcss(), svelte(), catalogue(), guides()],
  build: {
    outDir: "../src/hawthorn/console_dist",
    emptyOutDir: true,
    // What each page is made of, for `npm run size`.
    manifest: true,
    chunkSizeWarningLimit: 700,
    // The component library does not say that its modules only define things; what no page uses of it stays out.
    rolldownOptions: { treeshake: { moduleSideEffects: [{ test: /flowbite-svelte/, sideEffects: false }] } },
  },
  server: { proxy: { "/api": service, "/read": service } },
  resolve: process.env.VITEST ? { conditions: ["browser"] } : undefined,
  test: {
    environment: "happy-dom",
    setupFiles: ["tests/setup.ts"],
    projects: [
      { extends: true, test: { name: "console", include: ["tests/!(languages).test.ts"], isolate: false } },
      // What is said in other languages loads the console anew for each: by itself, so that no other test meets two of it.
      { extends: true, test: { name: "languages", include: ["tests/languages.test.ts"] } },
    ],
  },
});
