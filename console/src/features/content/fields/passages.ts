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
  const places = paragraphs(doc);
  const found = marked.flatMap(({ id, index, first, past }) =>
    (places[index] ?? []).flatMap(({ at, from, size }) => {
      const [start, end] = [Math.max(first, from), Math.min(past, from + size)];
      if (start >= end) return [];
      return [Decoration.inline(at + start - from, at + end - from, { class: "commented" }, { id })];
    }),
  );
  return DecorationSet.create(doc, found);
}

/** Where the characters of a paragraph stand: from one of them on, so many. A row of a table has a stretch for each cell. */
type Stretch = { at: number; from: number; size: number };

function paragraphs(doc: Node): Stretch[][] {
  const out: Stretch[][] = [];
  doc.descendants((node, at) => {
    if (node.type.name === "tableRow") {
      const row: Stretch[] = [];
      let from = 0;
      node.forEach((cell, offset) => {
        row.push({ at: at + offset + 2, from, size: cell.content.size });
        from += cell.content.size + 1;
      });
      out.push(row);
      return false;
    }
    if (node.isTextblock) out.push([{ at: at + 1, from: 0, size: node.content.size }]);
    else if (node.isBlock && node.isAtom) out.push([]);
    return true;
  });
  return out;
}
