<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { t, when } from "../../lib/i18n";
  import { notificationsQuery } from "../collaboration/queries";
  import { seeAll } from "../collaboration/seen";
  import Button from "../../ui/Button.svelte";

  /** What somebody was told and has not seen yet, the newest first. */
  const MOST = 6;
  const found = notificationsQuery();
  const queries = useQueryClient();
  const fresh = $derived((found.data?.items ?? []).filter((one) => one.new));
</script>

<section aria-labelledby="said">
  <div class="mb-2 flex items-center justify-between gap-2">
    <h2 id="said" class="text-lg font-semibold">{t("myWork.said")}</h2>
    {#if fresh.length}<Button look="link" class="text-sm" onclick={() => seeAll(queries)}
        >{t("told.seeAll")}</Button
      >{/if}
  </div>
  <ul class="flex flex-col gap-1.5">
    {#each fresh.slice(0, MOST) as one (one.id)}
      <li class="border-s-3 border-s-slate ps-2">
        <a class="underline" href={one.path}>{one.says}</a>
        <span class="text-sm text-moss">{one.by} · {when(one.at)}</span>
      </li>
    {:else}<li class="text-moss">{t("myWork.saidNone")}</li>{/each}
  </ul>
  {#if fresh.length > MOST}<p class="pt-1 text-sm text-moss">
      {t("myWork.saidMore", { count: fresh.length - MOST })}
    </p>{/if}
</section>
