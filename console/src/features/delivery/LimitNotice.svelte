<script lang="ts">
  import "../../messages/release";
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";

  /** That not everybody reads an entry while it is out, and where that is changed. */
  let { entry }: { entry: Entry } = $props();
  let asking = $state(false);
  const audiences = $derived(entry.limit.audiences.join(", "));
</script>

<Alert>
  <span class="flex flex-wrap items-center gap-3"
    >{audiences ? t(`limit.notice_${entry.limit.way}`, { audiences }) : t(`limit.alone_${entry.limit.way}`)}
    {#if session.may("release")}<Button onclick={() => (asking = true)}>{t("limit.change")}</Button
      >{/if}</span
  >
</Alert>
{#if asking}
  {#await import("./LimitDialog.svelte") then { default: LimitDialog }}
    <LimitDialog {entry} onClose={() => (asking = false)} />
  {/await}
{/if}
