import { Extension } from "@tiptap/core";
import type { Node } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";
import { Decoration, DecorationSet } from "@tiptap/pm/view";

/** Characters of a paragraph of the text, by its place among the paragraphs, that a comment is about. */
export interface Marked {
  id: string;
  index: number;
  first: number;
  past: number;
}

/** Tells the editor that the comments changed. */
export const PASSAGES = new PluginKey<DecorationSet>("passages");

/** Underlines the words that comments are about. They are no part of the text; a click leads to the comment. */
export function passages(marked: () => Marked[], onChosen: (id: string) => void) {
  return Extension.create({
    name: "passages",
    addProseMirrorPlugins: () => [
      new Plugin<DecorationSet>({
        key: PASSAGES,
        state: {
          init: (_, state) => drawn(state.doc, marked()),
          apply: (turn, old) =>
            turn.getMeta(PASSAGES) ? drawn(turn.doc, marked()) : old.map(turn.mapping, turn.doc),
        },
        props: {
          decorations: (state) => PASSAGES.getState(state),
          handleClick: (view, at) => {
            const [found] = PASSAGES.getState(view.state)?.find(at, at) ?? [];
            if (found) onChosen(String(found.spec.id));
            return false;
          },
        },
      }),
    ],
  });
}

function drawn(doc: Node, marked: Marked[]): DecorationSet {
  const starts: { at: number; size: number }[] = [];
  doc.descendants((node, at) => {
    if (node.isTextblock) starts.push({ at: at + 1, size: node.content.size });
    else if (node.isBlock && node.isAtom) starts.push({ at, size: 0 });
  });
  const found = marked.flatMap(({ id, index, first, past }) => {
    const paragraph = starts[index];
    if (!paragraph || past > paragraph.size) return [];
    return [Decoration.inline(paragraph.at + first, paragraph.at + past, { class: "commented" }, { id })];
  });
  return DecorationSet.create(doc, found);
}
