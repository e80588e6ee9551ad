<script lang="ts">
  import "../../messages/setup";
  import type { Person } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { within } from "../../lib/words";
  import AnyOf from "../../ui/AnyOf.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";

  interface Props {
    people: Person[];
    roles: { name: string; label: string }[];
    onEdit?: (person: Person) => void;
  }
  /** Everybody with their roles; where they are many, found by what is typed and by role. */
  let { people, roles, onEdit }: Props = $props();
  /** From so many on they are looked for rather than read. */
  const MANY = 8;
  const AT_ONCE = 60;
  let words = $state("");
  let role = $state("");
  let shown = $state(AT_ONCE);
  const wanted = $derived(
    people.filter(
      (one) =>
        (!role || one.roles.some((held) => held.name === role)) &&
        within(`${one.name} ${one.handle} ${said(one)}`, words),
    ),
  );

  function said(person: Person): string {
    return person.roles
      .map((one) => {
        const where = [...(one.locales ?? []), ...(one.sections?.length ? [t("people.someSections")] : [])];
        return where.length ? `${one.label} (${where.join(", ")})` : one.label;
      })
      .join(", ");
  }
</script>

{#if people.length > MANY}
  <fieldset class="flex flex-wrap items-end gap-3 pb-3">
    <legend class="sr-only">{t("people.narrow")}</legend>
    <label class="flex flex-col text-sm"
      >{t("people.find")}<Input class="w-56!" type="search" bind:value={words} /></label
    >
    <AnyOf
      label={t("people.byRole")}
      bind:value={role}
      options={roles.map((one) => [one.name, one.label] as const)}
    />
    <p class="pb-1.5 text-sm text-moss" role="status">
      {words.trim() || role ? t("people.found", { some: wanted.length, all: people.length }) : ""}
    </p>
  </fieldset>
{/if}
<ul class="grid gap-2 lg:grid-cols-2" aria-label={t("people.list")}>
  {#each wanted.slice(0, shown) as person (person.handle)}
    <li class="sheet flex flex-wrap items-center gap-3 px-4 py-2">
      <div class="min-w-0 flex-1 basis-56">
        <p class="font-semibold">
          {person.name} <span class="text-sm font-normal text-moss">@{person.handle}</span>
          {#if person.state}<span class="text-sm text-straw">{t(`people.state_${person.state}`)}</span>{/if}
          {#if person.connected}<span class="text-sm font-normal text-moss">{t("people.connected")}</span
            >{/if}
        </p>
        <p class="text-sm text-moss">{said(person) || t("people.noRole")}</p>
      </div>
      {#if onEdit}<Button aria-label={t("people.edit", { name: person.name })} onclick={() => onEdit(person)}
          >{t("people.change")}</Button
        >{/if}
    </li>
  {/each}
</ul>
{#if !wanted.length}<p class="text-moss">{t("people.nobody")}</p>{/if}
{#if wanted.length > shown}<Button class="mt-2" onclick={() => (shown += AT_ONCE)}>{t("people.more")}</Button
  >{/if}
