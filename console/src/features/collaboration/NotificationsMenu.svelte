<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { t, when } from "../../lib/i18n";
  import { notificationsQuery } from "./queries";
  import { seeAll } from "./seen";
  import Button from "../../ui/Button.svelte";
  import Popover from "../../ui/Popover.svelte";
  import BellOutline from "flowbite-svelte-icons/BellOutline.svelte";

  /** What somebody was told, under a bell in the header. */
  const found = notificationsQuery();
  const queries = useQueryClient();
  const fresh = $derived(found.data?.new ?? 0);
</script>

<Popover label={t("told.label", { count: fresh })} within="w-96">
  {#snippet act()}
    <BellOutline class="size-5" />
    {#if fresh}<span class="font-semibold text-slate">{fresh > 99 ? "99+" : fresh}</span>{/if}
  {/snippet}
  {#snippet children(close)}
    <div class="flex items-center justify-between gap-2 px-2 pb-1">
      <h2 class="font-sans font-semibold">{t("told.title")}</h2>
      {#if fresh}<Button look="link" class="text-sm" onclick={() => seeAll(queries)}
          >{t("told.seeAll")}</Button
        >{/if}
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
  {/snippet}
</Popover>
