import { Mark, Node, type Editor, type Extension } from "@tiptap/core";
import StarterKit from "@tiptap/starter-kit";
import { tableNodes } from "./table";

/** Inline marks that the canonical text has and the starter set has not: kept, though no button makes them. */
const marks = [
  Mark.create({ name: "sub", parseHTML: () => [{ tag: "sub" }], renderHTML: () => ["sub", 0] }),
  Mark.create({ name: "sup", parseHTML: () => [{ tag: "sup" }], renderHTML: () => ["sup", 0] }),
  Mark.create({
    name: "foreign",
    addAttributes: () => ({ lang: { default: null }, dir: { default: null } }),
    parseHTML: () => [{ tag: "span[lang]" }, { tag: "span[dir]" }],
    renderHTML: ({ HTMLAttributes }) => ["span", HTMLAttributes, 0],
  }),
];

/** Where the opening of a text ends: a rule of its own kind, with a label that is not part of the text. */
function openingMark(label: string) {
  return Node.create({
    name: "openingMark",
    group: "block",
    atom: true,
    selectable: true,
    priority: 200,
    parseHTML: () => [{ tag: "hr.opening", priority: 100 }],
    renderHTML: () => ["hr", { class: "opening" }],
    addNodeView: () => () => {
      const dom = document.createElement("div");
      dom.className = "opening-mark";
      dom.contentEditable = "false";
      dom.textContent = label;
      return { dom };
    },
  });
}

/** A picture with its caption; the picture is an entry, shown by the file that it holds. */
function figure(fileOf: (uuid: string) => string) {
  return Node.create({
    name: "figure",
    group: "block",
    content: "inline*",
    draggable: true,
    addAttributes: () => ({
      src: {
        default: "",
        parseHTML: (element: HTMLElement) => element.querySelector("img")?.getAttribute("src") ?? "",
      },
    }),
    parseHTML: () => [
      {
        tag: "figure",
        contentElement: (element) =>
          element.querySelector("figcaption") ?? document.createElement("figcaption"),
      },
    ],
    renderHTML: ({ node }) => ["figure", ["img", { src: node.attrs.src }], ["figcaption", 0]],
    addNodeView: () => (view) => {
      const dom = document.createElement("figure");
      const picture = document.createElement("img");
      const file = fileOf(String(view.node.attrs.src).replace("urn:uuid:", ""));
      picture.alt = "";
      if (file) picture.src = `/api/files/${file}`;
      const caption = document.createElement("figcaption");
      dom.append(picture, caption);
      return { dom, contentDOM: caption };
    },
  });
}

/** All that the text editor knows: what canonical text may hold, and nothing else. */
export function extensions(fileOf: (uuid: string) => string, opening = "", more: Extension[] = []) {
  return [
    ...more,
    openingMark(opening),
    StarterKit.configure({
      heading: { levels: [2, 3, 4] },
      underline: false,
      codeBlock: false,
      link: {
        openOnClick: false,
        protocols: ["urn", "mailto", "tel"],
        HTMLAttributes: { target: null, rel: null },
      },
    }),
    ...marks,
    figure(fileOf),
    ...tableNodes,
  ];
}

/** The text as it is sent: null where there is none, and without empty lines at its end. */
export function valueOf(editor: Editor): string | null {
  return editor.isEmpty ? null : editor.getHTML().replace(/(<p><\/p>)+$/, "") || null;
}
