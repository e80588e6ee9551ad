<script lang="ts">
  import type { Snippet } from "svelte";
  import { prefersReducedMotion } from "svelte/motion";
  import { Modal } from "flowbite-svelte";

  /**
   * What is looked at or settled before anything else. Escape, its close button and a click outside close it, and the focus goes
   * back to where it was. Its top stays where it is while it grows, so that nothing moves away from under a click.
   */
  let {
    open = $bindable(false),
    title,
    size = "sm",
    onclose,
    children,
  }: {
    open?: boolean;
    title: string;
    size?: "sm" | "md" | "lg";
    onclose?: () => void;
    children: Snippet;
  } = $props();
</script>

<Modal
  bind:open
  {title}
  aria-label={title}
  {size}
  placement="top-center"
  {onclose}
  transitionParams={{ duration: prefersReducedMotion.current ? 0 : 100 }}
  class="mt-[8dvh] max-h-[84dvh] divide-line bg-sheet text-ink dark:bg-sheet dark:text-ink"
  classes={{ header: "text-ink dark:text-ink", body: "scroll-pb-20 text-ink" }}
>
  {@render children()}
</Modal>
