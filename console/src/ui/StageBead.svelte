<script lang="ts">
  /** A stage as a bead on its line; the last has no line behind it. */
  let { last }: { last: boolean } = $props();
</script>

<svg height="18" aria-hidden="true" class="block w-full rtl:-scale-x-100">
  {#if !last}<line x1="8" y1="9" x2="100%" y2="9" stroke="var(--edge)" stroke-width="2" />{/if}
  <circle cx="9" cy="9" r="7" fill="var(--hedge)" />
</svg>
