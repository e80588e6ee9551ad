<script lang="ts">
  import { t } from "../../lib/i18n";
  import { peopleQuery } from "../access/queries";
  import { tagsQuery, listTopicsQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import type { Asking } from "./filters.svelte";

  /** What a list asks for, as a sentence of which each word can be changed. */
  let { asking, stages }: { asking: Asking; stages: Map<string, string> } = $props();
  let more = $state(false);
  const people = peopleQuery();
  const topics = listTopicsQuery();
  const tags = tagsQuery();
  const filters = $derived(asking.filters);
  const unusual = $derived(
    [filters.topic, filters.tag, filters.since, filters.until, filters.validity, filters.archived].some(
      Boolean,
    ) ||
      filters.behind ||
      filters.planned,
  );
  /** Topics below one another, each with how deep it lies. */
  const tree = $derived.by(() => {
    const items = topics.data?.items ?? [];
    const walk = (parent: string | null, depth: number): ((typeof items)[number] & { depth: number })[] =>
      items
        .filter((one) => (one.parent ?? null) === parent)
        .flatMap((one) => [{ ...one, depth }, ...walk(one.id, depth + 1)]);
    return walk(null, 0);
  });
</script>

<form class="my-4 flex flex-wrap items-baseline gap-x-2 gap-y-2" onsubmit={(event) => event.preventDefault()}>
  <span>{t("list.sentence")}</span>
  <Select inline aria-label={t("list.type")} bind:value={asking.filters.type}>
    <option value="">{t("list.all")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </Select>
  <span>{t("list.in")}</span>
  <Select inline aria-label={t("start.locale")} bind:value={asking.filters.locale}>
    <option value="">{t(filters.words ? "list.anyLanguage" : "list.source")}</option>
    {#each session.setup?.locales ?? [] as locale (locale.tag)}<option value={locale.tag}
        >{locale.name}</option
      >{/each}
  </Select>
  <span>{t("list.at")}</span>
  <Select inline aria-label={t("list.at")} bind:value={asking.filters.stage}>
    <option value="">{t("list.anywhere")}</option>
    {#each stages as [name, label] (name)}<option value={name}>{label}</option>{/each}
  </Select>
  <span>{t("list.by")}</span>
  <Select inline aria-label={t("list.by")} bind:value={asking.filters.person}>
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
    bind:value={asking.filters.words}
  />
  <label class="flex items-center gap-2 ps-2"
    ><Checkbox bind:checked={asking.filters.incomplete} />{t("list.incomplete")}</label
  >
  <Button aria-expanded={more || unusual} aria-controls="more-filters" onclick={() => (more = !more)}
    >{t("list.narrow")}</Button
  >
  {#if Object.keys(asking.given).length}
    <Button look="quiet" class="px-2 text-hedge" onclick={() => asking.open({})}>{t("list.clear")}</Button>
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
        <Select inline bind:value={asking.filters.topic}>
          <option value="">{t("list.anything")}</option>
          {#each tree as one (one.id)}<option value={one.id}
              >{"– ".repeat(one.depth)}{one.title} ({one.entries})</option
            >{/each}
        </Select></label
      >
    {/if}
    <label class="flex items-baseline gap-2"
      >{t("list.tag")}<Input class="w-36!" list="known-tags" bind:value={asking.filters.tag} /><datalist
        id="known-tags"
        >{#each tags.data?.items ?? [] as one (one.tag)}<option value={one.tag}
            >{t("fields.tagUses", { count: one.entries })}</option
          >{/each}</datalist
      ></label
    >
    <DateField label={t("list.since")} bind:value={asking.filters.since} />
    <DateField label={t("list.until")} bind:value={asking.filters.until} />
    <label
      >{t("list.validity")}
      <Select inline bind:value={asking.filters.validity}>
        <option value="">{t("list.validAny")}</option>
        {#each ["ends", "endless", "over"] as one (one)}<option value={one}>{t(`list.valid_${one}`)}</option
          >{/each}
      </Select></label
    >
    <label
      >{t("list.archived")}
      <Select inline bind:value={asking.filters.archived}>
        <option value="">{t("list.archivedNot")}</option>
        {#each ["with", "only"] as one (one)}<option value={one}>{t(`list.archived_${one}`)}</option>{/each}
      </Select></label
    >
    <label class="flex items-center gap-2"
      ><Checkbox bind:checked={asking.filters.behind} />{t("list.behind")}</label
    >
    <label class="flex items-center gap-2"
      ><Checkbox bind:checked={asking.filters.planned} />{t("list.planned")}</label
    >
  </form>
{/if}
