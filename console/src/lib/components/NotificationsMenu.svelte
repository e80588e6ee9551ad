<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../api";
  import { t, when } from "../i18n";
  import { notificationsQuery } from "../queries";
  import { toasts } from "../state/toasts.svelte";

  /** What somebody was told, under a bell in the header. */
  const found = notificationsQuery();
  const queries = useQueryClient();
  let menu = $state<HTMLDetailsElement>();
  const fresh = $derived(found.data?.new ?? 0);

  async function see(): Promise<void> {
    try {
      const upto = found.data?.items[0]?.id ?? 0;
      await sure(api.POST("/api/notifications/seen", { body: { upto, entry: "" } }));
      await queries.invalidateQueries({ queryKey: ["notifications"] });
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function close(): void {
    if (menu) menu.open = false;
  }
</script>

<svelte:window
  onkeydown={(event) => {
    if (event.key === "Escape" && menu?.open) close();
  }}
/>
<details class="relative" bind:this={menu}>
  <summary class="act list-none" aria-label={t("told.label", { count: fresh })}>
    <svg
      width="18"
      height="18"
      viewBox="0 0 20 20"
      fill="none"
      stroke="currentColor"
      stroke-width="1.6"
      aria-hidden="true"><path d="M4 5h12v9H9l-4 3v-3H4z" /></svg
    >
    {#if fresh}<span class="font-semibold text-slate">{fresh > 99 ? "99+" : fresh}</span>{/if}
  </summary>
  <div class="sheet absolute end-0 z-40 mt-1 max-h-[70vh] w-96 max-w-[90vw] overflow-y-auto p-2 shadow-lg">
    <div class="flex items-center justify-between gap-2 px-2 pb-1">
      <h2 class="font-sans font-semibold">{t("told.title")}</h2>
      {#if fresh}<button class="text-sm text-hedge underline" onclick={see}>{t("told.seeAll")}</button>{/if}
    </div>
    <ul>
      {#each found.data?.items ?? [] as one (one.id)}
        <li class="rounded px-2 py-1.5 hover:bg-wash {one.new ? 'border-s-3 border-s-slate' : ''}">
          <a href={one.path} class={one.new ? "font-semibold" : ""} onclick={close}>{one.says}</a>
          <p class="text-sm text-moss">
            {#if one.new}<span class="sr-only">{t("told.new")}</span>{/if}{one.by} · {when(one.at)}
          </p>
        </li>
      {:else}
        <li class="px-2 py-2 text-moss">{t("told.none")}</li>
      {/each}
    </ul>
    <p class="border-t px-2 pt-2 text-sm"><a href="/account" onclick={close}>{t("told.choose")}</a></p>
  </div>
</details>
