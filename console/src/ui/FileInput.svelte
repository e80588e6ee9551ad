<script lang="ts">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLInputAttributes } from "svelte/elements";
  import { Fileupload, Label } from "flowbite-svelte";
  import { BOX, LOOKS, OURS, type Look } from "./look";

  /** Files that are taken from this machine: a box that says which; or, with something inside, an act that is called that. */
  let {
    look = "plain",
    class: extra,
    children,
    ...rest
  }: Pick<
    HTMLInputAttributes,
    "id" | "accept" | "multiple" | "required" | "disabled" | "aria-label" | "onchange"
  > & {
    look?: Look;
    class?: ClassValue;
    children?: Snippet;
  } = $props();
</script>

{#if children}
  <Label
    color={OURS}
    class={[
      LOOKS[look],
      "inline-flex w-auto items-center gap-0! whitespace-nowrap focus-within:outline-3 focus-within:outline-offset-2 focus-within:outline-slate",
      extra,
    ]}
  >
    {@render children()}
    <Fileupload {...rest} class="sr-only" />
  </Label>
{:else}
  <Fileupload
    {...rest}
    class={[BOX, "w-full text-base file:bg-wash file:text-ink dark:file:bg-wash", extra]}
  />
{/if}
