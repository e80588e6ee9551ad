<script lang="ts">
  import type { Row } from "../lib/graph";

  /** The part of the graph beside one revision: its bead, the strands that pass it, the lines to its parents. */
  let { rows, at }: { rows: Row[]; at: number } = $props();
  const row = $derived(rows[at]!);
  const width = $derived(
    Math.max(...rows.flatMap((one) => [one.lane, ...one.passing, ...one.down])) * 14 + 16,
  );
  const x = (lane: number): number => lane * 14 + 8;
  const above = $derived(at > 0 && [...rows[at - 1]!.passing, ...rows[at - 1]!.down].includes(row.lane));
</script>

<div class="relative min-h-12 shrink-0 self-stretch" style:width="{width}px" aria-hidden="true">
  <svg class="absolute inset-0 h-full w-full">
    {#each row.passing as lane (lane)}
      <line x1={x(lane)} x2={x(lane)} y1="0" y2="100%" stroke="var(--edge)" stroke-width="1.5" />
    {/each}
    {#if above}<line
        x1={x(row.lane)}
        x2={x(row.lane)}
        y1="0"
        y2="12"
        stroke="var(--edge)"
        stroke-width="1.5"
      />{/if}
    {#each row.down as lane, n (n)}
      <line x1={x(row.lane)} y1="12" x2={x(lane)} y2="28" stroke="var(--edge)" stroke-width="1.5" />
      <line x1={x(lane)} x2={x(lane)} y1="28" y2="100%" stroke="var(--edge)" stroke-width="1.5" />
    {/each}
    <circle
      cx={x(row.lane)}
      cy="12"
      r="4.5"
      fill={row.draft ? "var(--hedge)" : "var(--sheet)"}
      stroke={row.draft ? "var(--hedge)" : "var(--slate)"}
      stroke-width="2"
    />
  </svg>
</div>
