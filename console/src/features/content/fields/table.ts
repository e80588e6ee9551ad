import { Node, type ChainedCommands, type Editor } from "@tiptap/core";
import type { EditorState, Transaction } from "@tiptap/pm/state";
import {
  addColumnAfter,
  addColumnBefore,
  addRowAfter,
  addRowBefore,
  deleteColumn,
  deleteRow,
  deleteTable,
  goToNextCell,
  tableEditing,
  toggleHeaderRow,
} from "@tiptap/pm/tables";
import type { Component } from "svelte";
import AddColumnAfterOutline from "flowbite-svelte-icons/AddColumnAfterOutline.svelte";
import AddColumnBeforeOutline from "flowbite-svelte-icons/AddColumnBeforeOutline.svelte";
import DeleteColumnOutline from "flowbite-svelte-icons/DeleteColumnOutline.svelte";
import DeleteRowOutline from "flowbite-svelte-icons/DeleteRowOutline.svelte";
import DeleteTableOutline from "flowbite-svelte-icons/DeleteTableOutline.svelte";
import InsertRowAfterOutline from "flowbite-svelte-icons/InsertRowAfterOutline.svelte";
import InsertRowBeforeOutline from "flowbite-svelte-icons/InsertRowBeforeOutline.svelte";
import ToggleHeaderRowOutline from "flowbite-svelte-icons/ToggleHeaderRowOutline.svelte";

/** A cell holds words and line breaks, and is one cell wide and high. */
const cell = (name: string, tag: "td" | "th", role: string) =>
  Node.create({
    name,
    content: "inline*",
    isolating: true,
    addAttributes: () => ({
      colspan: { default: 1, rendered: false, parseHTML: () => 1 },
      rowspan: { default: 1, rendered: false, parseHTML: () => 1 },
      colwidth: { default: null, rendered: false, parseHTML: () => null },
    }),
    extendNodeSchema: (extension) => (extension.name === name ? { tableRole: role } : {}),
    parseHTML: () => [{ tag }],
    renderHTML: () => [tag, 0],
  });

const row = Node.create({
  name: "tableRow",
  content: "(tableCell | tableHeader)*",
  extendNodeSchema: (extension) => (extension.name === "tableRow" ? { tableRole: "row" } : {}),
  parseHTML: () => [{ tag: "tr" }],
  renderHTML: () => ["tr", 0],
});

const table = Node.create({
  name: "table",
  group: "block",
  content: "tableRow+",
  isolating: true,
  extendNodeSchema: (extension) => (extension.name === "table" ? { tableRole: "table" } : {}),
  parseHTML: () => [{ tag: "table" }],
  renderHTML: () => ["table", ["tbody", 0]],
  // A wide one is moved sideways by itself, and not the page with it.
  addNodeView: () => () => {
    const dom = document.createElement("div");
    const contentDOM = document.createElement("tbody");
    dom.className = "overflow-x-auto";
    dom.append(document.createElement("table"));
    dom.firstElementChild!.append(contentDOM);
    return { dom, contentDOM };
  },
  addKeyboardShortcuts() {
    const { editor } = this;
    const inCell = () => editor.isActive("table");
    // A cell has no paragraphs that could be divided.
    const line = () => inCell() && editor.commands.insertContent({ type: "hardBreak" });
    return {
      Enter: line,
      "Shift-Enter": line,
      Tab: () => inCell() && (step(editor, 1) || (run(editor, addRowAfter) && step(editor, 1))),
      "Shift-Tab": () => inCell() && step(editor, -1),
    };
  },
  addProseMirrorPlugins: () => [tableEditing({ allowTableNodeSelection: false })],
});

/** What the text editor knows of tables. */
export const tableNodes = [
  table,
  row,
  cell("tableCell", "td", "cell"),
  cell("tableHeader", "th", "header_cell"),
];

type Command = (state: EditorState, dispatch?: (turn: Transaction) => void) => boolean;

function run(editor: Editor, command: Command): boolean {
  return editor.commands.command(({ state, dispatch }) => command(state, dispatch));
}

function step(editor: Editor, by: 1 | -1): boolean {
  return run(editor, goToNextCell(by));
}

/** Put a table in where the cursor stands, which is in its first cell then. */
export function putTable(chain: ChainedCommands, rows = 3, columns = 3): ChainedCommands {
  const line = (type: string) => ({
    type: "tableRow",
    content: Array.from({ length: columns }, () => ({ type })),
  });
  const lines = Array.from({ length: rows }, (_, n) => line(n ? "tableCell" : "tableHeader"));
  return chain.insertContent({ type: "table", content: lines }).command(({ tr, commands }) => {
    let first = -1;
    tr.doc.nodesBetween(0, tr.selection.from, (node, at) => {
      if (node.type.name === "table") first = at;
      return node.type.name !== "table";
    });
    return first < 0 || commands.setTextSelection(first + 3);
  });
}

/** An act on the table that the cursor is in. */
export interface TableTool {
  name:
    | "rowBefore"
    | "rowAfter"
    | "columnBefore"
    | "columnAfter"
    | "heads"
    | "rowGone"
    | "columnGone"
    | "tableGone";
  icon: Component<{ class?: string; "aria-hidden"?: boolean }>;
  does: (editor: Editor) => unknown;
}

const act = (name: TableTool["name"], icon: TableTool["icon"], command: Command): TableTool => ({
  name,
  icon,
  does: (editor) =>
    editor
      .chain()
      .focus()
      .command(({ state, dispatch }) => command(state, dispatch))
      .run(),
});

export const tableTools = [
  act("rowBefore", InsertRowBeforeOutline, addRowBefore),
  act("rowAfter", InsertRowAfterOutline, addRowAfter),
  act("columnBefore", AddColumnBeforeOutline, addColumnBefore),
  act("columnAfter", AddColumnAfterOutline, addColumnAfter),
  act("heads", ToggleHeaderRowOutline, toggleHeaderRow),
  act("rowGone", DeleteRowOutline, deleteRow),
  act("columnGone", DeleteColumnOutline, deleteColumn),
  act("tableGone", DeleteTableOutline, deleteTable),
];
