<script lang="ts">
  import { Problem } from "../api";
  import { t } from "../i18n";
  import type { Sending } from "../state/uploads.svelte";

  let { sending }: { sending: Sending } = $props();
  const percent = $derived(Math.round(sending.part * 100));
  const remedy = $derived(sending.error instanceof Problem ? sending.error.remedy : "");
</script>

<div class="sheet flex flex-wrap items-center gap-3 px-3 py-2">
  <span class="min-w-0 break-words">{sending.name}</span>
  {#if sending.state === "going"}
    <progress class="h-2 flex-1 accent-hedge" max="100" value={percent} aria-label={sending.name}></progress>
    <span class="text-sm text-moss" role="status">{t("files.sent", { percent })}</span>
    <button type="button" class="act" onclick={() => sending.stop()}>{t("files.stop")}</button>
  {:else if sending.state === "stopped"}
    <span class="text-sm text-straw" role="status">{t("files.stopped", { percent })}</span>
    <button type="button" class="act" onclick={() => sending.goOn()}>{t("files.goOn")}</button>
  {:else if sending.state === "refused"}
    <span class="text-sm font-semibold text-straw" role="alert"
      >{sending.error instanceof Error ? sending.error.message : ""} {remedy}</span
    >
  {:else}
    <span class="text-sm text-moss" role="status">{t("files.done")}</span>
  {/if}
</div>
