<script lang="ts">
  import type { DiffPart } from "../../lib/api";
  import { t } from "../../lib/i18n";

  /** Words of which what is gone is struck and what is new is underlined; a dotted line is under what an assistant wrote. */
  let { runs }: { runs: DiffPart["runs"] } = $props();
</script>

{#snippet words(run: DiffPart["runs"][number])}{#if run.assistant}<mark
      class="bg-transparent text-inherit underline decoration-straw decoration-dotted decoration-2 underline-offset-4"
      ><span class="sr-only">{t("assisted.begins")}</span>{run.text}<span class="sr-only"
        >{t("assisted.ends")}</span
      ></mark
    >{:else}{run.text}{/if}{/snippet}
{#each runs as run, n (n)}{#if run.how === "gone"}<del class="bg-gone">{run.text}</del
    >{:else if run.how === "new"}<ins class="bg-new">{@render words(run)}</ins>{:else}{@render words(
      run,
    )}{/if}{/each}
