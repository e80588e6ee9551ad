<script lang="ts">
  import { posToDOMRect, type Editor } from "@tiptap/core";
  import { computePosition, flip, offset, shift } from "@floating-ui/dom";
  import { t } from "../../../lib/i18n";
  import { within } from "../../../lib/words";
  import { begun, type Slash } from "./slash";
  import { offered, type Tool } from "./tools";

  /** What can be put in, below the `/` that was typed for it: narrowed by going on to type, gone through by the arrows. */
  let { editor, tools, turn }: { editor: Editor; tools: Tool[]; turn: number } = $props();
  const list = $props.id();
  let sheet = $state<HTMLElement>();
  let at = $state(0);
  /** Where a list was closed that is not to be opened again by going on to type. */
  let closed = $state(-1);
  const slash = $derived.by((): Slash | null => {
    void turn;
    const found = begun(editor);
    return found && found.from !== closed ? found : null;
  });
  const lines = $derived(
    slash ? offered(tools, "slash").filter((one) => within(one.label, slash.words)) : [],
  );
  const open = $derived(lines.length > 0);

  $effect(() => {
    void slash?.words;
    at = 0;
  });
  // What is opened is said to whoever does not see it, as of the field that the cursor is in.
  $effect(() => {
    const dom = editor.view.dom;
    if (!open) return;
    dom.setAttribute("aria-controls", list);
    dom.setAttribute("aria-activedescendant", `${list}-${at}`);
    return () => {
      dom.removeAttribute("aria-controls");
      dom.removeAttribute("aria-activedescendant");
    };
  });
  $effect(() => {
    if (!open || !sheet || !slash) return;
    const panel = sheet;
    const mark = { getBoundingClientRect: () => posToDOMRect(editor.view, slash.from, slash.from + 1) };
    void computePosition(mark, panel, {
      placement: "bottom-start",
      strategy: "fixed",
      middleware: [offset(6), flip(), shift({ padding: 8 })],
    }).then(({ x, y }) => Object.assign(panel.style, { left: `${x}px`, top: `${y}px` }));
  });

  function choose(tool: Tool | undefined): void {
    if (!tool || !slash) return;
    editor.chain().deleteRange({ from: slash.from, to: editor.state.selection.from }).run();
    tool.does();
  }

  /** Take a key while the list is open. */
  export function press(key: string): boolean {
    if (!open) return false;
    if (key === "Escape") closed = slash?.from ?? -1;
    else if (key === "ArrowDown" || key === "ArrowUp") {
      at = (at + (key === "ArrowDown" ? 1 : lines.length - 1)) % lines.length;
      document.getElementById(`${list}-${at}`)?.scrollIntoView({ block: "nearest" });
    } else choose(lines[at]);
    return true;
  }
</script>

{#if open}
  <ul
    bind:this={sheet}
    id={list}
    role="listbox"
    tabindex={-1}
    aria-label={t("rich.putIn")}
    class="sheet fixed top-0 left-0 z-40 max-h-[min(28rem,70vh)] w-60 overflow-y-auto p-1 shadow-lg"
  >
    {#each lines as tool, n (tool.name)}
      <li
        id="{list}-{n}"
        role="option"
        tabindex={-1}
        aria-selected={n === at}
        class="flex min-h-9 cursor-pointer items-center gap-2 rounded px-2 py-1 {n === at ? 'bg-wash' : ''}"
        onpointermove={() => (at = n)}
        onpointerdown={(event) => {
          event.preventDefault();
          choose(tool);
        }}
      >
        <tool.icon class="size-5 shrink-0 text-moss" aria-hidden={true} />{tool.label}
      </li>
    {/each}
  </ul>
{/if}
