<script lang="ts" generics="T">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLInputAttributes } from "svelte/elements";
  import { Radio } from "flowbite-svelte";
  import { OURS, TICK } from "./look";

  /** One of a few that exclude one another, with its label inside. */
  let {
    group = $bindable(),
    value,
    class: extra,
    children,
    ...rest
  }: Omit<HTMLInputAttributes, "type" | "value" | "children"> & {
    group?: T;
    value: T;
    class?: ClassValue;
    children: Snippet;
  } = $props();
</script>

<Radio
  {...rest}
  bind:group
  {value}
  color={OURS}
  class={[TICK, "mr-0 rounded-full"]}
  classes={{ label: ["gap-2 font-normal text-[length:inherit] text-inherit", extra] }}
>
  {@render children()}
</Radio>
