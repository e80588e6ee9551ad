<script lang="ts">
  import "../../messages/translation";
  import type { ImportResult } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Runs from "../content/Runs.svelte";

  /** What of a file is not simply put in: both sources where that changed, both translations where somebody edited one. */
  let {
    decisions,
    source,
    target,
  }: { decisions: ImportResult["decisions"]; source: string; target: string } = $props();
</script>

{#if decisions.length}
  <ul class="flex flex-col gap-3 pt-2">
    {#each decisions as one (one.entry + one.key)}
      <li class="border-s-2 border-s-straw ps-3">
        <p class="text-sm text-moss">{one.title} · {one.label} · {t(`jobs.decision.${one.how}`)}</p>
        {#if one.how !== "conflict"}
          <p class="prose-text" lang={source} dir="auto"><Runs runs={one.runs} /></p>
          <p class="prose-text text-moss" lang={target} dir="auto">{one.returned}</p>
        {:else}
          <p class="prose-text" lang={target} dir="auto"><Runs runs={one.others} /></p>
        {/if}
      </li>
    {/each}
  </ul>
{/if}
