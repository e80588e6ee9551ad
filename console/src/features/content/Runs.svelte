<script lang="ts">
  import type { DiffPart } from "../../lib/api";

  /** Words of which what is gone is struck and what is new is underlined. */
  let { runs }: { runs: DiffPart["runs"] } = $props();
</script>

{#each runs as run, n (n)}{#if run.how === "gone"}<del class="bg-gone">{run.text}</del
    >{:else if run.how === "new"}<ins class="bg-new">{run.text}</ins>{:else}{run.text}{/if}{/each}
