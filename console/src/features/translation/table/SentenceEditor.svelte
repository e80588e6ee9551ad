<script lang="ts">
  import "../../../messages/translation";
  import { Editor } from "@tiptap/core";
  import { onMount } from "svelte";
  import type { SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { contentOf, extensions, putTag, sentenceIn } from "./chips";
  import { tagName } from "./names";

  interface Props {
    line: SegmentLine;
    sentence: string;
    lang: string;
    dir: string;
    onType: (sentence: string) => void;
    /** Keys that are for the table; says whether one was. */
    onKey: (event: KeyboardEvent) => boolean;
  }
  let { line, sentence, lang, dir, onType, onKey }: Props = $props();
  let place: HTMLDivElement;
  let editor: Editor | undefined;

  onMount(() => {
    let last = "";
    const made = new Editor({
      element: place,
      injectCSS: false,
      content: contentOf(sentence),
      extensions: extensions((id, of) => tagName(line.tags, id, of)),
      editorProps: {
        // What is pasted comes as words; its lines become spaces.
        transformPastedHTML: (html) =>
          new DOMParser().parseFromString(html, "text/html").body.textContent ?? "",
        handleKeyDown: (_, event) => {
          if (onKey(event)) return true;
          return event.key === "Enter";
        },
        attributes: {
          role: "textbox",
          "aria-multiline": "true",
          "aria-label": t("table.targetOf", { label: line.label }),
          lang,
          dir,
          spellcheck: "true",
          class: "prose-text min-h-9 px-2 py-1 outline-none",
        },
      },
      onUpdate: ({ editor: now }) => {
        const found = sentenceIn(now);
        if (found === last) return;
        last = found;
        onType(found);
      },
    });
    last = sentenceIn(made);
    editor = made;
    // At once, not in the next frame: whoever types on after the sentence before loses no letter.
    made.commands.setTextSelection(made.state.doc.content.size);
    made.view.focus();
    return () => made.destroy();
  });

  /** Put a tag of the source in. */
  export function put(id: string, alone: boolean): void {
    if (editor) putTag(editor, id, alone);
  }

  /** Put words in where the cursor is. */
  export function insert(words: string): void {
    if (words) editor?.chain().focus().insertContent({ type: "text", text: words }).run();
  }
</script>

<div
  bind:this={place}
  class="rounded border border-edge bg-sheet focus-within:outline-2 focus-within:outline-slate"
></div>
