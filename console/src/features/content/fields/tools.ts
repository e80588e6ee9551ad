import type { ChainedCommands, Editor } from "@tiptap/core";
import type { Component } from "svelte";
import ArrowDownToBracketOutline from "flowbite-svelte-icons/ArrowDownToBracketOutline.svelte";
import CodeOutline from "flowbite-svelte-icons/CodeOutline.svelte";
import ImageOutline from "flowbite-svelte-icons/ImageOutline.svelte";
import LetterBoldOutline from "flowbite-svelte-icons/LetterBoldOutline.svelte";
import LetterItalicOutline from "flowbite-svelte-icons/LetterItalicOutline.svelte";
import InsertTableOutline from "flowbite-svelte-icons/InsertTableOutline.svelte";
import LinkOutline from "flowbite-svelte-icons/LinkOutline.svelte";
import ListOutline from "flowbite-svelte-icons/ListOutline.svelte";
import MinusOutline from "flowbite-svelte-icons/MinusOutline.svelte";
import OrderedListOutline from "flowbite-svelte-icons/OrderedListOutline.svelte";
import QuoteOutline from "flowbite-svelte-icons/QuoteOutline.svelte";
import RedoOutline from "flowbite-svelte-icons/RedoOutline.svelte";
import TextSizeOutline from "flowbite-svelte-icons/TextSizeOutline.svelte";
import UndoOutline from "flowbite-svelte-icons/UndoOutline.svelte";
import { t } from "../../../lib/i18n";
import { putTable } from "./table";

/** Where a tool is offered: in the toolbar, in the bar over chosen words, among what `/` puts in. */
type Where = "toolbar" | "selection" | "slash";

/** Something that can be done to a text. */
export interface Tool {
  name: string;
  label: string;
  icon: Component<{ class?: string; "aria-hidden"?: boolean }>;
  does: () => unknown;
  /** What the cursor stands in where it holds. */
  on?: string;
  attributes?: Record<string, unknown>;
  where: Where[];
}

/** The levels of headings within a text; the first is the entry's title. */
export const LEVELS = [2, 3, 4] as const;

/** All that can be done to a text, in the order in which it is offered. */
export function tools(editor: Editor, onShow: (which: "link" | "picture") => void): Tool[] {
  const then = (does: (chain: ChainedCommands) => ChainedCommands) => () =>
    does(editor.chain().focus()).run();
  const headings = LEVELS.map((level) => ({
    name: `heading${level}`,
    label: t("rich.headingLevel", { level }),
    icon: TextSizeOutline,
    does: then((c) => c.setHeading({ level })),
    on: "heading",
    attributes: { level },
    where: ["slash"] as Where[],
  }));
  const marks: Omit<Tool, "label">[] = [
    {
      name: "bold",
      icon: LetterBoldOutline,
      does: then((c) => c.toggleBold()),
      on: "bold",
      where: ["toolbar", "selection"],
    },
    {
      name: "italic",
      icon: LetterItalicOutline,
      does: then((c) => c.toggleItalic()),
      on: "italic",
      where: ["toolbar", "selection"],
    },
    {
      name: "code",
      icon: CodeOutline,
      does: then((c) => c.toggleCode()),
      on: "code",
      where: ["toolbar", "selection"],
    },
    {
      name: "link",
      icon: LinkOutline,
      does: () => onShow("link"),
      on: "link",
      where: ["toolbar", "selection", "slash"],
    },
    {
      name: "list",
      icon: ListOutline,
      does: then((c) => c.toggleBulletList()),
      on: "bulletList",
      where: ["toolbar", "slash"],
    },
    {
      name: "numbered",
      icon: OrderedListOutline,
      does: then((c) => c.toggleOrderedList()),
      on: "orderedList",
      where: ["toolbar", "slash"],
    },
    {
      name: "quote",
      icon: QuoteOutline,
      does: then((c) => c.toggleBlockquote()),
      on: "blockquote",
      where: ["toolbar", "slash"],
    },
    {
      name: "picture",
      icon: ImageOutline,
      does: () => onShow("picture"),
      on: "figure",
      where: ["toolbar", "slash"],
    },
    {
      name: "table",
      icon: InsertTableOutline,
      does: then((c) => putTable(c)),
      where: ["toolbar", "slash"],
    },
    { name: "rule", icon: MinusOutline, does: then((c) => c.setHorizontalRule()), where: ["slash"] },
    {
      name: "opening",
      icon: ArrowDownToBracketOutline,
      does: then((c) => c.insertContent({ type: "openingMark" })),
      on: "openingMark",
      where: ["toolbar", "slash"],
    },
    { name: "undo", icon: UndoOutline, does: then((c) => c.undo()), where: ["toolbar"] },
    { name: "redo", icon: RedoOutline, does: then((c) => c.redo()), where: ["toolbar"] },
  ];
  return [...headings, ...marks.map((one) => ({ ...one, label: t(`rich.${one.name}`) }))];
}

/** Those of them that are offered somewhere. */
export function offered(all: Tool[], where: Where): Tool[] {
  return all.filter((one) => one.where.includes(where));
}
