<script lang="ts">
  import type { Component, Snippet } from "svelte";
  import { getContext } from "svelte";
  import { DropdownItem } from "flowbite-svelte";
  import { LOOKS } from "./look";

  /** One act of a menu. */
  let {
    icon: Icon,
    onclick,
    children,
  }: { icon?: Component<{ class?: string }>; onclick: () => void; children: Snippet } = $props();
  const close = getContext<() => void>("menu");
</script>

<DropdownItem
  class={[LOOKS.row, "flex items-center"]}
  onclick={() => {
    close();
    onclick();
  }}
>
  {#if Icon}<Icon class="size-5 shrink-0 text-moss" />{/if}{@render children()}
</DropdownItem>
