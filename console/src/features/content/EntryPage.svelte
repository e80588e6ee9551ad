<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import EntryDesk from "./EntryDesk.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { moment } from "../../lib/state/moment.svelte";
  import { entryQuery } from "./queries";
  import { route } from "../../router";

  const params = $derived(route.params as { id: string; locale: string; name?: string });
  const strand = $derived(params.name && !moment.at ? decodeURIComponent(params.name) : "draft");
  const entry = entryQuery(
    () => params.id,
    () => params.locale,
    () => strand,
  );
  const queries = useQueryClient();

  function see(changed: Entry): void {
    queries.setQueryData(["entry", changed.id, changed.locale, changed.strand, moment.at], changed);
  }
</script>

<svelte:head><title>{entry.data?.title || t("list.untitled")} – {t("app.name")}</title></svelte:head>
{#if entry.error && !entry.data}
  <Trouble error={entry.error} again={() => entry.refetch()} />
{:else if !entry.data || entry.data.id !== params.id || entry.data.locale !== params.locale || entry.data.strand !== strand}
  <Waiting lines={8} />
{:else}
  {#key `${params.id}/${params.locale}/${strand}/${moment.at}`}
    <EntryDesk entry={entry.data} onEntry={see} onChange={() => queries.invalidateQueries()} />
  {/key}
{/if}
