<script lang="ts">
  import type { Editor } from "@tiptap/core";
  import { t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Menu from "../../../ui/Menu.svelte";
  import MenuLine from "../../../ui/MenuLine.svelte";
  import { tableTools } from "./table";
  import { LEVELS, offered, type Tool } from "./tools";
  import ExpandOutline from "flowbite-svelte-icons/ExpandOutline.svelte";
  import MinimizeOutline from "flowbite-svelte-icons/MinimizeOutline.svelte";
  import TableRowOutline from "flowbite-svelte-icons/TableRowOutline.svelte";
  import TextSizeOutline from "flowbite-svelte-icons/TextSizeOutline.svelte";

  /** What a text can be given, above it. `turn` changes whenever the text or the place of the cursor did. */
  let {
    editor,
    tools,
    turn,
    controls,
    wide = $bindable(),
  }: { editor: Editor; tools: Tool[]; turn: number; controls: string; wide: boolean } = $props();

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
    <MenuLine chosen={active("paragraph")} onclick={() => editor.chain().focus().setParagraph().run()}
      >{t("rich.paragraph")}</MenuLine
    >
    {#each LEVELS as level (level)}
      <MenuLine
        chosen={active("heading", { level })}
        onclick={() => editor.chain().focus().setHeading({ level }).run()}
        >{t("rich.headingLevel", { level })}</MenuLine
      >
    {/each}
  </Menu>
  {#each offered(tools, "toolbar") as tool (tool.name)}
    <Button
      look="quiet"
      icon={tool.icon}
      label={tool.label}
      class={[tool.on && active(tool.on) && "bg-hedge text-hedge-ink hover:not-disabled:bg-hedge"]}
      aria-pressed={tool.on ? active(tool.on) : undefined}
      onclick={tool.does}
    />
  {/each}
  {#if active("table")}
    <Menu label={t("rich.inTable")} icon={TableRowOutline} look="quiet" align="start">
      {#each tableTools as tool (tool.name)}
        <MenuLine icon={tool.icon} onclick={() => tool.does(editor)}>{t(`rich.table_${tool.name}`)}</MenuLine>
      {/each}
    </Menu>
  {/if}
  <Button
    look="quiet"
    icon={wide ? MinimizeOutline : ExpandOutline}
    label={wide ? t("rich.narrow") : t("rich.wide")}
    class="ms-auto"
    aria-pressed={wide}
    onclick={() => (wide = !wide)}
  />
</div>
