<script lang="ts">
  import Runs from "./Runs.svelte";
  import type { DiffPart } from "../../lib/api";
  import { t } from "../../lib/i18n";

  let { parts, lang }: { parts: DiffPart[]; lang: string } = $props();
  /** The cells of a row come with tabs between them. */
  const shown = (text: string) => text.replaceAll("\t", " | ");
  const changed = $derived(parts.filter((part) => part.how !== "same"));
</script>

<div class="prose-text flex flex-col gap-2" {lang} dir="auto">
  {#each changed as part, n (n)}
    <p class="m-0! border-s-2 ps-3">
      {#if part.label && part.tag !== "block"}<span class="me-1 font-sans text-sm text-moss"
          >{part.label}</span
        >{/if}
      {#if part.tag === "block"}<span class="me-1 rounded bg-wash px-1 font-sans text-sm text-moss"
          >{t(`compare.block_${part.how}`)}</span
        >{/if}
      {#if part.how === "moved" && part.tag !== "block"}<span
          class="me-1 rounded bg-wash px-1 text-sm text-moss">{t("compare.moved")}</span
        >{/if}
      <Runs runs={part.runs.map((run) => ({ ...run, text: shown(run.text) }))} />
    </p>
  {/each}
</div>
