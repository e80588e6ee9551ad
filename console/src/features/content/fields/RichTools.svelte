<script lang="ts">
  import type { ChainedCommands, Editor } from "@tiptap/core";
  import type { Component } from "svelte";
  import ArrowDownToBracketOutline from "flowbite-svelte-icons/ArrowDownToBracketOutline.svelte";
  import CodeOutline from "flowbite-svelte-icons/CodeOutline.svelte";
  import ExpandOutline from "flowbite-svelte-icons/ExpandOutline.svelte";
  import ImageOutline from "flowbite-svelte-icons/ImageOutline.svelte";
  import LetterBoldOutline from "flowbite-svelte-icons/LetterBoldOutline.svelte";
  import LetterItalicOutline from "flowbite-svelte-icons/LetterItalicOutline.svelte";
  import LinkOutline from "flowbite-svelte-icons/LinkOutline.svelte";
  import ListOutline from "flowbite-svelte-icons/ListOutline.svelte";
  import MinimizeOutline from "flowbite-svelte-icons/MinimizeOutline.svelte";
  import OrderedListOutline from "flowbite-svelte-icons/OrderedListOutline.svelte";
  import QuoteOutline from "flowbite-svelte-icons/QuoteOutline.svelte";
  import RedoOutline from "flowbite-svelte-icons/RedoOutline.svelte";
  import TextSizeOutline from "flowbite-svelte-icons/TextSizeOutline.svelte";
  import UndoOutline from "flowbite-svelte-icons/UndoOutline.svelte";
  import { t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Menu from "../../../ui/Menu.svelte";
  import MenuLine from "../../../ui/MenuLine.svelte";

  /** What a text can be given, above it. `turn` changes whenever the text or the place of the cursor did. */
  let {
    editor,
    turn,
    controls,
    wide = $bindable(),
    onShow,
  }: {
    editor: Editor;
    turn: number;
    controls: string;
    wide: boolean;
    onShow: (which: "link" | "picture") => void;
  } = $props();

  type Tool = { name: string; icon: Component; does: () => unknown; on?: string };
  const then = (does: (chain: ChainedCommands) => ChainedCommands) => () =>
    does(editor.chain().focus()).run();
  const tools: Tool[] = [
    { name: "bold", icon: LetterBoldOutline, does: then((c) => c.toggleBold()), on: "bold" },
    { name: "italic", icon: LetterItalicOutline, does: then((c) => c.toggleItalic()), on: "italic" },
    { name: "code", icon: CodeOutline, does: then((c) => c.toggleCode()), on: "code" },
    { name: "link", icon: LinkOutline, does: () => onShow("link"), on: "link" },
    { name: "list", icon: ListOutline, does: then((c) => c.toggleBulletList()), on: "bulletList" },
    {
      name: "numbered",
      icon: OrderedListOutline,
      does: then((c) => c.toggleOrderedList()),
      on: "orderedList",
    },
    { name: "quote", icon: QuoteOutline, does: then((c) => c.toggleBlockquote()), on: "blockquote" },
    { name: "picture", icon: ImageOutline, does: () => onShow("picture"), on: "figure" },
    {
      name: "opening",
      icon: ArrowDownToBracketOutline,
      does: then((c) => c.insertContent({ type: "openingMark" })),
      on: "openingMark",
    },
    { name: "undo", icon: UndoOutline, does: then((c) => c.undo()) },
    { name: "redo", icon: RedoOutline, does: then((c) => c.redo()) },
  ];
  const levels = [2, 3, 4] as const;

  function active(name: string, attributes?: Record<string, unknown>): boolean {
    return turn >= 0 && editor.isActive(name, attributes);
  }
</script>

<div
  class="flex flex-wrap items-center gap-1 border-b p-1"
  role="toolbar"
  aria-label={t("rich.label")}
  aria-controls={controls}
>
  <Menu label={t("rich.heading")} icon={TextSizeOutline} look="quiet" align="start">
    <MenuLine chosen={active("paragraph")} onclick={then((c) => c.setParagraph())}
      >{t("rich.paragraph")}</MenuLine
    >
    {#each levels as level (level)}
      <MenuLine chosen={active("heading", { level })} onclick={then((c) => c.setHeading({ level }))}
        >{t("rich.headingLevel", { level })}</MenuLine
      >
    {/each}
  </Menu>
  {#each tools as tool (tool.name)}
    <Button
      look="quiet"
      icon={tool.icon}
      label={t(`rich.${tool.name}`)}
      class={[tool.on && active(tool.on) && "bg-hedge text-hedge-ink hover:not-disabled:bg-hedge"]}
      aria-pressed={tool.on ? active(tool.on) : undefined}
      onclick={tool.does}
    />
  {/each}
  <Button
    look="quiet"
    icon={wide ? MinimizeOutline : ExpandOutline}
    label={wide ? t("rich.narrow") : t("rich.wide")}
    class="ms-auto"
    aria-pressed={wide}
    onclick={() => (wide = !wide)}
  />
</div>
