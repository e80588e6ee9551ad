<script lang="ts">
  import type { Snippet } from "svelte";
  import { prefersReducedMotion } from "svelte/motion";
  import { Modal } from "flowbite-svelte";

  /**
   * What is looked at or settled before anything else. Escape, its close button and a click outside close it, and the focus goes
   * back to where it was.
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
  {onclose}
  transitionParams={{ duration: prefersReducedMotion.current ? 0 : 100 }}
  class="divide-line bg-sheet text-ink dark:bg-sheet dark:text-ink"
  classes={{ header: "text-ink dark:text-ink", body: "text-ink" }}
>
  {@render children()}
</Modal>
