<script lang="ts" generics="Key extends string">
  import type { Snippet } from "svelte";
  import Button from "./Button.svelte";
  import ChevronLeftOutline from "flowbite-svelte-icons/ChevronLeftOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";

  /**
   * A few views of one thing, of which one is seen. The arrows, Home and End go between them, and what does not fit is reached by
   * going on sideways, so that they stay in one line.
   */
  let {
    tabs,
    chosen = $bindable(),
    label,
    end,
    children,
  }: {
    tabs: readonly { key: Key; label: string }[];
    chosen: Key;
    label: string;
    /** What stands at the end of the row. */
    end?: Snippet;
    children: Snippet;
  } = $props();

  const id = $props.id();
  let row = $state<HTMLElement>();
  let more = $state({ before: false, after: false });

  /** Whether there is more to either side than is seen. */
  function look(): void {
    if (!row) return;
    const at = Math.abs(row.scrollLeft);
    more = { before: at > 1, after: at + row.clientWidth < row.scrollWidth - 1 };
  }

  $effect(() => {
    if (!row) return;
    void tabs;
    const seen = new ResizeObserver(look);
    seen.observe(row);
    look();
    return () => seen.disconnect();
  });

  function on(step: number): void {
    const rtl = row && getComputedStyle(row).direction === "rtl" ? -1 : 1;
    row?.scrollBy({ left: step * rtl * row.clientWidth * 0.6 });
  }

  function go(event: KeyboardEvent): void {
    const at = tabs.findIndex((one) => one.key === chosen);
    const last = tabs.length - 1;
    const rtl = getComputedStyle(event.currentTarget as HTMLElement).direction === "rtl";
    const next = {
      ArrowRight: at + (rtl ? -1 : 1),
      ArrowLeft: at + (rtl ? 1 : -1),
      Home: 0,
      End: last,
    }[event.key];
    if (next === undefined) return;
    event.preventDefault();
    chosen = tabs[(next + tabs.length) % tabs.length]!.key;
    const tab = document.getElementById(`${id}-${chosen}`);
    tab?.focus();
    tab?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
</script>

<div class="mb-4 flex items-center border-b">
  {#if more.before}{@render beyond(-1, ChevronLeftOutline)}{/if}
  <div
    role="tablist"
    aria-label={label}
    class="flex min-w-0 flex-1 overflow-x-auto [scrollbar-width:none]"
    bind:this={row}
    onscroll={look}
  >
    {#each tabs as one (one.key)}
      <Button
        look="quiet"
        role="tab"
        id="{id}-{one.key}"
        aria-selected={chosen === one.key}
        aria-controls="{id}-panel"
        tabindex={chosen === one.key ? 0 : -1}
        class={[
          "shrink-0 rounded-b-none border-b-3 px-2.5 py-1.5 font-semibold -outline-offset-3",
          chosen === one.key ? "border-hedge text-hedge" : "border-transparent text-moss",
        ]}
        onclick={() => (chosen = one.key)}
        onkeydown={go}>{one.label}</Button
      >
    {/each}
  </div>
  {#if more.after}{@render beyond(1, ChevronRightOutline)}{/if}
  {@render end?.()}
</div>
<div role="tabpanel" id="{id}-panel" aria-labelledby="{id}-{chosen}">
  {@render children()}
</div>

{#snippet beyond(step: number, icon: typeof ChevronLeftOutline)}
  <!-- For a pointer: the arrow keys reach every tab without it. -->
  <Button
    look="quiet"
    {icon}
    tabindex={-1}
    aria-hidden="true"
    class="shrink-0 text-moss rtl:-scale-x-100"
    onclick={() => on(step)}
  />
{/snippet}
