<script lang="ts">
  import "../../messages/translation";
  import type { ImportResult } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";

  let { found, onHide }: { found: ImportResult; onHide: () => void } = $props();
</script>

<Alert kind={found.refused ? "wrong" : "plain"} role="status">
  <p class="font-semibold">
    {t("jobs.imported", found)}
    {#if found.open}{t("jobs.stillOpen", { count: found.open })}{/if}
  </p>
  {#if found.refused}
    <p class="pt-2">{t("jobs.notTaken", { count: found.refused })}</p>
    <ul class="list-disc ps-5">
      {#each found.problems as one, n (n)}<li>{one.title} · <code>{one.key}</code>: {one.what}</li>{/each}
    </ul>
  {/if}
  {#if found.notes.length}
    <p class="pt-2">{t("jobs.worthKnowing")}</p>
    <ul class="list-disc ps-5">
      {#each found.notes as one, n (n)}<li>{one.title} · <code>{one.key}</code>: {one.what}</li>{/each}
    </ul>
  {/if}
  <Button class="mt-2" onclick={onHide}>{t("jobs.hide")}</Button>
</Alert>
