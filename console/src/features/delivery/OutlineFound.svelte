<script lang="ts">
  import { api, sure, type OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";

  /** Pages that words find, each with what lies above it. */
  let { words, locale, onReveal }: { words: string; locale: string; onReveal: (line: OutlineLine) => void } =
    $props();
  let found = $state.raw<{ line: OutlineLine; above: string[] }[] | null>(null);

  $effect(() => {
    const wanted = words.trim();
    if (!wanted) {
      found = null;
      return;
    }
    const pending = setTimeout(async () => {
      const query = { words: wanted, ...(locale ? { locale } : {}) };
      const answer = await sure(api.GET("/api/outline/search", { params: { query } })).catch(() => null);
      found = answer?.items ?? [];
    }, 180);
    return () => clearTimeout(pending);
  });
</script>

{#if found}
  <ul class="sheet mb-4 divide-y" aria-label={t("outline.found")}>
    {#each found as one (one.line.id)}
      <li class="flex flex-wrap items-center gap-x-3 px-3 py-2">
        <span class="min-w-0"
          >{#if one.above.length}<span class="text-sm text-moss">{one.above.join(" › ")} › </span>{/if}<a
            href="/entries/{one.line.id}/{one.line.locale}">{one.line.title || t("list.untitled")}</a
          ></span
        >
        <Button class="ms-auto" onclick={() => onReveal(one.line)}>{t("outline.reveal")}</Button>
      </li>
    {:else}<li class="px-3 py-2 text-moss">{t("outline.foundNone")}</li>{/each}
  </ul>
{/if}
