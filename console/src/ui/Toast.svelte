<script lang="ts">
  import type { Snippet } from "svelte";
  import { prefersReducedMotion } from "svelte/motion";
  import { Toast } from "flowbite-svelte";
  import { t } from "../lib/i18n";
  import Button from "./Button.svelte";
  import { OURS } from "./look";
  import CheckCircleOutline from "flowbite-svelte-icons/CheckCircleOutline.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import ExclamationCircleOutline from "flowbite-svelte-icons/ExclamationCircleOutline.svelte";

  /** What was just done, or did not work, with what can be done about it. Its reader is the live region that it stands in. */
  let {
    wrong = false,
    onclose,
    act,
    children,
  }: { wrong?: boolean; onclose: () => void; act?: Snippet; children: Snippet } = $props();
</script>

<Toast
  role={undefined}
  dismissable={false}
  align={false}
  color={OURS}
  params={{ duration: prefersReducedMotion.current ? 0 : 120, y: 12 }}
  class="max-w-lg rounded-md border bg-sheet px-4 py-3 text-ink shadow-lg dark:bg-sheet dark:text-ink"
  classes={{ icon: "size-6 bg-transparent", content: "text-base text-ink" }}
>
  {#snippet icon()}
    {#if wrong}<ExclamationCircleOutline class="text-straw" aria-hidden={true} />
    {:else}<CheckCircleOutline class="text-hedge" aria-hidden={true} />{/if}
  {/snippet}
  <div class="flex items-start gap-3">
    <div class="min-w-0 flex-1">{@render children()}</div>
    {@render act?.()}
    <Button look="quiet" icon={CloseOutline} label={t("nav.close")} onclick={onclose} />
  </div>
</Toast>
