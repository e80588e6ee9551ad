<script lang="ts">
  import type { Snippet } from "svelte";
  import Trouble from "./Trouble.svelte";
  import { t } from "../lib/i18n";
  import Button from "./Button.svelte";
  import Modal from "./Modal.svelte";

  /**
   * What has to be given for an act, with the act itself: `go` is what it is called, and nothing where there is none any more.
   * What is wrong is said in place, and what was typed stays. The act stays in view in a dialog that is longer than the page.
   */
  let {
    open = $bindable(false),
    title,
    size = "sm",
    go,
    back = t("start.cancel"),
    busy = false,
    ready = true,
    error = null,
    onsubmit,
    onclose,
    more,
    children,
  }: {
    open?: boolean;
    title: string;
    size?: "sm" | "md" | "lg";
    go: string;
    back?: string;
    busy?: boolean;
    ready?: boolean;
    error?: unknown;
    onsubmit: (event: SubmitEvent) => unknown;
    onclose?: () => void;
    more?: Snippet;
    children: Snippet;
  } = $props();
</script>

<Modal bind:open {title} {size} {onclose}>
  <form
    class="flex flex-col gap-4"
    onsubmit={(event) => {
      event.preventDefault();
      if (ready && !busy) void onsubmit(event);
    }}
  >
    {@render children()}
    {#if error}<Trouble {error} />{/if}
    <div
      class="sticky -bottom-4 -mt-2 -mb-4 flex flex-wrap justify-end gap-2 bg-sheet pt-2 pb-4 md:-bottom-5 md:-mb-5 md:pb-5"
    >
      {@render more?.()}
      <Button
        onclick={() => {
          open = false;
          onclose?.();
        }}>{back}</Button
      >
      {#if go}<Button look="main" type="submit" disabled={busy || !ready}>{go}</Button>{/if}
    </div>
  </form>
</Modal>
