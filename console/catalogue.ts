import { readdirSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import type { Plugin } from "vite";

import { compiled, type Tree } from "./compiled.ts";

/**
 * `virtual:messages/en` is the catalogue `src/messages/en.json`, compiled while the console is built, so that no reader of
 * its format is sent to whoever opens the console. `virtual:messages/translated` has all that are not English, by name, each
 * loaded by whoever speaks it.
 */
export function catalogue(): Plugin {
  const folder = fileURLToPath(new URL("src/messages/", import.meta.url));
  return {
    name: "catalogue",
    resolveId: (id) => (id.startsWith("virtual:messages/") ? `\0${id}` : undefined),
    load(id) {
      if (!id.startsWith("\0virtual:messages/")) return;
      const name = id.split("/").pop()!;
      if (name === "translated") {
        const names = readdirSync(folder).filter((file) => file.endsWith(".json") && !file.startsWith("en."));
        const loaded = names.map((file) => file.slice(0, -".json".length)).map(load);
        return `export default { ${loaded.join(", ")} }`;
      }
      const file = `${folder}${name}.json`;
      this.addWatchFile(file);
      return `export default ${JSON.stringify(compiled(JSON.parse(readFileSync(file, "utf8")) as Tree))}`;
    },
  };
}

const load = (name: string): string => `"${name}": () => import("virtual:messages/${name}")`;
