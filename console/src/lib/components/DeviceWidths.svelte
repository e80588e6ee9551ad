<script lang="ts">
  import { t } from "../i18n";

  let { width = $bindable() }: { width: number } = $props();
  const widths = [
    { key: "desktop", px: 1280 },
    { key: "tablet", px: 820 },
    { key: "phone", px: 390 },
  ] as const;
</script>

<div role="group" aria-label={t("preview.width")} class="flex">
  {#each widths as one (one.key)}
    <button
      type="button"
      class="act rounded-none! first:rounded-s! last:rounded-e!"
      aria-pressed={width === one.px}
      title={t(`preview.${one.key}`)}
      onclick={() => (width = one.px)}
      ><span aria-hidden="true"
        ><svg width="16" height="16" viewBox="0 0 16 16" fill="none" stroke="currentColor" stroke-width="1.5"
          >{#if one.key === "desktop"}<path
              d="M1.5 3h13v8h-13zM5 14h6M8 11v3"
            />{:else if one.key === "tablet"}<path d="M3.5 1.5h9v13h-9zM7 12.5h2" />{:else}<path
              d="M5 1.5h6v13H5zM7.5 12.5h1"
            />{/if}</svg
        ></span
      ><span class="sr-only">{t(`preview.${one.key}`)}</span></button
    >
  {/each}
</div>
