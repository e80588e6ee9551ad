<script lang="ts">
  import "../messages/setup";
  import { t } from "../lib/i18n";
  import Button from "./Button.svelte";

  /** Goes on to what is older, page by page, and back to the newest. */
  let { cursor = $bindable(), next }: { cursor: string; next: string } = $props();
</script>

<div class="flex gap-2 pt-3">
  {#if cursor}<Button onclick={() => (cursor = "")}>{t("log.newest")}</Button>{/if}
  {#if next}<Button onclick={() => (cursor = next)}>{t("log.older")}</Button>{/if}
</div>
