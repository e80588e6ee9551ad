<script lang="ts">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLTableAttributes } from "svelte/elements";
  import { Table } from "flowbite-svelte";
  import { OURS } from "./look";

  /**
   * Rows and columns, with their heads; scrolls by itself where it is wider than the page. With `pinned` it grows with the page
   * instead, so that its heads can stay in sight while the page is scrolled.
   */
  let {
    pinned = false,
    class: extra,
    children,
    ...rest
  }: HTMLTableAttributes & { pinned?: boolean; class?: ClassValue; children: Snippet } = $props();
</script>

<Table
  {...rest}
  color={OURS}
  border={false}
  classes={{ div: pinned ? "overflow-visible" : "" }}
  class={["w-full border-collapse text-start text-[length:inherit]", extra]}
>
  {@render children()}
</Table>
