<script lang="ts">
  import type { Snippet } from "svelte";
  import type { ClassValue } from "svelte/elements";
  import { AccordionItem } from "flowbite-svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";

  /** More of something, behind a line that opens it. */
  let {
    title,
    open = $bindable(false),
    class: extra,
    children,
  }: { title: string; open?: boolean; class?: ClassValue; children: Snippet } = $props();
</script>

<AccordionItem
  bind:open
  headingTag="div"
  transitionType="none"
  class={extra}
  classes={{
    button:
      "min-h-6 cursor-pointer justify-start gap-1 border-0 p-0 py-0.5 text-start font-normal text-moss group-first:rounded-none group-first:border-0 hover:underline",
    content: "border-0 p-0",
    active: "bg-transparent focus:ring-0",
    inactive: "bg-transparent",
  }}
>
  {#snippet header()}
    <ChevronRightOutline
      class={["size-4 shrink-0 rtl:-scale-x-100", open && "rotate-90"].filter(Boolean).join(" ")}
      aria-hidden="true"
    />{title}
  {/snippet}
  {#snippet arrowup()}{/snippet}
  {#snippet arrowdown()}{/snippet}
  {@render children()}
</AccordionItem>
