<script lang="ts">
  import type { Bead, Planned } from "../lib/api";
  import { t, when } from "../lib/i18n";

  interface Props {
    beads: Bead[];
    planned?: Planned[];
    waits?: string;
    names?: boolean;
  }
  let { beads, planned = [], waits = "", names = false }: Props = $props();

  const next = $derived(planned[0]);
  const plannedText = $derived(
    next ? t("rail.planned", { verb: t(`verb.${next.verb}`), when: when(next.instant) }) : "",
  );
  const STEP = 30;
  const width = $derived(beads.length * STEP + (next ? 16 : 0));
</script>

<span class="inline-flex flex-wrap items-center gap-x-2">
  <ul class="sr-only" aria-label={t("rail.label")}>
    {#each beads as bead (bead.stage)}<li>{bead.text}</li>{/each}
    {#if next}<li>{plannedText}</li>{/if}
  </ul>
  <svg {width} height="26" viewBox="0 0 {width} 26" aria-hidden="true" class="rtl:-scale-x-100">
    <line x1="12" y1="15" x2={beads.length * STEP - 12} y2="15" stroke="var(--edge)" stroke-width="2" />
    {#each beads as bead, n (bead.stage)}
      {@const x = n * STEP + 12}
      <g>
        <title>{bead.text}</title>
        {#if bead.state === "head"}
          <circle cx={x} cy="15" r="7" fill="var(--hedge)" />
        {:else if bead.state === "older"}
          <circle cx={x} cy="15" r="6" fill="var(--sheet)" stroke="var(--straw)" stroke-width="2.5" />
          <circle cx={x} cy="15" r="2.2" fill="var(--straw)" />
        {:else}
          <circle cx={x} cy="15" r="6" fill="var(--paper)" stroke="var(--edge)" stroke-width="1.8" />
        {/if}
        {#if waits === bead.stage}
          <path d="M{x - 4} 4 h8 l-4 4z" fill="var(--berry)" />
        {/if}
      </g>
    {/each}
    {#if next}
      <path
        d="M{beads.length * STEP - 4} 15 h6 a5 5 0 0 1 5 5 v2"
        fill="none"
        stroke="var(--slate)"
        stroke-width="2.5"
        stroke-linecap="round"
      />
    {/if}
  </svg>
  {#if names}
    <span class="text-sm text-moss" aria-hidden="true">
      {#each beads as bead, n (bead.stage)}{n ? " · " : ""}{bead.label}{bead.revision
          ? ` ${bead.revision}`
          : ""}{bead.state === "older" && bead.behind ? ` (−${bead.behind})` : ""}{/each}
    </span>
  {/if}
  {#if next}<span class="text-sm text-slate" aria-hidden="true">{plannedText}</span>{/if}
</span>
