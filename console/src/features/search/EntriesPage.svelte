<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { searchParams } from "sv-router";
  import BulkBar from "../content/BulkBar.svelte";
  import EntryTable from "./EntryTable.svelte";
  import SavedLists from "./SavedLists.svelte";
  import StartDialog from "../content/StartDialog.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { entriesQuery, peopleQuery, tagsQuery, topicsQuery, type Filters } from "../../lib/queries";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import DateField from "../../ui/DateField.svelte";

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
    <Button look="main" onclick={() => (starting = true)}>{t("list.start")}</Button>
  {/if}
</div>
<SavedLists {asked} onOpen={open} />
<form class="my-4 flex flex-wrap items-baseline gap-x-2 gap-y-2" onsubmit={(event) => event.preventDefault()}>
  <span>{t("list.sentence")}</span>
  <Select inline aria-label={t("list.type")} bind:value={filters.type}>
    <option value="">{t("list.all")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </Select>
  <span>{t("list.in")}</span>
  <Select inline aria-label={t("start.locale")} bind:value={filters.locale}>
    <option value="">{t(filters.words ? "list.anyLanguage" : "list.source")}</option>
    {#each session.setup?.locales ?? [] as locale (locale.tag)}<option value={locale.tag}
        >{locale.name}</option
      >{/each}
  </Select>
  <span>{t("list.at")}</span>
  <Select inline aria-label={t("list.at")} bind:value={filters.stage}>
    <option value="">{t("list.anywhere")}</option>
    {#each stages as [name, label] (name)}<option value={name}>{label}</option>{/each}
  </Select>
  <span>{t("list.by")}</span>
  <Select inline aria-label={t("list.by")} bind:value={filters.person}>
    <option value="">{t("list.anyone")}</option>
    {#each people.data?.items ?? [] as person (person.handle)}<option value={person.handle}
        >{person.name}</option
      >{/each}
  </Select>
  <span>{t("list.with")}</span>
  <Input
    class="max-w-64!"
    type="search"
    placeholder={t("list.words")}
    aria-label={t("list.words")}
    bind:value={filters.words}
  />
  <label class="flex items-center gap-2 ps-2"
    ><Checkbox bind:checked={filters.incomplete} />{t("list.incomplete")}</label
  >
  <Button aria-expanded={more || unusual} aria-controls="more-filters" onclick={() => (more = !more)}
    >{t("list.narrow")}</Button
  >
  {#if Object.keys(asked()).length}
    <Button look="quiet" class="px-2 text-hedge" onclick={() => open({})}>{t("list.clear")}</Button>
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
        <Select inline bind:value={filters.topic}>
          <option value="">{t("list.anything")}</option>
          {#each tree as one (one.id)}<option value={one.id}
              >{"– ".repeat(one.depth)}{one.title} ({one.entries})</option
            >{/each}
        </Select></label
      >
    {/if}
    <label class="flex items-baseline gap-2"
      >{t("list.tag")}<Input class="w-36!" list="known-tags" bind:value={filters.tag} /><datalist
        id="known-tags"
        >{#each tags.data?.items ?? [] as one (one.tag)}<option value={one.tag}
            >{t("fields.tagUses", { count: one.entries })}</option
          >{/each}</datalist
      ></label
    >
    <DateField label={t("list.since")} bind:value={filters.since} />
    <DateField label={t("list.until")} bind:value={filters.until} />
    <label
      >{t("list.validity")}
      <Select inline bind:value={filters.validity}>
        <option value="">{t("list.validAny")}</option>
        {#each ["ends", "endless", "over"] as one (one)}<option value={one}>{t(`list.valid_${one}`)}</option
          >{/each}
      </Select></label
    >
    <label class="flex items-center gap-2"><Checkbox bind:checked={filters.behind} />{t("list.behind")}</label
    >
    <label class="flex items-center gap-2"
      ><Checkbox bind:checked={filters.planned} />{t("list.planned")}</label
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
    <Button class="ms-2" onclick={() => open({})}>{t("list.clear")}</Button>
  </p>
{:else}
  <EntryTable lines={page.data.items} label={t("list.title")} {chosen} onChoose={(next) => (chosen = next)} />
  {#if page.data.next}
    <Button class="mt-4" onclick={() => (filters.limit = Math.min(filters.limit + 30, 200))}
      >{t("list.more")}</Button
    >
  {/if}
{/if}
<BulkBar {chosen} onDone={() => queries.invalidateQueries()} onClear={() => (chosen = new Set())} />
<StartDialog bind:open={starting} />
