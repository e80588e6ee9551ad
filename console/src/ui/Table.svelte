<script lang="ts">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLTableAttributes } from "svelte/elements";
  import { Table } from "flowbite-svelte";
  import { OURS } from "./look";

  /** Rows and columns, with their heads; scrolls by itself where it is wider than the page. */
  let {
    class: extra,
    children,
    ...rest
  }: HTMLTableAttributes & { class?: ClassValue; children: Snippet } = $props();
</script>

<Table
  {...rest}
  color={OURS}
  border={false}
  class={["w-full border-collapse text-start text-[length:inherit]", extra]}
>
  {@render children()}
</Table>
