<script lang="ts" generics="T">
  import type { ClassValue, HTMLSelectAttributes } from "svelte/elements";
  import { Select } from "flowbite-svelte";
  import { BOX } from "./look";

  /** One of several; the options stand inside, and nothing is chosen that is not one of them. */
  let {
    value = $bindable(),
    element = $bindable(),
    class: extra,
    children,
    ...rest
  }: Omit<HTMLSelectAttributes, "value" | "size"> & {
    value?: T;
    element?: HTMLSelectElement;
    class?: ClassValue;
  } = $props();
</script>

<Select
  {...rest as object}
  bind:value
  bind:elementRef={element}
  placeholder=""
  class={extra}
  classes={{ select: [BOX, "pe-9"] }}
>
  {@render children?.()}
</Select>
