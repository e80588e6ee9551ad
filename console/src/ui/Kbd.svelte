<script lang="ts">
  import type { Snippet } from "svelte";
  import { Kbd } from "flowbite-svelte";

  /** A key, as it is printed. */
  let { children }: { children: Snippet } = $props();
</script>

<Kbd
  class="border-line bg-wash px-1.5 py-0.5 text-sm font-semibold text-ink dark:border-line dark:bg-wash dark:text-ink"
  >{@render children()}</Kbd
>
