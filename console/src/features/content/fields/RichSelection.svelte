<script lang="ts">
  import { posToDOMRect, type Editor } from "@tiptap/core";
  import { computePosition, flip, offset, shift } from "@floating-ui/dom";
  import { t } from "../../../lib/i18n";
  import { chosenIn, commentsHere } from "../../../lib/state/comments.svelte";
  import Button from "../../../ui/Button.svelte";
  import { offered, type Tool } from "./tools";
  import MessageDotsOutline from "flowbite-svelte-icons/MessageDotsOutline.svelte";

  /**
   * What chosen words can be given, over them. It is there for a pointer and a finger: the keys do the same from within the text, and
   * so does the toolbar, which every tool of it stands in.
   */
  let { editor, tools, turn, field }: { editor: Editor; tools: Tool[]; turn: number; field: string } =
    $props();
  let bar = $state<HTMLElement>();
  let held = $state(false);
  const comments = commentsHere();
  const shown = $derived.by(() => {
    void turn;
    const { empty, from, to } = editor.state.selection;
    return editor.isFocused && !held && !empty && editor.state.doc.textBetween(from, to, " ").trim() !== "";
  });

  function active(name: string): boolean {
    return turn >= 0 && editor.isActive(name);
  }

  // While somebody is still choosing, nothing stands in the way.
  $effect(() => {
    const dom = editor.view.dom;
    const press = () => (held = true);
    const release = () => (held = false);
    dom.addEventListener("pointerdown", press);
    window.addEventListener("pointerup", release);
    return () => {
      dom.removeEventListener("pointerdown", press);
      window.removeEventListener("pointerup", release);
    };
  });

  $effect(() => {
    void turn;
    if (!shown || !bar) return;
    const sheet = bar;
    const { from, to } = editor.state.selection;
    const words = { getBoundingClientRect: () => posToDOMRect(editor.view, from, to) };
    void computePosition(words, sheet, {
      placement: "top",
      strategy: "fixed",
      middleware: [offset(8), flip(), shift({ padding: 8 })],
    }).then(({ x, y }) => Object.assign(sheet.style, { left: `${x}px`, top: `${y}px` }));
  });
</script>

{#if shown}
  <!-- svelte-ignore a11y_interactive_supports_focus (the focus stays in the text) -->
  <div
    bind:this={bar}
    role="toolbar"
    aria-label={t("rich.chosen")}
    class="sheet fixed top-0 left-0 z-40 flex gap-0.5 p-1 shadow-lg"
    onpointerdown={(event) => event.preventDefault()}
  >
    {#each offered(tools, "selection") as tool (tool.name)}
      <Button
        look="quiet"
        tabindex={-1}
        icon={tool.icon}
        label={tool.label}
        class={[tool.on && active(tool.on) && "bg-hedge text-hedge-ink hover:not-disabled:bg-hedge"]}
        aria-pressed={tool.on ? active(tool.on) : undefined}
        onclick={tool.does}
      />
    {/each}
    {#if comments}
      <Button
        look="quiet"
        tabindex={-1}
        icon={MessageDotsOutline}
        label={t("rich.comment")}
        onclick={() => comments.begin(field, chosenIn(editor.view.dom))}
      />
    {/if}
  </div>
{/if}
