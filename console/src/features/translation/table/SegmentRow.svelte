<script lang="ts">
  import "../../../messages/translation";
  import type { Snippet } from "svelte";
  import type { Languages } from "./table.svelte";
  import type { SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Words from "./Words.svelte";

  interface Props {
    line: SegmentLine;
    number: number;
    /** The heading of its entry, where it is the first of it. */
    title: string;
    languages: Languages;
    active: boolean;
    editable: boolean;
    onOpen: () => void;
    /** What stands in place of the target while it is worked on. */
    editing: Snippet;
  }
  let { line, number, title, languages, active, editable, onOpen, editing }: Props = $props();
  const mark = $derived(line.trouble && line.state === "initial" ? "back" : line.state);
  const tone = $derived(
    {
      back: "border-s-berry",
      initial: "border-s-line",
      translated: "border-s-slate",
      reviewed: "border-s-hedge",
      final: "border-s-hedge",
    }[mark],
  );
</script>

{#if title}<h2 class="pt-4 pb-1 font-semibold">{title}</h2>{/if}
{#if line.first}<p class="pt-2 pb-0.5 ps-10 text-sm text-moss">{line.label}</p>{/if}
<div
  class={[
    "grid grid-cols-[2rem_minmax(0,1fr)_minmax(0,1.2fr)] gap-x-3 border-s-4 border-b py-1.5 ps-2 max-md:grid-cols-[2rem_minmax(0,1fr)]",
    tone,
    active && "bg-wash",
  ]}
  aria-current={active ? "true" : undefined}
  data-segment={number}
>
  <span class="text-end text-sm text-moss tabular-nums">{number}</span>
  <p class="prose-text" lang={languages.source} dir={languages.sourceDir}>
    <Words sentence={line.source} tags={line.tags} words={line.words} />
  </p>
  <div class="flex min-w-0 flex-col gap-1 max-md:col-start-2">
    {#if active}
      {@render editing()}
    {:else if editable}
      <Button
        look="row"
        class="prose-text min-h-8 px-2 py-0 whitespace-pre-wrap text-start font-normal"
        aria-label={t("table.open", { number, label: line.label })}
        lang={languages.target}
        dir={languages.targetDir}
        onclick={onOpen}
        >{#if line.target}<span><Words sentence={line.target} tags={line.tags} /></span>{:else}<span
            class="font-sans text-moss">{t("table.empty")}</span
          >{/if}</Button
      >
    {:else}
      <p class="prose-text" lang={languages.target} dir={languages.targetDir}>
        <Words sentence={line.target} tags={line.tags} />
      </p>
    {/if}
    {#if !active}
      <p class="flex flex-wrap gap-x-3 text-sm text-moss">
        <span class={line.state === "final" ? "font-semibold text-hedge" : ""}
          >{t(`table.state.${mark}`)}</span
        >
        {#if line.by}<span>{line.by}</span>{/if}
        {#if line.origin}<span class="text-straw"
            >{t(line.origin === "machine" ? "table.fromMachine" : "table.fromMemory")}</span
          >{/if}
        {#if line.findings.length}<span class="text-straw"
            >{line.findings.map((one) => one.what).join("; ")}</span
          >{/if}
        {#if line.remark}<span dir="auto">{t("quoted", { text: line.remark })}</span>{/if}
      </p>
    {/if}
  </div>
</div>
