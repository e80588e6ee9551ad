<script lang="ts">
  import { searchParams } from "sv-router";
  import SideBySide from "./SideBySide.svelte";
  import SidePicker from "./SidePicker.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { compareQuery, entryQuery } from "./queries";
  import { route } from "../../router";
  import Checkbox from "../../ui/Checkbox.svelte";

  const params = $derived(route.params as { id: string; locale: string });
  const before = $derived(String(searchParams.get("before") ?? "release"));
  const after = $derived(String(searchParams.get("after") ?? "draft"));
  let whole = $state(false);
  const entry = entryQuery(
    () => params.id,
    () => params.locale,
  );
  const found = compareQuery(
    () => params.id,
    () => params.locale,
    () => before,
    () => after,
    () => entry.data?.etag ?? "",
  );
  const totals = $derived.by(() => {
    const parts = (found.data?.fields ?? []).flatMap((field) => field.parts);
    const words = (how: string) =>
      parts
        .flatMap((part) => part.runs)
        .filter((run) => run.how === how)
        .flatMap((run) => run.text.match(/\p{L}+|\p{N}+/gu) ?? []).length;
    return { fields: found.data?.fields.length ?? 0, gone: words("gone"), fresh: words("new") };
  });
</script>

<svelte:head><title>{t("compare.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm">
  <a href="/entries/{params.id}/{params.locale}">{entry.data?.title || t("list.untitled")}</a>
</p>
<h1 class="pb-3 text-2xl font-semibold">{t("compare.title")}</h1>
{#if entry.data}
  <SidePicker entry={entry.data} {before} {after} onChoose={(side, name) => searchParams.set(side, name)} />
{/if}
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={6} />
{:else if !found.data.fields.length}
  <p>{t("compare.same")}</p>
{:else}
  <div class="flex flex-wrap items-center gap-4 pb-3">
    <p class="font-semibold" role="status">
      {t("compare.changes", { count: totals.fields })} · {t("compare.totals", {
        gone: totals.gone,
        fresh: totals.fresh,
      })}
    </p>
    <label class="flex items-center gap-2"><Checkbox bind:checked={whole} />{t("compare.unchanged")}</label>
  </div>
  <SideBySide comparison={found.data} lang={params.locale} {whole} />
{/if}
