import { readdirSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { marked } from "marked";
import type { Plugin } from "vite";

const FOLDER = fileURLToPath(new URL("../docs/", import.meta.url));
/** What is about the code, and for whoever changes it. */
const NOT_GUIDES = new Set(["architecture.md"]);
const STYLE = `
:root { color-scheme: light dark; }
body { margin: 0 auto; max-width: 46rem; padding: 1.5rem; font: 1.05rem/1.55 "Source Sans 3 Variable", "Noto Sans", system-ui, sans-serif;
  background: light-dark(#fbfaf6, #171d1a); color: light-dark(#1e2a24, #e8ebe4); }
a { color: light-dark(#2f5d46, #8fc7a6); }
h1, h2, h3 { font-family: "Source Serif 4 Variable", "Noto Serif", Georgia, serif; line-height: 1.25; }
nav { display: flex; flex-wrap: wrap; gap: .25rem 1rem; border-bottom: 1px solid light-dark(#ddd8cc, #37423c); padding-bottom: .75rem; }
pre, code { background: light-dark(#f1eee4, #252f2a); border-radius: .25rem; }
code { padding: 0 .2rem; } pre { padding: .75rem; overflow-x: auto; } pre code { padding: 0; }
table { border-collapse: collapse; display: block; overflow-x: auto; }
th, td { border-bottom: 1px solid light-dark(#ddd8cc, #37423c); padding: .3rem .75rem .3rem 0; text-align: start; vertical-align: top; }
`;

/** The guides of the documentation as pages beside the console, at `/assets/guides/`, for its help to lead to. */
export function guides(): Plugin {
  return {
    name: "guides",
    apply: "build",
    generateBundle() {
      const files = readdirSync(FOLDER).filter((name) => name.endsWith(".md") && !NOT_GUIDES.has(name));
      const read = files.map((name) => {
        const text = readFileSync(FOLDER + name, "utf8");
        return { name: name.replace(/\.md$/, ".html"), title: /^# (.*)$/m.exec(text)?.[1] ?? name, text };
      });
      const nav = read.map((one) => `<a href="${one.name}">${one.title}</a>`).join(" ");
      for (const { name, title, text } of read) {
        const body = marked.parse(text.replace(/\]\(([\w-]+)\.md(#[\w-]*)?\)/g, "]($1.html$2)"), {
          async: false,
        });
        this.emitFile({
          type: "asset",
          fileName: `assets/guides/${name}`,
          source:
            `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">` +
            `<title>${title} – Hawthorn</title><style>${STYLE}</style><nav aria-label="Guides">${nav}</nav><main>${body}</main></html>`,
        });
      }
    },
  };
}
