import { readdirSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import type { Plugin } from "vite";

import { compiled, type Tree } from "./compiled.ts";

/**
 * `virtual:messages/en` is the catalogue `src/messages/en.json`, compiled while the console is built, so that no reader of
 * its format is sent to whoever opens the console. `virtual:messages/translated` has the other languages, each whole and
 * loaded by whoever speaks it.
 */
export function catalogue(): Plugin {
  const folder = fileURLToPath(new URL("src/messages/", import.meta.url));
  const files = readdirSync(folder).filter((file) => file.endsWith(".json"));
  return {
    name: "catalogue",
    resolveId: (id) => (id.startsWith("virtual:messages/") ? `\0${id}` : undefined),
    load(id) {
      if (!id.startsWith("\0virtual:messages/")) return;
      const name = id.split("/").pop()!;
      if (name === "translated") {
        const languages = [...new Set(files.map((file) => file.split(".")[0]!))].filter(
          (one) => one !== "en",
        );
        return `export default { ${languages.map(load).join(", ")} }`;
      }
      const parts = files.filter((file) => file === `${name}.json` || file.startsWith(`${whole(name)}.`));
      const messages = parts.map((file) => {
        this.addWatchFile(folder + file);
        return compiled(JSON.parse(readFileSync(folder + file, "utf8")) as Tree);
      });
      return `export default ${JSON.stringify(Object.assign({}, ...messages))}`;
    },
  };
}

const load = (language: string): string => `"${language}": () => import("virtual:messages/all.${language}")`;

/** The language of which a module has all parts; of no module where it has one. */
const whole = (name: string): string => (name.startsWith("all.") ? name.slice("all.".length) : "/");
