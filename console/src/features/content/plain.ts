/** The words of a piece of markup, the cells of a row apart. */
export function plain(html: string): string {
  const apart = html.replace(/<\/t[hd]>\s*<t[hd]>/g, " | ").replace(/<\/?(?:t[hd]|tr|table)>/g, " ");
  return new DOMParser().parseFromString(`<span>${apart}</span>`, "text/html").body.textContent ?? "";
}
