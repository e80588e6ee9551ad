import { Extension, type Editor } from "@tiptap/core";

/** Where `/` was typed, and what was typed after it. */
export interface Slash {
  from: number;
  words: string;
}

/** What was begun with a `/` before the cursor: at the start of a paragraph or after a space, and still one word. */
export function begun(editor: Editor): Slash | null {
  const { selection, doc } = editor.state;
  if (!selection.empty || !selection.$from.parent.isTextblock) return null;
  const before = doc.textBetween(selection.$from.start(), selection.from, "\n", "\ufffc");
  const found = /(?:^|\s)\/([\p{L}\p{N}]*)$/u.exec(before);
  return found ? { from: selection.from - found[1]!.length - 1, words: found[1]! } : null;
}

/** Keys that are meant for the list that `/` opened, while it is open; `onKey` says whether it took one. */
export function slashKeys(onKey: (key: string) => boolean) {
  return Extension.create({
    name: "slashKeys",
    priority: 1000,
    addKeyboardShortcuts: () =>
      Object.fromEntries(
        ["ArrowUp", "ArrowDown", "Enter", "Tab", "Escape"].map((key) => [key, () => onKey(key)]),
      ),
  });
}
