import { Node, mergeAttributes, type Editor, type JSONContent } from "@tiptap/core";
import StarterKit from "@tiptap/starter-kit";

/** Words, or a tag that stands among them by its number. */
export type Piece = string | { id: string; how: "open" | "close" | "empty"; of: string };

const TAG = /<(\/?)([^\s<>/]+)(?: of="([^"<>]*)")?(\/?)>/g;
const plain = (text: string): string => text.replace(/&(lt|amp);/g, (_, name) => (name === "lt" ? "<" : "&"));
const escaped = (text: string): string => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** A sentence as the service writes it, `It <1>burned</1> oil.`, taken apart. */
export function pieces(written: string): Piece[] {
  const out: Piece[] = [];
  let end = 0;
  for (const found of written.matchAll(TAG)) {
    if (found.index > end) out.push(plain(written.slice(end, found.index)));
    end = found.index + found[0].length;
    out.push({
      id: found[2]!,
      how: found[1] ? "close" : found[4] ? "empty" : "open",
      of: found[3] ?? "",
    });
  }
  if (end < written.length) out.push(plain(written.slice(end)));
  return out;
}

/** The way back; what differs only in how a character is written comes out alike. */
export function written(some: readonly Piece[]): string {
  return some
    .map((one) => {
      if (typeof one === "string") return escaped(one);
      if (one.how === "close") return `</${one.id}>`;
      return `<${one.id}${one.of ? ` of="${one.of}"` : ""}${one.how === "empty" ? "/" : ""}>`;
    })
    .join("");
}

/** The words of a sentence without its tags. */
export function wordsIn(sentence: string): string {
  return pieces(sentence)
    .filter((one) => typeof one === "string")
    .join("");
}

/** Whether two sentences say the same, however their characters are written. */
export function same(one: string, other: string): boolean {
  return written(pieces(one)) === written(pieces(other));
}

/** What a chip shows: what it is, and on which side its words are. */
export function face(name: string, how: string): string {
  return how === "open" ? `${name} ▸` : how === "close" ? `◂ ${name}` : name;
}

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
