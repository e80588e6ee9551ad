<script lang="ts" generics="Key extends string">
  import type { Snippet } from "svelte";
  import Button from "./Button.svelte";

  /**
   * A few views of one thing, of which one is seen. The arrows, Home and End go between them, and what does not fit is reached by
   * going on sideways, so that they stay in one line.
   */
  let {
    tabs,
    chosen = $bindable(),
    label,
    children,
  }: {
    tabs: readonly { key: Key; label: string }[];
    chosen: Key;
    label: string;
    children: Snippet;
  } = $props();

  const id = $props.id();

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

<div role="tablist" aria-label={label} class="mb-4 flex overflow-x-auto border-b">
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
<div role="tabpanel" id="{id}-panel" aria-labelledby="{id}-{chosen}">
  {@render children()}
</div>
