<script lang="ts">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLInputAttributes } from "svelte/elements";
  import { Checkbox } from "flowbite-svelte";
  import { OURS, TICK } from "./look";

  /** What is ticked or not. With something inside, that is its label; else its label stands around it. */
  let {
    checked = $bindable(false),
    class: extra,
    children,
    ...rest
  }: Omit<HTMLInputAttributes, "type" | "checked" | "children" | "value"> & {
    checked?: boolean;
    class?: ClassValue;
    children?: Snippet;
  } = $props();
</script>

{#if children}
  <Checkbox
    {...rest}
    bind:checked
    color={OURS}
    class={[TICK, "me-0", extra]}
    labelProps={{ color: OURS }}
    classes={{ div: "gap-2 font-normal text-inherit text-[length:inherit]" }}
  >
    {@render children()}
  </Checkbox>
{:else}
  <Checkbox {...rest} bind:checked color={OURS} class={[TICK, "me-0", extra]} />
{/if}
