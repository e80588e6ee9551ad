<script lang="ts">
  import { Editor } from "@tiptap/core";
  import { onMount } from "svelte";
  import { extensions } from "./rich";
  import type { Named } from "../../api";
  import { t } from "../../i18n";

  interface Props {
    html: string;
    id: string;
    lang: string;
    dir: string;
    references: Record<string, Named>;
    onType: (value: string | null) => void;
  }
  let { html, id, lang, dir, references, onType }: Props = $props();
  let place: HTMLDivElement;
  let editor = $state.raw<Editor | null>(null);
  let turn = $state(0);

  onMount(() => {
    const made = new Editor({
      element: place,
      injectCSS: false,
      content: html,
      extensions: extensions((uuid) => references[uuid]?.file ?? ""),
      editorProps: {
        attributes: {
          id,
          role: "textbox",
          "aria-multiline": "true",
          "aria-labelledby": `${id}-label`,
          lang,
          dir,
          spellcheck: "true",
          class: "prose-text min-h-48 px-4 py-2 outline-none",
        },
      },
      onUpdate: ({ editor: now }) => onType(now.isEmpty ? null : now.getHTML()),
      // Taking the editor off the page makes it blur, in the middle of drawing: tell the toolbar afterwards.
      onTransaction: () => queueMicrotask(() => turn++),
    });
    editor = made;
    return () => made.destroy();
  });

  const tools = [
    { name: "bold", mark: "B", does: (e: Editor) => e.chain().focus().toggleBold().run(), on: "bold" },
    { name: "italic", mark: "I", does: (e: Editor) => e.chain().focus().toggleItalic().run(), on: "italic" },
    {
      name: "heading",
      mark: "H",
      does: (e: Editor) => e.chain().focus().toggleHeading({ level: 2 }).run(),
      on: "heading",
    },
    {
      name: "list",
      mark: "•",
      does: (e: Editor) => e.chain().focus().toggleBulletList().run(),
      on: "bulletList",
    },
    {
      name: "numbered",
      mark: "1.",
      does: (e: Editor) => e.chain().focus().toggleOrderedList().run(),
      on: "orderedList",
    },
    {
      name: "quote",
      mark: "“",
      does: (e: Editor) => e.chain().focus().toggleBlockquote().run(),
      on: "blockquote",
    },
    { name: "link", mark: "↗", does: link, on: "link" },
    { name: "undo", mark: "↶", does: (e: Editor) => e.chain().focus().undo().run(), on: "" },
    { name: "redo", mark: "↷", does: (e: Editor) => e.chain().focus().redo().run(), on: "" },
  ];

  function link(e: Editor): void {
    const href = prompt(t("rich.linkAsk"), String(e.getAttributes("link").href ?? "https://"));
    if (href === null) return;
    if (href.trim()) e.chain().focus().extendMarkRange("link").setLink({ href: href.trim() }).run();
    else e.chain().focus().extendMarkRange("link").unsetLink().run();
  }

  function active(name: string): boolean {
    return turn >= 0 && name !== "" && (editor?.isActive(name) ?? false);
  }
</script>

<div class="sheet border-edge">
  <div
    class="flex flex-wrap gap-1 border-b p-1"
    role="toolbar"
    aria-label={t("rich.label")}
    aria-controls={id}
  >
    {#each tools as tool (tool.name)}
      <button
        type="button"
        class="min-h-8 min-w-8 rounded px-2 font-semibold {active(tool.on)
          ? 'bg-hedge text-hedge-ink'
          : 'hover:bg-wash'}"
        aria-label={t(`rich.${tool.name}`)}
        aria-pressed={tool.on ? active(tool.on) : undefined}
        title={t(`rich.${tool.name}`)}
        onclick={() => editor && tool.does(editor)}>{tool.mark}</button
      >
    {/each}
  </div>
  <div bind:this={place}></div>
</div>
