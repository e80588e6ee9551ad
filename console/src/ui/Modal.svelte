<script lang="ts">
  import type { Snippet } from "svelte";
  import { prefersReducedMotion } from "svelte/motion";
  import { Modal } from "flowbite-svelte";

  /**
   * What is looked at or settled before anything else. Escape, its close button and a click outside close it, and the focus goes
   * back to where it was. Its top stays where it is while it grows, so that nothing moves away from under a click.
   * Opened again at once, it stays open: what the browser says of the one before comes late, and is not taken for the new one.
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

  /** Whether what is said next is said of a dialog that has left the page. */
  let late = false;

  function settle(now: boolean): void {
    if (!late) open = now;
    late = false;
  }
</script>

<Modal
  bind:open={() => open, settle}
  ontoggle={(event) => (late = !event.currentTarget.isConnected)}
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
