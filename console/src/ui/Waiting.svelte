<script lang="ts">
  import { t } from "../lib/i18n";
  let { lines = 5 }: { lines?: number } = $props();
</script>

<div role="status" aria-label={t("app.loading")} class="flex flex-col gap-3">
  {#each Array.from({ length: lines }, (_, n) => n) as n (n)}<div class="h-9 rounded bg-wash"></div>{/each}
</div>
