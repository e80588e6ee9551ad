<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { searchParams } from "sv-router";
  import BulkBar from "../lib/components/BulkBar.svelte";
  import EntryTable from "../lib/components/EntryTable.svelte";
  import SavedLists from "../lib/components/SavedLists.svelte";
  import StartDialog from "../lib/components/StartDialog.svelte";
  import Trouble from "../lib/components/Trouble.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import { t } from "../lib/i18n";
  import { entriesQuery, peopleQuery, tagsQuery, topicsQuery, type Filters } from "../lib/queries";
  import { session } from "../lib/state/session.svelte";

  const blank: Filters = {
    type: "",
    locale: "",
    stage: "",
    person: "",
    words: "",
    topic: "",
    tag: "",
    since: "",
    until: "",
    validity: "",
    incomplete: false,
    behind: false,
    planned: false,
    limit: 30,
  };
  let filters = $state<Filters>({ ...blank });
  let starting = $state(false);
  let more = $state(false);
  let chosen = $state.raw<Set<string>>(new Set());
  $effect(() => {
    if (searchParams.get("start") === "yes") {
      starting = true;
      searchParams.delete("start");
    }
  });
  const queries = useQueryClient();
  const page = entriesQuery(() => ({ ...filters }));
  const people = peopleQuery();
  const topicType = $derived(session.setup?.types.find((type) => type.name === "topic")?.name ?? "");
  const topics = topicsQuery(() => topicType);
  const tags = tagsQuery();
  /** Topics below one another, each with how deep it lies. */
  const tree = $derived.by(() => {
    const items = topics.data?.items ?? [];
    const walk = (parent: string | null, depth: number): ((typeof items)[number] & { depth: number })[] =>
      items
        .filter((one) => (one.parent ?? null) === parent)
        .flatMap((one) => [{ ...one, depth }, ...walk(one.id, depth + 1)]);
    return walk(null, 0);
  });
  const stages = $derived([
    ...new Map(
      (session.setup?.workflows ?? []).flatMap((w) => w.stages.map((s) => [s.name, s.label])),
    ).entries(),
  ]);
  const unusual = $derived(
    [filters.topic, filters.tag, filters.since, filters.until, filters.validity].some(Boolean) ||
      filters.behind ||
      filters.planned,
  );
  const choice =
    "rounded border-0 border-b-2 border-hedge bg-transparent py-0.5 ps-1 pe-7 text-base font-semibold text-hedge";

  function asked(): Record<string, unknown> {
    return Object.fromEntries(
      Object.entries($state.snapshot(filters)).filter(([name, value]) => value && name !== "limit"),
    );
  }

  function open(query: Record<string, unknown>): void {
    filters = { ...blank, ...(query as Partial<Filters>) };
    chosen = new Set();
  }
</script>

<svelte:head><title>{t("list.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-center justify-between gap-3">
  <h1 class="text-2xl font-semibold">{t("list.title")}</h1>
  {#if session.may("write")}
    <button class="act main" onclick={() => (starting = true)}>{t("list.start")}</button>
  {/if}
</div>
<SavedLists {asked} onOpen={open} />
<form class="my-4 flex flex-wrap items-baseline gap-x-2 gap-y-2" onsubmit={(event) => event.preventDefault()}>
  <span>{t("list.sentence")}</span>
  <select class={choice} aria-label={t("list.type")} bind:value={filters.type}>
    <option value="">{t("list.all")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </select>
  <span>{t("list.in")}</span>
  <select class={choice} aria-label={t("start.locale")} bind:value={filters.locale}>
    <option value="">{t(filters.words ? "list.anyLanguage" : "list.source")}</option>
    {#each session.setup?.locales ?? [] as locale (locale.tag)}<option value={locale.tag}
        >{locale.name}</option
      >{/each}
  </select>
  <span>{t("list.at")}</span>
  <select class={choice} aria-label={t("list.at")} bind:value={filters.stage}>
    <option value="">{t("list.anywhere")}</option>
    {#each stages as [name, label] (name)}<option value={name}>{label}</option>{/each}
  </select>
  <span>{t("list.by")}</span>
  <select class={choice} aria-label={t("list.by")} bind:value={filters.person}>
    <option value="">{t("list.anyone")}</option>
    {#each people.data?.items ?? [] as person (person.handle)}<option value={person.handle}
        >{person.name}</option
      >{/each}
  </select>
  <span>{t("list.with")}</span>
  <input
    class="field max-w-64"
    type="search"
    placeholder={t("list.words")}
    aria-label={t("list.words")}
    bind:value={filters.words}
  />
  <label class="flex items-center gap-2 ps-2"
    ><input type="checkbox" class="rounded" bind:checked={filters.incomplete} />{t("list.incomplete")}</label
  >
  <button
    type="button"
    class="act"
    aria-expanded={more || unusual}
    aria-controls="more-filters"
    onclick={() => (more = !more)}>{t("list.narrow")}</button
  >
  {#if Object.keys(asked()).length}
    <button type="button" class="px-2 text-hedge" onclick={() => open({})}>{t("list.clear")}</button>
  {/if}
</form>
{#if more || unusual}
  <form
    id="more-filters"
    class="mb-4 flex flex-wrap items-baseline gap-x-3 gap-y-2"
    onsubmit={(event) => event.preventDefault()}
  >
    {#if topics.data?.items.length}
      <label
        >{t("list.topic")}
        <select class={choice} bind:value={filters.topic}>
          <option value="">{t("list.anything")}</option>
          {#each tree as one (one.id)}<option value={one.id}
              >{"– ".repeat(one.depth)}{one.title} ({one.entries})</option
            >{/each}
        </select></label
      >
    {/if}
    <label class="flex items-baseline gap-2"
      >{t("list.tag")}<input class="field w-36" list="known-tags" bind:value={filters.tag} /><datalist
        id="known-tags"
        >{#each tags.data?.items ?? [] as one (one.tag)}<option value={one.tag}
            >{t("fields.tagUses", { count: one.entries })}</option
          >{/each}</datalist
      ></label
    >
    <label class="flex items-baseline gap-2"
      >{t("list.since")}<input class="field w-40" type="date" bind:value={filters.since} /></label
    >
    <label class="flex items-baseline gap-2"
      >{t("list.until")}<input class="field w-40" type="date" bind:value={filters.until} /></label
    >
    <label
      >{t("list.validity")}
      <select class={choice} bind:value={filters.validity}>
        <option value="">{t("list.validAny")}</option>
        {#each ["ends", "endless", "over"] as one (one)}<option value={one}>{t(`list.valid_${one}`)}</option
          >{/each}
      </select></label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="rounded" bind:checked={filters.behind} />{t("list.behind")}</label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="rounded" bind:checked={filters.planned} />{t("list.planned")}</label
    >
  </form>
{/if}
{#if page.error}
  <Trouble error={page.error} again={() => page.refetch()} />
{:else if !page.data}
  <Waiting lines={8} />
{:else if !page.data.items.length}
  <p class="text-moss">
    {t("list.none")}
    <button class="act ms-2" onclick={() => open({})}>{t("list.clear")}</button>
  </p>
{:else}
  <EntryTable lines={page.data.items} label={t("list.title")} {chosen} onChoose={(next) => (chosen = next)} />
  {#if page.data.next}
    <button class="act mt-4" onclick={() => (filters.limit = Math.min(filters.limit + 30, 200))}
      >{t("list.more")}</button
    >
  {/if}
{/if}
<BulkBar {chosen} onDone={() => queries.invalidateQueries()} onClear={() => (chosen = new Set())} />
<StartDialog bind:open={starting} />
