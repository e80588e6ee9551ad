<script lang="ts">
  import type { DiffPart } from "../api";
  import { t } from "../i18n";

  let { parts, lang }: { parts: DiffPart[]; lang: string } = $props();
  const changed = $derived(parts.filter((part) => part.how !== "same"));
</script>

<div class="prose-text flex flex-col gap-2" {lang} dir="auto">
  {#each changed as part, n (part.leaf || n)}
    <p class="m-0! border-s-2 ps-3">
      {#if part.how === "moved"}<span class="me-1 rounded bg-wash px-1 text-sm text-moss"
          >{t("compare.moved")}</span
        >{/if}
      {#each part.runs as run, m (m)}{#if run.how === "gone"}<del class="bg-gone">{run.text}</del
          >{:else if run.how === "new"}<ins class="bg-new">{run.text}</ins>{:else}{run.text}{/if}{/each}
    </p>
  {/each}
</div>
