<script lang="ts">
  import { searchParams } from "sv-router";
  import EntryTable from "../lib/components/EntryTable.svelte";
  import StartDialog from "../lib/components/StartDialog.svelte";
  import Trouble from "../lib/components/Trouble.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import { t } from "../lib/i18n";
  import { entriesQuery, peopleQuery, type Filters } from "../lib/queries";
  import { session } from "../lib/state/session.svelte";

  const blank: Filters = {
    type: "",
    locale: "",
    stage: "",
    person: "",
    words: "",
    incomplete: false,
    limit: 30,
  };
  let filters = $state<Filters>({ ...blank });
  let starting = $state(false);
  $effect(() => {
    if (searchParams.get("start") === "yes") {
      starting = true;
      searchParams.delete("start");
    }
  });
  const page = entriesQuery(() => ({ ...filters }));
  const people = peopleQuery();
  const stages = $derived([
    ...new Map(
      (session.setup?.workflows ?? []).flatMap((w) => w.stages.map((s) => [s.name, s.label])),
    ).entries(),
  ]);
  const choice =
    "rounded border-0 border-b-2 border-hedge bg-transparent py-0.5 ps-1 pe-7 text-base font-semibold text-hedge";
</script>

<svelte:head><title>{t("list.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-center justify-between gap-3">
  <h1 class="text-2xl font-semibold">{t("list.title")}</h1>
  {#if session.may("write")}
    <button class="act main" onclick={() => (starting = true)}>{t("list.start")}</button>
  {/if}
</div>
<form class="my-4 flex flex-wrap items-baseline gap-x-2 gap-y-2" onsubmit={(event) => event.preventDefault()}>
  <span>{t("list.sentence")}</span>
  <select class={choice} aria-label={t("list.type")} bind:value={filters.type}>
    <option value="">{t("list.all")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </select>
  <span>{t("list.in")}</span>
  <select class={choice} aria-label={t("start.locale")} bind:value={filters.locale}>
    <option value="">{t("list.source")}</option>
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
  <label class="flex items-center gap-2 ps-2"
    ><input type="checkbox" class="rounded" bind:checked={filters.incomplete} />{t("list.incomplete")}</label
  >
  <input
    class="field max-w-64"
    type="search"
    placeholder={t("list.words")}
    aria-label={t("list.words")}
    bind:value={filters.words}
  />
</form>
{#if page.error}
  <Trouble error={page.error} again={() => page.refetch()} />
{:else if !page.data}
  <Waiting lines={8} />
{:else if !page.data.items.length}
  <p class="text-moss">
    {t("list.none")}
    <button class="act ms-2" onclick={() => (filters = { ...blank })}>{t("list.clear")}</button>
  </p>
{:else}
  <EntryTable lines={page.data.items} label={t("list.title")} />
  {#if page.data.next}
    <button class="act mt-4" onclick={() => (filters.limit = Math.min(filters.limit + 30, 200))}
      >{t("list.more")}</button
    >
  {/if}
{/if}
<StartDialog bind:open={starting} />
