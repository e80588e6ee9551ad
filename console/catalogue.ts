import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import type { Plugin } from "vite";

type Tree = { [key: string]: string | Tree };
type Part =
  string | [name: string] | [name: string, format: string] | [name: string, "plural", Record<string, Part[]>];

/** The parts of a message: its words, and the values that stand between them as `{{name}}` or `{{name, number}}`. */
export function parts(message: string): Part[] {
  return message
    .split(/(\{\{[^}]+\}\})/)
    .filter(Boolean)
    .map((part): Part => {
      const [name, format] = part.startsWith("{{") ? part.slice(2, -2).split(",") : [];
      if (!name) return part;
      return format ? [name.trim(), format.trim()] : [name.trim()];
    });
}

/** A catalogue (JSON of i18next, version 4) as the runtime wants it: one level of keys, each message in parts, plurals in one. */
export function compiled(tree: Tree, before = ""): Record<string, Part[]> {
  const messages: Record<string, Part[]> = {};
  for (const [name, value] of Object.entries(tree)) {
    const key = before + name;
    const plural = /^(.+)_(zero|one|two|few|many|other)$/.exec(key);
    if (typeof value !== "string") Object.assign(messages, compiled(value, `${key}.`));
    else if (plural && `${name.replace(/_[a-z]+$/, "")}_other` in tree) {
      const cases = (messages[plural[1]!] ??= [["count", "plural", {}]])[0]![2] as Record<string, Part[]>;
      // None at all is said by its number: most languages have no plural form of their own for it.
      cases[plural[2] === "zero" ? "0" : plural[2]!] = parts(value);
    } else messages[key] = parts(value);
  }
  return messages;
}

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
