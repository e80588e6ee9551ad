/** What a language is called in itself, as far as the browser knows; empty for what is no language tag. */
export function ownName(tag: string): string {
  try {
    const name =
      new Intl.DisplayNames([tag.trim()], { type: "language", fallback: "none" }).of(tag.trim()) ?? "";
    return name ? name.charAt(0).toLocaleUpperCase(tag.trim()) + name.slice(1) : "";
  } catch {
    return "";
  }
}
