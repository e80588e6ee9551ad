<script lang="ts" generics="T">
  import type { ClassValue, HTMLSelectAttributes } from "svelte/elements";
  import { Select } from "flowbite-svelte";
  import { BOX } from "./look";

  const WORD =
    "w-auto max-w-full rounded border-0 border-b-2 border-hedge bg-transparent py-0.5 ps-1 pe-7 font-semibold text-hedge dark:border-hedge dark:bg-transparent dark:text-hedge";

  /**
   * One of several; the options stand inside, and nothing is chosen that is not one of them. `inline` stands within a sentence or a
   * heading, as one of its words.
   */
  let {
    value = $bindable(),
    element = $bindable(),
    inline = false,
    class: extra,
    children,
    ...rest
  }: Omit<HTMLSelectAttributes, "value" | "size"> & {
    value?: T;
    element?: HTMLSelectElement;
    inline?: boolean;
    class?: ClassValue;
  } = $props();
</script>

<Select
  {...rest as object}
  bind:value
  bind:elementRef={element}
  placeholder=""
  class={[inline && "w-auto", extra]}
  classes={{ select: [BOX, "pe-9", inline && WORD] }}
>
  {@render children?.()}
</Select>
