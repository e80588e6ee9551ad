<script lang="ts">
  import type { ClassValue, HTMLTextareaAttributes } from "svelte/elements";
  import { Textarea } from "flowbite-svelte";
  import { BOX } from "./look";

  /** Some lines that are typed; their label stands around them, or `aria-label` names them. */
  let {
    value = $bindable(),
    element = $bindable(),
    class: extra,
    ...rest
  }: Omit<HTMLTextareaAttributes, "value"> & {
    value?: string;
    element?: HTMLTextAreaElement;
    class?: ClassValue;
  } = $props();
</script>

<Textarea
  {...rest as object}
  bind:value
  bind:elementRef={element}
  class={[BOX, "read-only:bg-wash dark:read-only:bg-wash", "block w-full", extra]}
/>
