<script lang="ts">
  import Runs from "./Runs.svelte";
  import type { components } from "../../lib/api/schema";
  import { t } from "../../lib/i18n";

  interface Props {
    comparison: components["schemas"]["Comparison"];
    lang: string;
    /** Also paragraphs that are the same on both sides. */
    whole: boolean;
  }
  let { comparison, lang, whole }: Props = $props();
  type Part = components["schemas"]["DiffPart"];

  function shown(parts: Part[]): Part[] {
    return parts.filter((part) => whole || part.how !== "same");
  }

  /** What of a part stands on a side: a paragraph that is gone has nothing on the right. */
  function runs(part: Part, side: "gone" | "new") {
    return part.runs.filter((run) => run.how === "same" || run.how === side);
  }

  function there(part: Part, side: "gone" | "new"): boolean {
    return part.how !== (side === "gone" ? "new" : "gone");
  }
</script>

<div class="hidden grid-cols-2 gap-6 border-b pb-1 text-sm text-moss md:grid">
  <p>{comparison.before.label}</p>
  <p>{comparison.after.label}</p>
</div>
{#each comparison.fields as field (field.field)}
  <section class="border-b py-3">
    <h2 class="pb-1 font-sans font-semibold text-moss">{field.label}</h2>
    {#each shown(field.parts) as part, n (n)}
      <div class="grid gap-x-6 py-1 md:grid-cols-2">
        {#each ["gone", "new"] as const as side (side)}
          <div
            class="prose-text min-w-0 {part.how === 'moved' ? 'border-s-4 border-s-slate ps-2' : ''}"
            {lang}
            dir="auto"
          >
            {#if there(part, side)}
              {#if part.label}<span class="block font-sans text-sm text-moss">{part.label}</span>{/if}
              {#if part.how === "moved"}<span class="me-1 rounded bg-wash px-1 font-sans text-sm text-moss"
                  >{t(side === "gone" ? "compare.movedFrom" : "compare.movedTo")}</span
                >{:else if part.tag === "block"}<span
                  class="me-1 rounded bg-wash px-1 font-sans text-sm text-moss"
                  >{t(`compare.block_${part.how}`)}</span
                >{/if}<Runs runs={runs(part, side)} />
            {/if}
          </div>
        {/each}
      </div>
    {/each}
  </section>
{/each}
