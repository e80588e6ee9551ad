import { readFileSync } from "node:fs";

const dist = "../src/hawthorn/console_dist/";
const manifest = JSON.parse(readFileSync(new URL(`${dist}.vite/manifest.json`, import.meta.url), "utf8"));

/** A part of the console with all that it cannot do without. */
function whole(key, found = new Set()) {
  if (found.has(key)) return found;
  found.add(key);
  for (const other of manifest[key].imports ?? []) whole(other, found);
  return found;
}

const shared = whole("index.html");
const paths = (keys) => [...keys].map((key) => dist + manifest[key].file);
const editor = "src/features/content/fields/RichEditor.svelte";
const entry = whole("src/features/content/EntryPage.svelte");
const pages = manifest["index.html"].dynamicImports.filter((key) => key.startsWith("src/features/"));

/** What the first page and each further one may weigh, as it is sent. */
export default [
  { name: "The first page", path: paths(shared), limit: "120 kB", gzip: true },
  {
    name: "Its styles",
    path: [...shared].flatMap((key) => manifest[key].css ?? []).map((file) => dist + file),
    limit: "30 kB",
    gzip: true,
  },
  ...pages.map((key) => ({
    name: key.replace(/^.*\/|\.svelte$/g, ""),
    path: paths([...whole(key)].filter((part) => !shared.has(part))),
    limit: "60 kB",
    gzip: true,
  })),
  {
    name: "The text editor, beyond the entry's page",
    path: paths([...whole(editor)].filter((part) => !shared.has(part) && !entry.has(part))),
    limit: "160 kB",
    gzip: true,
  },
  {
    name: "Drawings, beyond the page of figures",
    path: paths([...whole("src/features/views/figures/Chart.svelte")].filter((part) => !shared.has(part))),
    limit: "80 kB",
    gzip: true,
  },
];
