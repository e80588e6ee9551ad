<script lang="ts">
  import type { Component, Snippet } from "svelte";
  import { getContext } from "svelte";
  import { DropdownItem } from "flowbite-svelte";
  import { LOOKS } from "./look";

  /** One act of a menu; where it stands for a choice, the one that holds is `chosen`. */
  let {
    icon: Icon,
    chosen = false,
    onclick,
    children,
  }: {
    icon?: Component<{ class?: string }>;
    chosen?: boolean;
    onclick: () => unknown;
    children: Snippet;
  } = $props();
  const close = getContext<() => void>("menu");
</script>

<DropdownItem
  class={[LOOKS.row, "flex items-center", chosen && "font-semibold text-hedge"]}
  aria-current={chosen || undefined}
  onclick={() => {
    close();
    void onclick();
  }}
>
  {#if Icon}<Icon class="size-5 shrink-0 text-moss" />{/if}{@render children()}
</DropdownItem>
