<script lang="ts">
  import type { ClassValue, HTMLInputAttributes } from "svelte/elements";
  import { Input } from "flowbite-svelte";
  import { BOX, OURS } from "./look";

  /** One line that is typed; its label stands around it, or `aria-label` names it. */
  let {
    value = $bindable(),
    element = $bindable(),
    class: extra,
    ...rest
  }: Omit<HTMLInputAttributes, "size"> & { element?: HTMLInputElement; class?: ClassValue } = $props();
</script>

<Input
  {...rest as object}
  bind:value
  bind:elementRef={element}
  color={OURS}
  class={[BOX, "read-only:bg-wash dark:read-only:bg-wash", extra]}
/>
