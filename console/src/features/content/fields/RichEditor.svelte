<script lang="ts">
  import { Editor } from "@tiptap/core";
  import { onMount } from "svelte";
  import EntryPicker from "./EntryPicker.svelte";
  import { toasts } from "../../../lib/state/toasts.svelte";
  import { cleaned, gone } from "./paste";
  import PictureUpload from "./PictureUpload.svelte";
  import { PASSAGES, passages, type Marked } from "./passages";
  import { extensions, valueOf } from "./rich";
  import { api, sure, type Named } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { commentsHere } from "../../../lib/state/comments.svelte";
  import Button from "../../../ui/Button.svelte";
  import Input from "../../../ui/Input.svelte";
  import RichSelection from "./RichSelection.svelte";
  import RichTools from "./RichTools.svelte";
  import SlashMenu from "./SlashMenu.svelte";
  import { slashKeys } from "./slash";
  import { tools } from "./tools";
  import { wordsOf } from "./words";

  interface Props {
    html: string;
    id: string;
    lang: string;
    dir: string;
    references: Record<string, Named>;
    locale: string;
    onType: (value: string | null) => void;
  }
  let { html, id, lang, dir, references, locale, onType }: Props = $props();
  let place: HTMLDivElement;
  let editor = $state.raw<Editor | null>(null);
  let turn = $state(0);
  let panel = $state<"" | "link" | "picture">("");
  let href = $state("");
  let wide = $state(false);
  let picker = $state<EntryPicker>();
  let slash = $state<SlashMenu>();
  const acts = $derived(editor ? tools(editor, show) : []);
  const files: Record<string, string> = {};
  const comments = commentsHere();

  /** The words of this text that comments are about. */
  function marked(): Marked[] {
    return (comments?.on(id.replace(/^field-/, "")) ?? []).flatMap(({ id, passage }) =>
      passage && !passage.gone ? [{ id, ...passage }] : [],
    );
  }
  $effect(() => {
    if (comments?.all && editor) editor.view.dispatch(editor.state.tr.setMeta(PASSAGES, true));
  });

  onMount(() => {
    let last: string | null;
    const made = new Editor({
      element: place,
      injectCSS: false,
      content: html,
      extensions: extensions((uuid) => files[uuid] ?? references[uuid]?.file ?? "", t("rich.openingEnds"), [
        slashKeys((key) => slash?.press(key) ?? false),
        ...(comments ? [passages(marked, (found) => comments.show(found))] : []),
      ]),
      editorProps: {
        transformPastedHTML: (pasted) => {
          const lost = gone(pasted);
          if (lost.length)
            toasts.say(t("rich.gone", { what: lost.map((one) => t(`rich.gone_${one}`)).join(", ") }));
          return cleaned(pasted);
        },
        handleTextInput: (view, from, _to, typed) => {
          // Two brackets ask for an entry to link to.
          if (typed !== "[" || view.state.doc.textBetween(Math.max(from - 1, 0), from) !== "[") return false;
          view.dispatch(view.state.tr.delete(from - 1, from));
          show("link");
          return true;
        },
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
      onUpdate: ({ editor: now }) => {
        // The line to go on in after a table or a picture is put there by the editor, and is nobody's change.
        const value = valueOf(now);
        if (value === last) return;
        last = value;
        onType(value);
      },
      // Taking the editor off the page makes it blur, in the middle of drawing: tell the toolbar afterwards.
      onTransaction: () => queueMicrotask(() => turn++),
    });
    last = valueOf(made);
    editor = made;
    return () => made.destroy();
  });

  let counted = $state({ count: 0, characters: 0 });
  $effect(() => {
    void turn;
    // Counting reads the whole text: once somebody pauses, and not at each key.
    const soon = setTimeout(() => {
      const text = editor?.getText({ blockSeparator: "\n" }) ?? "";
      counted = { count: wordsOf(text, lang), characters: [...text.replaceAll("\n", "")].length };
    }, 300);
    return () => clearTimeout(soon);
  });

  function show(which: "link" | "picture"): void {
    panel = panel === which ? "" : which;
    href = String(editor?.getAttributes("link").href ?? "");
    if (href.startsWith("urn:")) href = "";
    queueMicrotask(() => picker?.focus());
  }

  function setLink(to: string, words: string): void {
    panel = "";
    if (!editor) return;
    const chain = editor.chain().focus().extendMarkRange("link");
    if (!to) chain.unsetLink().run();
    else if (editor.state.selection.empty && !editor.isActive("link")) {
      chain
        .insertContent([{ type: "text", text: words || to, marks: [{ type: "link", attrs: { href: to } }] }])
        .run();
    } else chain.setLink({ href: to }).run();
  }

  async function picture(one: Named): Promise<void> {
    panel = "";
    files[one.id] = one.file;
    if (!one.file) {
      const whole = await sure(api.GET("/api/entries/{id}", { params: { path: { id: one.id } } }));
      files[one.id] = (whole.fields.file as { sha256: string } | undefined)?.sha256 ?? "";
    }
    editor
      ?.chain()
      .focus()
      .insertContent({ type: "figure", attrs: { src: `urn:uuid:${one.id}` } })
      .run();
  }

  /** Escape closes what the toolbar opened, wherever the cursor is in it. */
  function keys(around: HTMLElement): () => void {
    around.addEventListener("keydown", onKey);
    return () => around.removeEventListener("keydown", onKey);
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === "Escape" && panel) {
      panel = "";
      editor?.commands.focus();
    } else if (event.key === "Escape" && wide) wide = false;
    else return;
    event.stopPropagation();
  }
</script>

<div class="sheet border-edge {wide ? 'wide-writing' : ''}" {@attach keys}>
  {#if editor}<RichTools {editor} tools={acts} {turn} controls={id} bind:wide />{/if}
  {#if panel === "link"}
    <div class="flex flex-col gap-2 border-b bg-wash p-3">
      <EntryPicker
        bind:this={picker}
        label={t("rich.linkEntry")}
        onChoose={(one) => setLink(`urn:uuid:${one.id}`, one.title)}
      />
      <div class="flex flex-wrap gap-2">
        <Input
          class="min-w-48 flex-1"
          type="url"
          bind:value={href}
          aria-label={t("rich.linkAddress")}
          placeholder={t("rich.linkAddress")}
          onkeydown={(event) => {
            if (event.key === "Enter") {
              event.preventDefault();
              setLink(href.trim(), "");
            }
          }}
        />
        <Button onclick={() => setLink(href.trim(), "")}>{t("rich.linkSet")}</Button>
        <Button onclick={() => setLink("", "")}>{t("rich.linkNone")}</Button>
      </div>
    </div>
  {:else if panel === "picture"}
    <div class="flex flex-wrap items-start gap-2 border-b bg-wash p-3">
      <div class="min-w-56 flex-1">
        <EntryPicker bind:this={picker} type="picture" label={t("rich.pictureFind")} onChoose={picture} />
      </div>
      <PictureUpload {locale} onMade={picture} />
    </div>
  {/if}
  <div bind:this={place}></div>
  {#if editor}
    <RichSelection {editor} tools={acts} {turn} field={id.replace(/^field-/, "")} />
    <SlashMenu bind:this={slash} {editor} tools={acts} {turn} />
  {/if}
  <p class="px-4 pb-2 text-sm text-moss" aria-live="off">{t("rich.count", counted)}</p>
</div>
