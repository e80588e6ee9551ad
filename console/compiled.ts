export type Tree = { [key: string]: string | Tree };
export type Part =
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
    else if (plural && ["one", "other"].every((form) => name.replace(/_[a-z]+$/, `_${form}`) in tree)) {
      const cases = (messages[plural[1]!] ??= [["count", "plural", {}]])[0]![2] as Record<string, Part[]>;
      // None at all is said by its number: most languages have no plural form of their own for it.
      cases[plural[2] === "zero" ? "0" : plural[2]!] = parts(value);
    } else messages[key] = parts(value);
  }
  return messages;
}
