<script lang="ts">
  import { Problem } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import type { Sending } from "../../lib/state/uploads.svelte";
  import Button from "../../ui/Button.svelte";
  import Progress from "../../ui/Progress.svelte";

  let { sending }: { sending: Sending } = $props();
  const percent = $derived(Math.round(sending.part * 100));
  const remedy = $derived(sending.error instanceof Problem ? sending.error.remedy : "");
</script>

<div class="sheet flex flex-wrap items-center gap-3 px-3 py-2">
  <span class="min-w-0 break-words">{sending.name}</span>
  {#if sending.state === "going"}
    <Progress class="w-auto flex-1" value={percent} label={sending.name} />
    <span class="text-sm text-moss" role="status">{t("files.sent", { percent })}</span>
    <Button onclick={() => sending.stop()}>{t("files.stop")}</Button>
  {:else if sending.state === "stopped"}
    <span class="text-sm text-straw" role="status">{t("files.stopped", { percent })}</span>
    <Button onclick={() => sending.goOn()}>{t("files.goOn")}</Button>
  {:else if sending.state === "refused"}
    <span class="text-sm font-semibold text-straw" role="alert"
      >{sending.error instanceof Error ? sending.error.message : ""} {remedy}</span
    >
  {:else}
    <span class="text-sm text-moss" role="status">{t("files.done")}</span>
  {/if}
</div>
