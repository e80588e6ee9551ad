<script lang="ts">
  import { t } from "../i18n";
  import { notices } from "../state/notices.svelte";
</script>

<div class="fixed inset-x-3 bottom-3 z-[60] flex flex-col items-end gap-2" aria-live="polite" role="status">
  {#each notices.list as notice (notice.id)}
    <div
      class="sheet flex max-w-lg items-start gap-3 px-4 py-3 shadow-lg {notice.wrong
        ? 'border-s-4 border-s-straw'
        : 'border-s-4 border-s-hedge'}"
    >
      <div>
        <p class="font-semibold">{notice.text}</p>
        {#if notice.remedy}<p class="text-moss">{notice.remedy}</p>{/if}
      </div>
      {#if notice.offer}<button
          class="act main"
          onclick={() => {
            notice.offer?.does();
            notices.close(notice.id);
          }}>{notice.offer.label}</button
        >{/if}
      <button class="act" onclick={() => notices.close(notice.id)}>{t("nav.close")}</button>
    </div>
  {/each}
</div>
