<script lang="ts">
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
</script>

<div class="fixed inset-x-3 bottom-3 z-[60] flex flex-col items-end gap-2" aria-live="polite" role="status">
  {#each toasts.list as toast (toast.id)}
    <div
      class="sheet flex max-w-lg items-start gap-3 px-4 py-3 shadow-lg {toast.wrong
        ? 'border-s-4 border-s-straw'
        : 'border-s-4 border-s-hedge'}"
    >
      <div>
        <p class="font-semibold">{toast.text}</p>
        {#if toast.remedy}<p class="text-moss">{toast.remedy}</p>{/if}
      </div>
      {#if toast.offer}<Button
          look="main"
          onclick={() => {
            toast.offer?.does();
            toasts.close(toast.id);
          }}>{toast.offer.label}</Button
        >{/if}
      <Button onclick={() => toasts.close(toast.id)}>{t("nav.close")}</Button>
    </div>
  {/each}
</div>
