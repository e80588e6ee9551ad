import { Node, mergeAttributes, type Editor, type JSONContent } from "@tiptap/core";
import StarterKit from "@tiptap/starter-kit";
import { face, pieces, written, type Piece } from "./sentences";

/** A tag in the editor: one thing that the cursor steps over, and that is there whole or not at all. */
function chip(nameOf: (id: string, of: string) => string) {
  return Node.create({
    name: "chip",
    inline: true,
    group: "inline",
    atom: true,
    selectable: true,
    addAttributes: () => ({ tag: { default: "" }, how: { default: "open" }, of: { default: "" } }),
    parseHTML: () => [],
    renderHTML: ({ node, HTMLAttributes }) => [
      "span",
      mergeAttributes(HTMLAttributes, { class: "chip" }),
      face(nameOf(node.attrs.tag, node.attrs.of), node.attrs.how),
    ],
  });
}

export function extensions(nameOf: (id: string, of: string) => string) {
  const none = false as const;
  return [
    StarterKit.configure({
      blockquote: none,
      bold: none,
      bulletList: none,
      code: none,
      codeBlock: none,
      dropcursor: none,
      gapcursor: none,
      hardBreak: none,
      heading: none,
      horizontalRule: none,
      italic: none,
      link: none,
      listItem: none,
      listKeymap: none,
      orderedList: none,
      strike: none,
      trailingNode: none,
      underline: none,
    }),
    chip(nameOf),
  ];
}

/** A sentence as the editor holds it. */
export function contentOf(sentence: string): JSONContent {
  const content = pieces(sentence).map((one) =>
    typeof one === "string"
      ? { type: "text", text: one }
      : { type: "chip", attrs: { tag: one.id, how: one.how, of: one.of } },
  );
  return { type: "doc", content: [{ type: "paragraph", content }] };
}

/** What the editor holds as the service writes it. */
export function sentenceIn(editor: Editor): string {
  const out: Piece[] = [];
  editor.state.doc.descendants((node) => {
    if (node.isText) out.push(node.text ?? "");
    else if (node.type.name === "chip")
      out.push({ id: node.attrs.tag, how: node.attrs.how, of: node.attrs.of });
  });
  return written(out);
}

/** Put a tag in: around the words that are marked, or where the cursor is. */
export function putTag(editor: Editor, id: string, alone: boolean): void {
  const { from, to } = editor.state.selection;
  const one = (how: string) => ({ type: "chip", attrs: { tag: id, how, of: "" } });
  if (alone) {
    editor.chain().focus().insertContent(one("empty")).run();
    return;
  }
  editor
    .chain()
    .focus()
    .insertContentAt(to, one("close"))
    .insertContentAt(from, one("open"))
    .setTextSelection({ from: from + 1, to: to + 1 })
    .run();
}
