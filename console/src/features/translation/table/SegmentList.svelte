<script lang="ts">
  import "../../../messages/translation";
  import { createWindowVirtualizer } from "@tanstack/svelte-virtual";
  import { untrack, type Snippet } from "svelte";
  import type { SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { nameOf } from "./names";

  /** Sentences one below the other, of which those in sight are drawn. */
  let { lines, row }: { lines: SegmentLine[]; row: Snippet<[SegmentLine, number]> } = $props();
  let list = $state<HTMLElement>();
  const rows = createWindowVirtualizer<HTMLElement>({ count: 0, estimateSize: () => 84, overscan: 8 });
  $effect(() => {
    const given = {
      count: lines.length,
      scrollMargin: list?.offsetTop ?? 0,
      getItemKey: (n: number) => (lines[n] ? nameOf(lines[n]) : n),
    };
    untrack(() => $rows.setOptions(given));
  });
  const measure = (one: HTMLElement) => void $rows.measureElement(one);

  /** Bring a sentence into sight. */
  export function reveal(line: SegmentLine): void {
    const n = lines.findIndex((one) => nameOf(one) === nameOf(line));
    if (n >= 0) $rows.scrollToIndex(n, { align: "auto" });
  }
</script>

<div bind:this={list} class="relative min-w-0" style:height="{$rows.getTotalSize()}px">
  {#each $rows.getVirtualItems() as seen (seen.key)}
    {@const line = lines[seen.index]}
    {#if line}
      <div
        {@attach measure}
        data-index={seen.index}
        class="absolute inset-x-0 top-0"
        style:transform="translateY({seen.start - $rows.options.scrollMargin}px)"
      >
        {@render row(line, seen.index)}
      </div>
    {/if}
  {/each}
  {#if !lines.length}<p class="text-moss">{t("table.nothingFits")}</p>{/if}
</div>
