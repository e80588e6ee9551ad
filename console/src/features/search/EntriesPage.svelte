<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { createWindowVirtualizer } from "@tanstack/svelte-virtual";
  import { searchParams } from "sv-router";
  import { untrack } from "svelte";
  import { MediaQuery } from "svelte/reactivity";
  import BulkBar from "../content/BulkBar.svelte";
  import StartDialog from "../content/StartDialog.svelte";
  import { t } from "../../lib/i18n";
  import { countQuery, entriesQuery, type Filters } from "./queries";
  import { Kept } from "../../lib/state/kept.svelte";
  import { stageNames } from "../../lib/names";
  import { moment } from "../../lib/state/moment.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import EntryTable, { type Column, type Part } from "./EntryTable.svelte";
  import FilterChips from "./FilterChips.svelte";
  import FilterSentence from "./FilterSentence.svelte";
  import ListView from "./ListView.svelte";
  import SavedLists from "./SavedLists.svelte";
  import { Asking } from "./filters.svelte";

  const USUAL: Column[] = ["type", "language", "rail", "changed", "author", "lacks"];
  /** Lists longer than this are drawn as far as they are in sight. */
  const LONG = 40;
  const asking = new Asking();
  const columns = new Kept<Column[]>("columns", USUAL);
  const density = new Kept<"close" | "wide">("density", "wide");
  const phone = new MediaQuery("max-width: 767px");
  let starting = $state(false);
  let chosen = $state.raw<Set<string>>(new Set());
  $effect(() => {
    if (searchParams.get("start") !== "yes") return;
    starting = session.may("write");
    searchParams.delete("start", undefined, { replace: true });
  });
  // Whoever is led here from elsewhere on the same page asks for something else.
  $effect(() => {
    if (searchParams.get("person")) untrack(() => asking.look());
  });
  $effect(() => {
    void asking.given;
    untrack(() => asking.keep());
  });

  const queries = useQueryClient();
  const page = entriesQuery(() => asking.given);
  const count = countQuery(() => asking.given);
  const lines = $derived(page.data?.pages.flatMap((one) => one.items) ?? []);
  const stages = $derived(stageNames());

  function open(query: Record<string, unknown>): void {
    asking.open(query as Partial<Filters>);
    chosen = new Set();
  }

  let list = $state<HTMLElement>();
  const rows = createWindowVirtualizer<HTMLElement>({ count: 0, estimateSize: () => 60, overscan: 6 });
  $effect(() => {
    const given = { count: lines.length, scrollMargin: list?.offsetTop ?? 0 };
    untrack(() => $rows.setOptions(given));
  });
  const part = $derived.by((): Part | undefined => {
    if (lines.length <= LONG) return undefined;
    const seen = $rows.getVirtualItems();
    const first = seen[0];
    const end = seen.at(-1);
    if (!first || !end) return { from: 0, to: 30, above: 0, below: 0, measure };
    const margin = $rows.options.scrollMargin;
    return {
      from: first.index,
      to: end.index + 1,
      above: first.start - margin,
      below: $rows.getTotalSize() - (end.end - margin),
      measure,
    };
  });
  const measure = (row: HTMLElement) => $rows.measureElement(row);
</script>

<svelte:head><title>{t("list.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-center gap-3">
  <h1 class="text-2xl font-semibold">{t("list.title")}</h1>
  <span class="text-moss" role="status"
    >{count.data
      ? t(count.data.more ? "list.countMore" : "list.count", { count: count.data.count })
      : ""}</span
  >
  <span class="ms-auto flex flex-wrap gap-2">
    <ListView {columns} {density} usual={USUAL} asked={asking.given} />
    {#if session.may("write")}
      <Button href="/entries/import">{t("list.import")}</Button>
      <Button look="main" onclick={() => (starting = true)}>{t("list.start")}</Button>
    {/if}
  </span>
</div>
<SavedLists asked={() => asking.given} onOpen={open} />
{#if phone.current}<FilterChips {asking} {stages} />{:else}<FilterSentence {asking} {stages} />{/if}
{#if page.error && !page.data}
  <Trouble error={page.error} again={() => page.refetch()} />
{:else if !page.data}
  <Waiting lines={8} />
{:else if !lines.length}
  <p class="text-moss">
    {t("list.none")}
    <Button class="ms-2" onclick={() => open({})}>{t("list.clear")}</Button>
  </p>
{:else}
  <div bind:this={list}>
    <EntryTable
      {lines}
      {part}
      label={t("list.title")}
      columns={columns.value}
      dense={density.value === "close"}
      {chosen}
      onChoose={(next) => (chosen = next)}
      sort={asking.filters.sort}
      onSort={asking.filters.words.trim() ? undefined : (sort) => (asking.filters.sort = sort)}
    />
  </div>
  {#if page.hasNextPage}
    <Button class="mt-4" busy={page.isFetchingNextPage} onclick={() => page.fetchNextPage()}
      >{t("list.more")}</Button
    >
  {/if}
{/if}
{#if !moment.at}<BulkBar
    {chosen}
    onDone={() => queries.invalidateQueries()}
    onClear={() => (chosen = new Set())}
  />{/if}
<StartDialog bind:open={starting} />
