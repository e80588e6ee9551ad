import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import type { Plugin } from "vite";

import { compiled, type Tree } from "./compiled.ts";

/**
 * `virtual:messages/en` is the catalogue `src/messages/en.json`, compiled while the console is built, so that no reader of
 * its format is sent to whoever opens the console.
 */
export function catalogue(): Plugin {
  const path = (language: string) => fileURLToPath(new URL(`src/messages/${language}.json`, import.meta.url));
  return {
    name: "catalogue",
    resolveId: (id) => (id.startsWith("virtual:messages/") ? `\0${id}` : undefined),
    load(id) {
      if (!id.startsWith("\0virtual:messages/")) return;
      const file = path(id.split("/").pop()!);
      this.addWatchFile(file);
      return `export default ${JSON.stringify(compiled(JSON.parse(readFileSync(file, "utf8")) as Tree))}`;
    },
  };
}
