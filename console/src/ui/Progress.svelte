<script lang="ts">
  import type { ClassValue } from "svelte/elements";
  import { Progressbar } from "flowbite-svelte";
  import { OURS } from "./look";

  /** How far something is: `value` of `max`, said to those who cannot see it by its label. */
  let {
    value,
    max = 100,
    label,
    class: extra,
  }: { value: number; max?: number; label: string; class?: ClassValue } = $props();
  const percent = $derived(Math.round((100 * Math.min(value, max)) / (max || 1)));
</script>

<Progressbar
  progress={percent}
  color={OURS}
  role="progressbar"
  aria-label={label}
  aria-valuemin={0}
  aria-valuemax={100}
  aria-valuenow={percent}
  size="h-2"
  class={["border border-edge bg-sheet dark:bg-sheet", extra]}
  classes={{ label: "bg-hedge" }}
/>
