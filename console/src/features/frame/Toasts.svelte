<script lang="ts">
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Toast from "../../ui/Toast.svelte";
</script>

<div
  role="status"
  class="pointer-events-none fixed inset-x-3 bottom-3 z-[60] flex flex-col items-end gap-2 *:pointer-events-auto"
  aria-live="polite"
  aria-label={t("toasts.label")}
>
  {#each toasts.list as toast (toast.id)}
    <Toast wrong={toast.wrong} onclose={() => toasts.close(toast.id)}>
      <p class="font-semibold">{toast.text}</p>
      {#if toast.remedy}<p class="text-moss">{toast.remedy}</p>{/if}
      {#snippet act()}
        {#if toast.offer}<Button
            look="main"
            onclick={() => {
              toast.offer?.does();
              toasts.close(toast.id);
            }}>{toast.offer.label}</Button
          >{/if}
      {/snippet}
    </Toast>
  {/each}
</div>
