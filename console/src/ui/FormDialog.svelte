<script lang="ts">
  import type { Snippet } from "svelte";
  import Trouble from "./Trouble.svelte";
  import { t } from "../lib/i18n";
  import Button from "./Button.svelte";
  import Modal from "./Modal.svelte";

  /**
   * What has to be given for an act, with the act itself: `go` is what it is called, and nothing where there is none any more.
   * What is wrong is said in place, and what was typed stays.
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
    <div class="flex flex-wrap justify-end gap-2">
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
